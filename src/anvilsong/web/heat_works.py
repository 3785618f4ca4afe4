"""Parts being computed: one at a time, in a process of their own, with how far each has come and a way to
stop it.
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
from anvilsong.work import PARTS, Stopped, Task, result_of

log = logging.getLogger(__name__)
MOST_KEPT = 64

State = Literal["waits", "runs", "done", "stopped", "failed"]
STOPPED = sentence("web.stopped_drawing_saved")


@dataclass
class Work:
    """One of them, as its page asks for it."""

    task: Task
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
