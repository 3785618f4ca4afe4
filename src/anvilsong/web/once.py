"""A form that is sent twice is stored once, and a form of another book is not stored at all.

Every form that writes carries two hidden fields: ``uid``, which names the page it stood on, and ``book``,
which names the book it was filled from. The same page with the same content, sent again by a double tap or
after a silence, gets the answer of the first time. The same page with *other* content, as after a step back
in the browser, is another form: it is stored too, and that is said. A mark of what was sent is stored in the
transaction of what it stores, so that a stopped server changes nothing in this.
"""

from __future__ import annotations

import asyncio
import hashlib
from collections import OrderedDict
from collections.abc import Callable, Coroutine
from contextlib import suppress
from contextvars import ContextVar
from dataclasses import dataclass, field
from typing import Any

from fastapi import APIRouter
from fastapi.routing import APIRoute
from sqlalchemy.orm import Session
from starlette.concurrency import run_in_threadpool
from starlette.datastructures import FormData, UploadFile
from starlette.requests import Request
from starlette.responses import RedirectResponse, Response

from anvilsong.core.words import sentence
from anvilsong.store.database import Sessions, generation_of
from anvilsong.store.sent import BookReplaced, SentBefore, marks_sent, note_sent
from anvilsong.web.asgi import WRITES
from anvilsong.web.errors import answer, way_back
from anvilsong.web.frame import also_said, read_in_units_of, see_other, units
from anvilsong.web.requests import MOST_FIELDS, MOST_FILES, uid_of

MOST_REMEMBERED = 1000
OTHER_CONTENT = sentence("web.page_had_been_sent")
STORED_BEFORE = sentence("web.was_stored_already_before")
REPLACED = sentence("web.backup_took_place_logbook")


@dataclass
class Sent:
    """One form on its way: where it stood, what it says, and which book it was filled from."""

    uid: str
    mark: str
    generation: int | None
    is_noted: bool = False


_SENT: ContextVar[Sent | None] = ContextVar("sent", default=None)


def before_commit(session: Session) -> None:
    """The form that is being stored is noted in the same transaction, once.

    Raises
    ------
    SentBefore : it was stored a moment ago
    BookReplaced : it was filled from another book
    """
    sent = _SENT.get()
    if sent is None:
        return
    if sent.generation not in (None, generation_of(session.connection())):
        raise BookReplaced
    if not sent.is_noted:
        note_sent(session, sent.uid, sent.mark)
        sent.is_noted = True


@dataclass
class Answers:
    """What this server answered to the last forms, and those that are still being worked on."""

    given: OrderedDict[str, list[tuple[bytes, bytes]]] = field(default_factory=OrderedDict)
    under_way: dict[str, asyncio.Event] = field(default_factory=dict)

    def keep(self, mark: str, response: Response) -> None:
        """Remember where a stored form led to, and what was said there."""
        if response.status_code == 303:
            self.given[mark] = list(response.raw_headers)
        while len(self.given) > MOST_REMEMBERED:
            self.given.popitem(last=False)

    def again(self, request: Request, mark: str) -> Response:
        """The answer of the first time."""
        if mark in self.given:
            response = RedirectResponse("/", 303)
            response.raw_headers = list(self.given[mark])
            return response
        back = "/book" if request.url.path.endswith(("/new", "/use")) else way_back(request)
        return see_other(back, STORED_BEFORE)


class OnceRoute(APIRoute):
    """A page's route: forms that carry a mark are stored once."""

    def get_route_handler(self) -> Callable[[Request], Coroutine[Any, Any, Response]]:
        handle = super().get_route_handler()

        async def once(request: Request) -> Response:
            if request.method not in WRITES or request.url.path.startswith("/api/"):
                return await handle(request)
            form = await request.form(max_files=MOST_FILES, max_fields=MOST_FIELDS)
            read_in_units_of(request, form)
            uid = uid_of({"uid": str(form.get("uid", ""))})
            if uid is None:  # from a script, not from a page
                return await handle(request)
            mark = await run_in_threadpool(_mark, request, form, uid)
            return await _stored_once(request, Sent(uid, mark, _generation(form)), handle)

        return once


async def _stored_once(
    request: Request, sent: Sent, handle: Callable[[Request], Coroutine[Any, Any, Response]]
) -> Response:
    answers: Answers = request.app.state.answers
    while (first := answers.under_way.get(sent.mark)) is not None:
        await first.wait()
    under_way = answers.under_way[sent.mark] = asyncio.Event()
    try:
        if sent.mark in answers.given:
            return answers.again(request, sent.mark)
        marks, generation = await run_in_threadpool(_known, request.app.state.sessions, sent.uid)
        if sent.mark in marks:
            return answers.again(request, sent.mark)
        if sent.generation not in (None, generation):
            raise BookReplaced
        _SENT.set(sent)
        also_said(OTHER_CONTENT if marks else "")
        with suppress(SentBefore):  # another program on the same book was quicker
            response = await handle(request)
            answers.keep(sent.mark, response)
            return response
        return answers.again(request, sent.mark)
    except BookReplaced:
        return answer(request, 409, "The logbook was replaced", REPLACED, resend=False)
    finally:
        _SENT.set(None)
        under_way.set()
        answers.under_way.pop(sent.mark, None)


def _known(make: Sessions, uid: str) -> tuple[set[str], int]:
    with make() as session:
        return marks_sent(session, uid), generation_of(session.connection())


def _generation(form: FormData) -> int | None:
    text = form.get("book", "")
    return int(text) if isinstance(text, str) and text.isascii() and text.isdecimal() and text else None


def _mark(request: Request, form: FormData, uid: str) -> str:
    """A short name for the page, where it was sent to, its units, and every field and file of it."""
    whole = hashlib.blake2b(digest_size=16)
    for text in (uid, request.url.path, request.url.query, units(request)):
        whole.update(f"{text}\0".encode("utf-8", "replace"))
    for name, value in form.multi_items():
        whole.update(f"{name}\0".encode("utf-8", "replace"))
        if isinstance(value, UploadFile):
            while piece := value.file.read(1 << 20):
                whole.update(piece)
            value.file.seek(0)
        else:
            whole.update(f"{value}\0".encode("utf-8", "replace"))
    return whole.hexdigest()


def page_router() -> APIRouter:
    """A router for pages, whose forms are stored once."""
    return APIRouter(include_in_schema=False, route_class=OnceRoute)
