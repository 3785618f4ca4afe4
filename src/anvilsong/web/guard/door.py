"""On the shop's network nothing is shown, told or taken before somebody came in with the passphrase; and of
every request that may write it is known who sent it.
"""

from __future__ import annotations

from urllib.parse import quote, unquote, urlsplit

from starlette.requests import HTTPConnection, Request
from starlette.responses import RedirectResponse, Response

from anvilsong.core.words import sentence
from anvilsong.web.asgi import STAYS, VISIT, WRITES, App, Receive, Scope, Send, header
from anvilsong.web.door import Keeper, Visit
from anvilsong.web.door.visits import MOST_LETTERS, VISIT_COOKIE, WHO_COOKIE
from anvilsong.web.errors import problem_json, wants_page
from anvilsong.web.who import by

# What a browser needs to ask for the passphrase; nothing of the shop is in it.
OPEN = frozenset({"/enter", "/healthz", "/manifest.webmanifest", "/worker.js"})


class DoorGuard:
    """Lets in who came in before; sends everybody else to where the passphrase is asked for.

    ``keeper`` is None on a machine that serves only itself: everybody there is in.
    """

    def __init__(self, app: App, keeper: Keeper | None) -> None:
        self.app, self.keeper = app, keeper

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] == "websocket":
            scope[VISIT] = self._visit(scope)
            if scope[VISIT] is None:
                await send({"type": "websocket.close", "code": 1008})
                return
            scope[STAYS] = lambda: self._visit(scope) is not None
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        scope[VISIT] = visit = self._visit(scope)
        if visit is None and not is_open(scope["path"]):
            await self._sent_away(Request(scope))(scope, receive, send)
            return
        if scope["method"] in WRITES:
            with by(scope, visit.who if visit else ""):
                await self.app(scope, receive, send)
            return
        await self.app(scope, receive, send)

    def _visit(self, scope: Scope) -> Visit | None:
        cookies = HTTPConnection(scope).cookies if header(scope, b"cookie") else {}
        if self.keeper is None:
            return Visit("", unquote(cookies.get(WHO_COOKIE, ""))[:MOST_LETTERS])
        visits = self.keeper.visits()
        return visits.read(cookies[VISIT_COOKIE]) if visits and VISIT_COOKIE in cookies else None

    def _sent_away(self, request: Request) -> Response:
        if not wants_page(request):
            return problem_json(401, "Not in yet", sentence("web.come_in_first"))
        return RedirectResponse(f"/enter?next={quote(_asked_for(request), safe='')}", 303)


def is_open(path: str) -> bool:
    """Whether a path is served to everybody."""
    return path.startswith("/static/") or path in OPEN


def _asked_for(request: Request) -> str:
    """Where to go once in: the page that was asked for, or the page of the form that was sent."""
    if request.method == "GET":
        return request.url.path + (f"?{request.url.query}" if request.url.query else "")
    came = urlsplit(request.headers.get("referer", ""))
    return came.path if came.netloc == request.headers.get("host") and came.path.startswith("/") else "/"
