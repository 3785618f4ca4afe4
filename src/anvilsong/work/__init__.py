"""Heavy work: what takes long or much memory, and can be ended. It is done in processes beside the server, or
by the workers of a queue where the logbook is on a server.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from anvilsong.work import rooms
from anvilsong.work.limits import BOOK, PARTS, PICTURES, Ended, NoRoom, Room, Stopped
from anvilsong.work.rooms import Task, close

if TYPE_CHECKING:
    from anvilsong.work.queue import Queue, QueuedTask

__all__ = [
    "BOOK",
    "PARTS",
    "PICTURES",
    "Ended",
    "NoRoom",
    "Room",
    "Stopped",
    "Task",
    "close",
    "result_of",
    "submit",
    "through",
]

_THROUGH: list[Queue] = []


def through(queue: Queue | None) -> None:
    """Work that is asked for goes through a queue from now on, or is done beside the server again."""
    _THROUGH[:] = [queue] if queue is not None else []


def submit(room: Room, function: Callable[..., Any], *given: Any, page: str = "") -> Task | QueuedTask:
    """Ask for work. ``page``: who asks; what the same page asked before, and has not begun, gives way.

    Raises
    ------
    NoRoom : as many as may wait are waiting already, or nobody does such work
    """
    asked = _THROUGH[0].submit if _THROUGH else rooms.submit
    return asked(room, function, *given, page=page)


def result_of(task: Task | QueuedTask) -> Any:
    """What came of it; whatever the work itself refuses is raised as it was there.

    Raises
    ------
    Ended : it took too long or too much memory, or was ended
    Stopped : it was stopped before its end
    """
    return task.result()
