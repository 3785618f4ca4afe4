"""Nothing may hold everyone: what takes too long is told so, and then stores nothing."""

from __future__ import annotations

import asyncio
import re
import threading
from collections.abc import Callable
from contextvars import ContextVar

from starlette.requests import Request

from anvilsong.core.errors import AnvilsongError
from anvilsong.core.said import Words
from anvilsong.core.words import sentence
from anvilsong.web.asgi import App, Message, Receive, Scope, Send
from anvilsong.web.errors import answer

# Work that has limits of its own may take this long [s].
LONG = (
    (re.compile(r"/book/(import|restore|backup|export\.json|sheet)"), 1800.0),
    (re.compile(r"/api/photographs/\d+/measure|/jobs/\d+/(photographs|part/outline)"), 120.0),
)
MOST_LEFT_RUNNING = 24


class TookTooLong(AnvilsongError):
    """The answer was given up before the work came to its commit."""


class Deadline:
    """One request's time: either it is given up, or its commit begins; never both."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._given_up = self._committing = False
        self._ends: list[Callable[[], None]] = []

    def give_up(self) -> bool:
        """Give the request up; False when it is already writing, and must be waited for."""
        with self._lock:
            self._given_up = not self._committing
            ends = self._ends if self._given_up else []
        for end in ends:
            end()
        return self._given_up

    def when_given_up(self, end: Callable[[], None]) -> None:
        """Call this when nobody waits any more: what the request asked for elsewhere is ended with it."""
        with self._lock:
            if not self._given_up:
                self._ends.append(end)
                return
        end()

    def commit(self) -> None:
        """Called before a commit: from here on the request is not given up any more."""
        with self._lock:
            if self._given_up:
                raise TookTooLong(sentence("web.took_too_long_was"))
            self._committing = True

    @property
    def is_given_up(self) -> bool:
        return self._given_up


_CURRENT: ContextVar[Deadline | None] = ContextVar("deadline", default=None)


def before_commit() -> None:
    """Last question before a write is committed: is somebody still waiting for it?"""
    deadline = _CURRENT.get()
    if deadline is not None:
        deadline.commit()


def when_given_up(end: Callable[[], None]) -> None:
    """Call this when the request that is being answered is given up."""
    deadline = _CURRENT.get()
    if deadline is not None:
        deadline.when_given_up(end)


class PatienceGuard:
    """Answers 503 after ``seconds``, whatever the work is doing; the work itself can then no longer store
    anything.
    """

    def __init__(self, app: App, seconds: float) -> None:
        self.app, self.seconds = app, seconds
        self._left_running: set[asyncio.Task[None]] = set()

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or scope["path"].startswith("/static/"):
            await self.app(scope, receive, send)
            return
        if len(self._left_running) >= MOST_LEFT_RUNNING and scope["path"] != "/healthz":
            await _not_now(
                scope,
                receive,
                send,
                sentence("web.program_busy_with_work"),
            )
            return
        await self._timed(scope, receive, send)

    async def _timed(self, scope: Scope, receive: Receive, send: Send) -> None:
        deadline, started = Deadline(), False
        _CURRENT.set(deadline)

        async def guarded(message: Message) -> None:
            nonlocal started
            if not deadline.is_given_up:
                started = True
                await send(message)

        async def run() -> None:  # an awaitable of any kind becomes a task
            await self.app(scope, receive, guarded)

        task = asyncio.create_task(run())
        try:
            seconds = next((long for path, long in LONG if path.fullmatch(scope["path"])), self.seconds)
            await asyncio.wait({task}, timeout=seconds)
            if not task.done() and not started and deadline.give_up():
                self._left_running.add(task)
                task.add_done_callback(self._ended)
                await _not_now(
                    scope,
                    receive,
                    send,
                    sentence("web.took_longer_than_s", seconds=seconds),
                )
                return
            await task
        except asyncio.CancelledError:
            task.cancel()
            raise

    def _ended(self, task: asyncio.Task[None]) -> None:
        self._left_running.discard(task)
        if not task.cancelled():
            task.exception()  # it was told already


async def _not_now(scope: Scope, receive: Receive, send: Send, detail: Words) -> None:
    response = answer(Request(scope), 503, "Not now", detail)
    response.headers["retry-after"] = "5"
    await response(scope, receive, send)
