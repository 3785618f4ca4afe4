"""Heavy work as a server process asks the queue for it."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from anvilsong.core.errors import AnvilsongError, CannotRead
from anvilsong.core.words import sentence
from anvilsong.store.places import OnServer
from anvilsong.work.limits import Ended, NoRoom, Room, Stopped
from anvilsong.work.queue.rows import WorkRow, Works, address_of, prepare
from anvilsong.work.queue.values import Local, files_of, given_json, read_found, read_refusal

FIRST_LOOK_S, LATER_LOOKS_S = 0.02, 0.25
TASK = "work"


class Queue:
    """Asks for works of a logbook on a server."""

    def __init__(self, place: OnServer) -> None:
        from procrastinate import App, SyncPsycopgConnector

        prepare(place)
        self.works = Works(place)
        connector = SyncPsycopgConnector(conninfo=address_of(place), min_size=1, max_size=4)
        self._app = App(connector=connector)
        self._app.open()

    def close(self) -> None:
        self._app.close()
        self.works.close()

    def check(self, room: Room) -> None:
        """That somebody does the work, and that not too many wait.

        Raises
        ------
        NoRoom : no worker is there, or as many as may wait are waiting
        """
        workers = self.works.workers()
        if not workers:
            raise NoRoom(sentence("work.no_worker"))
        # A worker's process stands there once for each kind of work.
        if self.works.open_in(room.words) >= room.most * max(1, workers // 3):
            raise NoRoom(sentence("work.others_are_work_just", words=room.words))

    def submit(
        self,
        room: Room,
        function: Callable[..., Any],
        *given: Any,
        page: str = "",
        part: str | None = None,
    ) -> QueuedTask:
        """Ask for work, as ``work.submit``. ``part``: the drawn part whose result the worker keeps.

        Raises
        ------
        NoRoom : as ``check``
        """
        self.check(room)
        if page:
            self.works.give_way(room.words, page)
        name = function.__name__
        number = self.works.add(room.words, page, part, name, len(given), given_json(name, given))
        files = files_of(name, given)
        if Local.SENT in files:
            self.works.send(number, "sent", files[Local.SENT])
        self._app.configure_task(TASK, queue=room.words).defer(work=number)
        return QueuedTask(self.works, number, room, name, files)


@dataclass
class QueuedTask:
    """One piece of work that was asked for."""

    works: Works
    number: int
    room: Room
    function: str
    files: dict[Local, Any]

    def end(self) -> None:
        """Nobody wants it any more."""
        self.works.stop(self.number)

    stop = end

    @property
    def has_begun(self) -> bool:
        """Whether it is being computed, or was."""
        row = self.works.find(self.number)
        return row is not None and row.state != "waits"

    @property
    def share(self) -> float:
        """How far it has come, 0 to 1."""
        row = self.works.find(self.number)
        return row.share if row is not None else 0.0

    def result(self) -> Any:
        """What came of it, as ``work.result_of``. Nothing of the work stays."""
        try:
            row, wait_s = self.works.find(self.number), FIRST_LOOK_S
            while row is not None and row.state in ("waits", "runs") and not row.stops:
                time.sleep(wait_s)
                wait_s = min(2 * wait_s, LATER_LOOKS_S)
                row = self.works.find(self.number)
            if row is None or row.stops or row.state == "stopped":
                raise Stopped(sentence("work.was_stopped_before_end"))
            return self._found(row)
        finally:
            self.works.drop(self.number)

    def _found(self, row: WorkRow) -> Any:
        if row.state == "failed":
            failed = failure_of(row)
            if isinstance(failed, CannotRead) and failed.what == Local.SENT.value:
                failed = CannotRead(str(self.files[Local.SENT]), failed.why)
            raise failed
        if Local.MADE in self.files:
            self.works.fetch(self.number, "made", self.files[Local.MADE])
        return read_found(self.function, row.found or "")


def failure_of(row: WorkRow) -> AnvilsongError:
    """Why a work failed, as it was raised where it was done."""
    if row.found is None:
        return Ended(sentence("work.was_lost"))
    return read_refusal(row.found)
