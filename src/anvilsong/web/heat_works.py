"""Parts being computed, with how far each has come and a way to stop it: one at a time in a process of their
own, or by the workers of a logbook on a server.
"""

from __future__ import annotations

import logging
from collections.abc import Callable
from dataclasses import dataclass
from threading import Lock, Thread
from typing import Any, Literal

from fastapi import HTTPException

from anvilsong.core.errors import AnvilsongError, BadInput
from anvilsong.core.said import Words, in_units, joined
from anvilsong.core.words import sentence
from anvilsong.store.faults import store_fault
from anvilsong.web.heavy import asked_for
from anvilsong.work import PARTS, NoRoom, Stopped, Task, result_of
from anvilsong.work.queue.asking import Queue, QueuedTask, failure_of
from anvilsong.work.queue.rows import WorkRow, Works

log = logging.getLogger(__name__)
MOST_KEPT = 64

State = Literal["waits", "runs", "done", "stopped", "failed"]
STOPPED = sentence("web.stopped_drawing_saved")


@dataclass
class Work:
    """One of them, as its page asks for it."""

    task: Task | QueuedTask
    ended: Literal["done", "stopped", "failed"] | None = None
    said: Words = ""

    @property
    def state(self) -> State:
        """Where it stands."""
        return self.ended or ("runs" if self.task.has_begun else "waits")

    @property
    def share(self) -> float:
        """How far it has come, 0 to 1."""
        return 1.0 if self.ended == "done" else self.task.share

    def stop(self) -> None:
        """Stop it at its next step."""
        self.task.stop()


class HeatWorks:
    """The parts of a server, each by the name that no other part has in any book."""

    def __init__(self) -> None:
        self._works: dict[str, Work] = {}
        self._lock = Lock()

    def start(self, uid: str, keep: Callable[[Any], None], function: Callable[..., Any], *given: Any) -> Work:
        """Compute a part when those before it are done, then keep what came of it.

        Raises
        ------
        HTTPException : 503, too many wait
        """
        with self._lock:
            if (here := self._works.get(uid)) and here.state in ("waits", "runs"):
                return here
            try:
                work = self._works[uid] = Work(asked_for(PARTS, function, *given))
            except HTTPException:
                said = sentence("web.other_parts_are_being")
                raise HTTPException(503, in_units(said), {"retry-after": "5"}) from None
            for old in list(self._works)[:-MOST_KEPT]:
                del self._works[old]
        Thread(target=self._follow, args=(uid, work, keep), daemon=True).start()
        return work

    @property
    def is_full(self) -> bool:
        """Whether no more may wait."""
        return sum(work.state in ("waits", "runs") for work in list(self._works.values())) >= PARTS.most

    def find(self, uid: str) -> Work | None:
        return self._works.get(uid)

    def close(self) -> None:
        """The server ends: whatever runs is ended."""
        for work in list(self._works.values()):
            if work.ended is None:
                work.task.end()

    def _follow(self, uid: str, work: Work, keep: Callable[[Any], None]) -> None:
        try:
            found = result_of(work.task)
            if found is not None:
                keep(found)
            work.said, work.ended = ("", "done") if found is not None else (STOPPED, "stopped")
        except Stopped:
            work.said, work.ended = STOPPED, "stopped"
        except BadInput as trouble:
            work.said, work.ended = (
                joined(*(problem.sentence for problem in trouble.problems), by="; "),
                "failed",
            )
        except AnvilsongError as trouble:
            work.said, work.ended = joined(trouble.words, sentence("web.drawing_kept")), "failed"
        except Exception as error:
            fault = store_fault(error)
            if fault is None:
                log.error("Part %s could not be computed", uid, exc_info=error)
            said = fault.said if fault else sentence("web.part_could_not_computed")
            work.said, work.ended = joined(said, sentence("web.drawing_kept")), "failed"


@dataclass
class QueuedPart:
    """One that a worker computes, as its page asks for it."""

    works: Works
    row: WorkRow

    @property
    def state(self) -> State:
        """Where it stands."""
        return self.row.state

    @property
    def share(self) -> float:
        """How far it has come, 0 to 1."""
        return self.row.share

    @property
    def said(self) -> Words:
        """Why it did not come to its end."""
        if self.row.state == "stopped":
            return STOPPED
        if self.row.state != "failed":
            return ""
        return joined(failure_of(self.row).words, sentence("web.drawing_kept"))

    def stop(self) -> None:
        """Stop it at its next step."""
        self.works.stop(self.row.id)


class QueuedHeatWorks:
    """The parts that the workers of a logbook compute and keep, whichever server process was asked."""

    def __init__(self, queue: Queue) -> None:
        self._queue = queue

    def start(self, uid: str, keep: object, function: Callable[..., Any], *given: Any) -> None:
        """Ask for a part; the worker keeps what comes of it.

        Raises
        ------
        HTTPException : 503, too many wait, or no worker is there
        """
        try:
            self._queue.submit(PARTS, function, *given, part=uid)
        except NoRoom as full:
            raise HTTPException(503, str(full), {"retry-after": "5"}) from None

    @property
    def is_full(self) -> bool:
        """Whether no more may wait.

        Raises
        ------
        HTTPException : 503, no worker is there
        """
        try:
            self._queue.check(PARTS)
        except NoRoom as full:
            raise HTTPException(503, str(full), {"retry-after": "5"}) from None
        return False

    def find(self, uid: str) -> QueuedPart | None:
        row = self._queue.works.of_part(uid)
        return QueuedPart(self._queue.works, row) if row is not None else None

    def close(self) -> None:
        """The server ends: its workers go on."""
