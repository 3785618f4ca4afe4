"""Rooms for heavy work: each a process that computes one thing after another, under limits of time, memory
and how many wait. What is given up is ended, in the middle of a step if need be, and only those who asked
for the same kind of work ever wait for it.
"""

from __future__ import annotations

import itertools
import logging
import multiprocessing
from collections.abc import Callable
from concurrent.futures import CancelledError
from dataclasses import dataclass, field
from threading import Lock
from typing import TYPE_CHECKING, Any

from anvilsong.core.words import sentence
from anvilsong.work.inside import begin, computed
from anvilsong.work.limits import Ended, NoRoom, Room, Stopped

if TYPE_CHECKING:
    from pebble import ProcessFuture, ProcessPool

log = logging.getLogger("anvilsong")


@dataclass
class Task:
    """One piece of work that was asked for."""

    room: Room
    number: int
    page: str
    future: ProcessFuture[Any]
    desk: Desk

    def end(self) -> None:
        """End it now, wherever it is."""
        self.future.cancel()

    def stop(self) -> None:
        """End it at its next step; where it has not begun, at once."""
        if not self.has_begun:
            self.future.cancel()
        self.desk.shared[2] = self.number

    @property
    def has_begun(self) -> bool:
        """Whether it is being computed."""
        return bool(self.desk.shared[0] == self.number)

    def result(self) -> Any:
        """What came of it, as ``result_of``."""
        from pebble import ProcessExpired

        try:
            return self.future.result()
        except CancelledError:
            raise Stopped(sentence("work.was_stopped_before_end")) from None
        except TimeoutError:
            raise Ended(sentence("work.took_longer_than_s", seconds=self.room.seconds)) from None
        except (MemoryError, ProcessExpired) as error:
            log.warning("%s: ended by %r", self.room.words, error)
            raise Ended(sentence("work.takes_more_than_mb", megabytes=self.room.megabytes)) from None

    @property
    def is_done(self) -> bool:
        """Whether it came to its end, well or not."""
        return bool(self.future.done())

    @property
    def share(self) -> float:
        """How far it has come, 0 to 1."""
        return float(self.desk.shared[1]) if self.has_begun else 0.0


@dataclass
class Desk:
    """A room's process and what is asked of it. ``shared``: number of the task that runs, how far it has
    come, number of the task that shall stop.
    """

    pool: ProcessPool
    shared: Any
    tasks: dict[int, Task] = field(default_factory=dict)


_DESKS: dict[Room, Desk] = {}
_LOCK, _NUMBERS = Lock(), itertools.count(1)


def submit(room: Room, function: Callable[..., Any], *given: Any, page: str = "") -> Task:
    """Ask for work. ``page``: who asks; what the same page asked before, and has not begun, gives way.

    Raises
    ------
    NoRoom : as many as may wait are waiting already
    """
    with _LOCK:
        desk = _DESKS.get(room)
        if desk is None or not desk.pool.active:
            desk = _DESKS[room] = _desk(room)
        desk.tasks = {number: task for number, task in desk.tasks.items() if not task.future.done()}
        for task in list(desk.tasks.values()):
            if page and task.page == page and not task.has_begun:
                task.future.cancel()
                del desk.tasks[task.number]
        if len(desk.tasks) >= room.most:
            raise NoRoom(sentence("work.others_are_work_just", words=room.words))
        number = next(_NUMBERS)
        future = desk.pool.schedule(computed, args=[number, function, *given], timeout=room.seconds)
        task = desk.tasks[number] = Task(room, number, page, future, desk)
    return task


def close() -> None:
    """End all work and its processes; what is asked for next begins new ones."""
    with _LOCK:
        desks = list(_DESKS.values())
        _DESKS.clear()
    for desk in desks:
        desk.pool.stop()
    for desk in desks:
        desk.pool.join()


def _desk(room: Room) -> Desk:
    from pebble import ProcessPool  # read when the first heavy work is asked for

    # A process of its own from the start: nothing of the server, not even an open file, is in it.
    context = multiprocessing.get_context("spawn")
    shared = context.RawArray("d", 3)
    pool = ProcessPool(1, context=context, initializer=begin, initargs=[shared, room.megabytes])
    return Desk(pool, shared)
