"""A fault of the program is a page too: in our look, with a number that stands in the log, with what was
typed, and a way back.
"""

from __future__ import annotations

import logging
import uuid

from starlette.requests import Request
from starlette.responses import Response

from anvilsong.core.errors import AnvilsongError
from anvilsong.core.said import in_units
from anvilsong.core.words import sentence
from anvilsong.store.faults import store_fault
from anvilsong.web.asgi import App, Message, Receive, Scope, Send
from anvilsong.web.errors import answer

log = logging.getLogger("anvilsong")
STATUS = {"busy": 503, "full": 507, "read_only": 503, "damaged": 503, "clash": 409, "away": 503, "other": 503}


class FaultGuard:
    """Turns what nobody caught into an answer; the connection and the server go on."""

    def __init__(self, app: App) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        started = False

        async def noticing(message: Message) -> None:
            nonlocal started
            started = True
            await send(message)

        try:
            await self.app(scope, receive, noticing)
        except Exception as error:
            if started or scope["type"] != "http" or type(error).__module__ == "anvilsong.web.guard.bodies":
                raise
            await told(Request(scope), error)(scope, receive, send)


def told(request: Request, error: Exception) -> Response:
    """The answer to an error that no page handled."""
    fault = store_fault(error)
    if fault is not None:
        log.warning("%s %s: %s (%s)", request.method, request.url.path, in_units(fault.title), error)
        response = answer(request, STATUS[fault.kind], fault.title, fault.said)
        if fault.kind in ("busy", "away"):
            response.headers["retry-after"] = "2"
        return response
    if isinstance(error, AnvilsongError):
        return answer(request, 503, "Not now", error.words)
    number = uuid.uuid4().hex[:8]
    log.error("Fault %s at %s %s", number, request.method, request.url.path, exc_info=error)
    detail = sentence("web.fault_program_not_yours", number=number)
    return answer(request, 500, "This did not work", detail)
