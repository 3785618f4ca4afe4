"""What settings do and what they break, the same wherever it is asked: plan, board, torch, solving,
coupon.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

from anvilsong.core.checks.bars import margins
from anvilsong.core.checks.limits import warnings_for
from anvilsong.core.coefficients import Coefficients, nominal
from anvilsong.core.job import Job
from anvilsong.core.machine import IDEAL, Machine, Panel, show_on_panel
from anvilsong.core.model import (
    Consequences,
    LimitWarning,
    Margin,
    Situation,
    consequences,
    equipped,
    situation,
)
from anvilsong.core.settings import Settings
from anvilsong.core.torch.kit import Kit


@dataclass(frozen=True)
class Outcome:
    """Settings of a job on a machine with its torch, and all that follows from them at once."""

    at: Situation
    settings: Settings
    machine: Machine
    c: Coefficients
    consequences: Consequences

    @cached_property
    def warnings(self) -> list[LimitWarning]:
        """Every limit that is broken or near, worst first."""
        return warnings_for(self.at, self.settings, self.consequences, self.machine, self.c)

    @cached_property
    def margins(self) -> list[Margin]:
        """The bars beside the board."""
        return margins(self.at, self.settings, self.consequences, self.machine)

    @cached_property
    def panel(self) -> Panel:
        """The settings in the words of the machine's panel."""
        return show_on_panel(self.settings, self.machine)


def outcome(
    job: Job,
    settings: Settings,
    machine: Machine = IDEAL,
    kit: Kit | None = None,
    c: Coefficients | None = None,
) -> Outcome:
    """What these settings do.

    Parameters
    ----------
    kit : for the torch that is used; the machine's own when left out
    c : coefficients; nominal when left out
    """
    c = c or nominal()
    machine = equipped(machine, job, settings, kit)
    return Outcome(situation(job), settings, machine, c, consequences(job, settings, machine, c))
