"""What is sent comes in whole, within a size and a time, before anything is done with it."""

from __future__ import annotations

import asyncio
import re

from starlette.requests import Request

from anvilsong.core.said import Words
from anvilsong.core.words import sentence
from anvilsong.instruments.limits import (
    AROUND_BYTES,
    BACKUP_BYTES,
    EXPORT_BYTES,
    FORM_BYTES,
    OUTLINE_BYTES,
    PICTURE_BYTES,
    SHEET_BYTES,
    SOUND_BYTES,
    TRACE_BYTES,
)
from anvilsong.web.asgi import BODY, WRITES, App, Message, Receive, Scope, Send, header
from anvilsong.web.errors import answer

# Files have limits of their own, and are handed on as they come.
FILES: tuple[tuple[re.Pattern[str], int], ...] = (
    (re.compile(r"^/jobs/\d+/photographs$"), PICTURE_BYTES + AROUND_BYTES),
    (re.compile(r"^/jobs/\d+/part/outline$"), OUTLINE_BYTES + AROUND_BYTES),
    (re.compile(r"^/shop/machines/\d+/trace$"), TRACE_BYTES + AROUND_BYTES),
    (re.compile(r"^/shop/machines/\d+/sound$"), SOUND_BYTES + AROUND_BYTES),
    (re.compile(r"^/book/import$"), EXPORT_BYTES),
    (re.compile(r"^/book/sheet$"), SHEET_BYTES + AROUND_BYTES),
    (re.compile(r"^/book/restore$"), BACKUP_BYTES),
)


class _TooMuch(Exception):
    pass


class _TooSlow(Exception):
    pass


class BodyGuard:
    """Reads the body of a request, or refuses it: 413 when it is too large, 408 when it does not come in
    whole in time.
    """

    def __init__(self, app: App, seconds: float) -> None:
        self.app, self.seconds = app, seconds

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or scope["method"] not in WRITES:
            await self.app(scope, receive, send)
            return
        limit = next((most for pattern, most in FILES if pattern.match(scope["path"])), None)
        try:
            length = header(scope, b"content-length")
            if length.isascii() and length.isdecimal() and int(length[:20]) > (limit or FORM_BYTES):
                raise _TooMuch
            if limit is not None:
                await self.app(scope, self._counted(receive, limit), send)
                return
            body = await self._whole(receive)
            if body is None:
                return  # who sent it is gone
            if "form-urlencoded" in header(scope, b"content-type"):
                scope[BODY] = body
            await self.app(scope, _replayed(body, receive), send)
        except _TooMuch:
            most = (limit or FORM_BYTES) / 1e6
            await _refused(
                scope,
                receive,
                send,
                413,
                "Too much at once",
                sentence("web.most_mb_can_sent", most=most),
            )
        except _TooSlow:
            await _refused(
                scope,
                receive,
                send,
                408,
                sentence("web.did_not_come"),
                sentence("web.request_did_not_come", seconds=self.seconds),
            )

    async def _whole(self, receive: Receive) -> bytes | None:
        body = bytearray()
        try:
            async with asyncio.timeout(self.seconds):
                while True:
                    message = await receive()
                    if message["type"] == "http.disconnect":
                        return None
                    body += message.get("body", b"")
                    if len(body) > FORM_BYTES:
                        raise _TooMuch
                    if not message.get("more_body", False):
                        return bytes(body)
        except TimeoutError:
            raise _TooSlow from None

    def _counted(self, receive: Receive, limit: int) -> Receive:
        """A file as it comes: counted, and each piece within the time."""
        so_far = 0

        async def counting() -> Message:
            nonlocal so_far
            try:
                async with asyncio.timeout(self.seconds):
                    message = await receive()
            except TimeoutError:
                raise _TooSlow from None
            so_far += len(message.get("body", b""))
            if so_far > limit:
                raise _TooMuch
            return message

        return counting


def _replayed(body: bytes, receive: Receive) -> Receive:
    given = False

    async def replaying() -> Message:
        nonlocal given
        if given:
            return await receive()
        given = True
        return {"type": "http.request", "body": body, "more_body": False}

    return replaying


async def _refused(
    scope: Scope, receive: Receive, send: Send, status: int, title: Words, detail: Words
) -> None:
    response = answer(Request(scope), status, title, detail)
    response.headers["connection"] = "close"  # what is still on its way is not read
    await response(scope, receive, send)
