"""A coupon that was run, with the model moved to agree with it, and how a change of it is said."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from anvilsong.core import say
from anvilsong.core.bead.change_words import change_on_panel, change_said, effects_of, plainly_said
from anvilsong.core.bead.coupon import Readings
from anvilsong.core.bead.next import NextChange
from anvilsong.core.bead.verdict import Verdict
from anvilsong.core.checks import newly_broken
from anvilsong.core.coefficients import Coefficients
from anvilsong.core.job import Job
from anvilsong.core.machine import Machine
from anvilsong.core.model import Consequences, LimitWarning, consequences
from anvilsong.core.registry import BY_KEY, get_value
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.words import sentence


@dataclass(frozen=True)
class Ran:
    """A coupon that was run: on what, with what, what came out, and the model moved to agree with it."""

    job: Job
    settings: Settings
    readings: Readings
    verdict: Verdict
    machine: Machine
    c: Coefficients

    @property
    def hand(self) -> float:
        """How fast the hand went, as a share of what was planned."""
        return self.readings.travel_mm_s / self.settings.travel_mm_s

    def would(self, settings: Settings) -> Consequences:
        """What other settings would do in this hand, which goes as much faster or slower than planned."""
        gone = settings.model_copy(update={"travel_mm_s": settings.travel_mm_s * self.hand})
        return consequences(self.job, gone, self.machine, self.c)

    def breaks(self, after: Settings) -> LimitWarning | None:
        """What a change would break that is whole now, by the model that agrees with this coupon; None for a
        change that may be proposed.
        """
        return next(iter(newly_broken(self.job, self.settings, after, self.machine, c=self.c)), None)

    def first_whole(self, tried: Iterable[Settings]) -> tuple[Settings | None, LimitWarning | None]:
        """The first of some changes that breaks nothing, and what the very first of them would break."""
        held: LimitWarning | None = None
        for after in tried:
            broken = self.breaks(after)
            if broken is None:
                return after, held
            held = held or broken
        return None, held


def changed(ran: Ran, after: Settings, key: str, why: Words) -> NextChange:
    """The change as a proposal, with what it does to every figure."""
    before, verdict = ran.settings, ran.verdict
    was, now = ran.would(before), ran.would(after)
    entry = BY_KEY[key]
    old, new = (
        say.setting(get_value(s, key), entry.dimension, entry.decimals)
        if entry.dimension
        else str(get_value(s, key))
        for s in (before, after)
    )
    border = now.border_mm
    otherwise = (
        ""
        if abs(border - sum(verdict.aim_mm) / 2) <= (verdict.aim_mm[1] - verdict.aim_mm[0]) / 2
        or key in ("amps_set", "amps_run")
        else sentence("bead.one_change_may_not")
    )
    return NextChange(
        kind="setting",
        setting=key,
        settings=after,
        why=why,
        said=change_said(before, after, key, plainly_said(before, after, key, (old, new), ran.machine)),
        on_panel=change_on_panel(before, after, key, ran.machine),
        effects=effects_of(was, now),
        expected_border_mm=border,
        expected_width_mm=now.pool_width_mm,
        otherwise=otherwise,
    )
