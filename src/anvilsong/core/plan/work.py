"""What the planner carries from one decision to the next."""

from __future__ import annotations

from dataclasses import dataclass, field

from anvilsong.core.coefficients import Coefficients
from anvilsong.core.job import Job
from anvilsong.core.machine import Machine
from anvilsong.core.model import (
    LimitWarning,
    Reason,
    Situation,
)
from anvilsong.core.torch.kit import Kit


@dataclass(frozen=True)
class Ends:
    """How a run starts and ends under some full amps: amps, their shares of these, slopes s."""

    full_a: float
    start_a: float
    finish_a: float
    start_share: float
    finish_share: float
    up_s: float
    down_s: float


@dataclass(frozen=True)
class Course:
    """What a pass asks for: heat of pool and rod W, of these the rod's, travel mm/s, preheat °C."""

    heat_w: float
    rod_w: float
    travel_mm_s: float
    preheat_c: float | None


@dataclass
class Work:
    """What the planner carries from one decision to the next."""

    at: Situation
    machine: Machine
    kit: Kit
    c: Coefficients
    reasons: list[Reason] = field(default_factory=list)
    warnings: list[LimitWarning] = field(default_factory=list)
    slowed_from: tuple[float, float] | None = None
    """The usual travel, mm/s, and the amps it wants, where the machine is short and goes slower."""

    @property
    def job(self) -> Job:
        return self.at.job

    def say(self, reason: Reason) -> None:
        self.reasons.append(reason)
