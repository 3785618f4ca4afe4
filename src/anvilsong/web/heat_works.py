"""Parts being computed: one at a time, in a thread of its own, with how far each has come and a way to stop
it.
"""

from __future__ import annotations

import logging
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from threading import Event, Lock
from typing import Literal

from fastapi import HTTPException

from anvilsong.core.errors import BadInput

log = logging.getLogger(__name__)
MOST_WAITING, MOST_KEPT = 4, 64

State = Literal["waits", "runs", "done", "stopped", "failed"]
Task = Callable[[Callable[[float], None]], None]


class StoppedWork(Exception):
    """Somebody stopped it."""


@dataclass
class Work:
    """One of them, as its page asks for it."""

    state: State = "waits"
    share: float = 0.0
    said: str = ""
    stop: Event = field(default_factory=Event)

    def at(self, share: float) -> None:
        """Told by the computation; where somebody stopped it, it ends here."""
        if self.stop.is_set():
            raise StoppedWork
        self.share = max(self.share, min(share, 1.0))


class HeatWorks:
    """The queue of a server."""

    def __init__(self) -> None:
        self._pool = ThreadPoolExecutor(1, thread_name_prefix="heat")
        self._works: dict[str, Work] = {}
        self._lock = Lock()

    def start(self, uid: str, task: Task) -> Work:
        """Compute it when those before it are done.

        Raises
        ------
        HTTPException : 503, too many wait
        """
        with self._lock:
            if (here := self._works.get(uid)) and here.state in ("waits", "runs"):
                return here
            if self.is_full:
                raise HTTPException(
                    503, "Other parts are being computed just now. The drawing is kept; try again."
                )
            work = self._works[uid] = Work()
            for old in list(self._works)[:-MOST_KEPT]:
                del self._works[old]
        self._pool.submit(self._run, uid, work, task)
        return work

    @property
    def is_full(self) -> bool:
        """Whether no more may wait."""
        return sum(work.state in ("waits", "runs") for work in self._works.values()) >= MOST_WAITING

    def find(self, uid: str) -> Work | None:
        return self._works.get(uid)

    def close(self) -> None:
        """The server ends: whatever runs stops at its next step."""
        for work in self._works.values():
            work.stop.set()
        self._pool.shutdown(wait=True, cancel_futures=True)
        for work in self._works.values():
            work.state = "stopped" if work.state == "waits" else work.state

    def _run(self, uid: str, work: Work, task: Task) -> None:
        try:
            work.at(0.0)
            work.state = "runs"
            task(work.at)
            work.share, work.state = 1.0, "done"
        except StoppedWork:
            work.state, work.said = "stopped", "Stopped. The drawing is kept."
        except BadInput as trouble:
            work.state, work.said = "failed", "; ".join(str(problem) for problem in trouble.problems)
        except Exception as error:
            log.error("Part %s could not be computed", uid, exc_info=error)
            work.state, work.said = "failed", "This part could not be computed. The drawing is kept."
