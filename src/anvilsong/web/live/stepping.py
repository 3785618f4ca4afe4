"""All runs of a server are stepped together: what waits for its next step goes through one thread in one go,
since twenty ways into a thread and back cost more than the steps themselves.
"""

from __future__ import annotations

import asyncio
from typing import TYPE_CHECKING

from anyio import CapacityLimiter, to_thread

if TYPE_CHECKING:
    from anvilsong.core.practice.pedal_run import PedalRun
    from anvilsong.core.practice.seen import Seen

Wanted = tuple["PedalRun", float, float, float]
STEP_S, FEW, STEP_OF_MANY_S = 0.02, 6, 0.025


class Stepper:
    """Steps runs in a thread of its own, so that pages always find theirs. It belongs to one event loop."""

    def __init__(self) -> None:
        self._waiting: list[tuple[Wanted, asyncio.Future[Seen]]] = []
        self._works: asyncio.Task[None] | None = None
        self._one_thread: CapacityLimiter | None = None
        self.runs = 0
        """How many are being welded."""

    @property
    def step_s(self) -> float:
        """How often each is stepped: fifty times a second, and forty where there are many."""
        return STEP_S if self.runs <= FEW else STEP_OF_MANY_S

    async def step(self, run: PedalRun, seconds: float, pedal: float, travel: float) -> Seen:
        """Step a run, together with whatever else waits."""
        future: asyncio.Future[Seen] = asyncio.get_running_loop().create_future()
        self._waiting.append(((run, seconds, pedal, travel), future))
        if self._works is None:
            self._works = asyncio.create_task(self._work())
        return await future

    async def _work(self) -> None:
        try:
            while self._waiting:
                batch, self._waiting = self._waiting, []
                self._one_thread = self._one_thread or CapacityLimiter(1)
                found = await to_thread.run_sync(
                    _stepped, [wanted for wanted, _ in batch], limiter=self._one_thread
                )
                for (_, future), seen in zip(batch, found, strict=True):
                    if future.cancelled():
                        continue
                    if isinstance(seen, Exception):
                        future.set_exception(seen)
                    else:
                        future.set_result(seen)
        finally:
            self._works = None


def _stepped(batch: list[Wanted]) -> list[Seen | Exception]:
    """Each run a step on; what goes wrong with one is its own alone."""
    found: list[Seen | Exception] = []
    for run, seconds, pedal, travel in batch:
        try:
            found.append(run.step(seconds, pedal, travel))
        except Exception as error:
            found.append(error)
    return found
