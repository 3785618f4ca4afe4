"""Heavy work asked for by a page: whose answer is given up, that work is ended; too many at once is said to
those alone who ask for the same.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from fastapi import HTTPException

from anvilsong.core.said import in_units
from anvilsong.core.words import sentence
from anvilsong.web.guard.patience import when_given_up
from anvilsong.work import NoRoom, Room, Stopped, Task, result_of, submit

if TYPE_CHECKING:
    from anvilsong.work.queue import QueuedTask

SUPERSEDED = in_units(sentence("web.newer_request_same_page"))


def asked_for(room: Room, function: Callable[..., Any], *given: Any, page: str = "") -> Task | QueuedTask:
    """Work that goes on after the answer.

    Raises
    ------
    HTTPException : 503, as many as may wait are waiting
    """
    try:
        return submit(room, function, *given, page=page)
    except NoRoom as full:
        raise HTTPException(503, str(full), {"retry-after": "5"}) from None


def done_now(room: Room, function: Callable[..., Any], *given: Any, page: str = "") -> Any:
    """What comes of work that the answer waits for. ``page``: what the same page asked before gives way.

    Raises
    ------
    HTTPException : 503, as many as may wait are waiting; 409, the page asked again meanwhile
    Ended : it took too long or too much memory
    """
    task = asked_for(room, function, *given, page=page)
    when_given_up(task.end)
    try:
        return result_of(task)
    except Stopped:
        raise HTTPException(409, SUPERSEDED) from None
