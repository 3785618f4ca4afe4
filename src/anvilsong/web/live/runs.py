"""The runs of a server: how many there may be, by what they are found again, and when one is forgotten."""

from __future__ import annotations

import asyncio
import secrets
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any, TypeVar

from anyio import CapacityLimiter, to_thread

from anvilsong.web.live.stepping import Stepper

if TYPE_CHECKING:
    from anvilsong.core.practice.pedal_run import PedalRun, PedalTask

HEAVY_AT_ONCE = 2
MOST_LIVE = 40  # at once, those that wait for their page included
KEPT_S = 120.0  # that a run whose page went away waits for it


Made = TypeVar("Made")


class NoPlace(Exception):
    """As many runs as a server welds at once."""


@dataclass
class LiveRun:
    """A run, the hand on it, and whose it is. Its token is known to its own page alone, and to the device
    that was made its pedal.
    """

    task: PedalTask
    run: PedalRun
    on: str
    machine: str | None
    welder: str
    token: str = field(default_factory=lambda: secrets.token_hex(16))
    pedal: float = 0.0
    travel: float = 0.0
    is_paused: bool = False
    due_s: float = 0.0
    """Seconds that were asked for while it was paused."""
    is_given_up: bool = False
    turn: int = 0
    """Counts the pages that took the run over; the last one has it."""
    kept_as: int | None = None
    """The number of what was stored of it, once it was."""
    keeping: asyncio.Lock = field(default_factory=asyncio.Lock)
    """Held while it is stored, so that two pages of one run store it once."""
    left_at: float | None = None


class LiveRuns:
    """Every run that is being welded here."""

    def __init__(self) -> None:
        self._runs: dict[str, LiveRun] = {}
        self.stepper = Stepper()
        self._heavy: CapacityLimiter | None = None

    def __len__(self) -> int:
        return len(self._runs)

    async def made(self, make: Callable[..., Made], *given: Any) -> Made:
        """What takes a while, made in one of two threads, so that pages find theirs: a part got ready, a run
        judged and stored.
        """
        self._heavy = self._heavy or CapacityLimiter(HEAVY_AT_ONCE)
        return await to_thread.run_sync(make, *given, limiter=self._heavy)

    def add(self, live: LiveRun) -> None:
        """A run more.

        Raises
        ------
        NoPlace : too many of them; those whose pages went away make room, the longest gone first
        """
        self.make_place()
        self._runs[live.token] = live

    def make_place(self) -> None:
        """See to it that there is a place for one more.

        Raises
        ------
        NoPlace : as for ``add``
        """
        self.forget_old()
        if len(self._runs) >= MOST_LIVE:
            left = [one for one in self._runs.values() if one.left_at is not None]
            if not left:
                raise NoPlace
            self.drop(min(left, key=lambda one: one.left_at or 0.0))

    def find(self, token: str) -> LiveRun | None:
        """A run by its token; None where it is over, was forgotten, or never was."""
        self.forget_old()
        return self._runs.get(token)

    def drop(self, live: LiveRun) -> None:
        """Forget a run."""
        self._runs.pop(live.token, None)

    def forget_old(self) -> None:
        """Forget runs whose pages went away long ago."""
        now = time.monotonic()
        for live in list(self._runs.values()):
            if live.left_at is not None and now - live.left_at > KEPT_S:
                self.drop(live)
