"""Everything that follows from settings, in one place: for the planner's own, and for those that a person
set.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from anvilsong.core import say
from anvilsong.core.checks import outcome, worst_first
from anvilsong.core.coefficients import Coefficients, nominal
from anvilsong.core.machine import Machine
from anvilsong.core.model import FillerRows, LimitWarning, Plan, Reason, Situation, situation
from anvilsong.core.plan.windows import windows
from anvilsong.core.prep import amps_for_warmth, passes, run_sheet, travel_for_amps
from anvilsong.core.registry import BY_KEY, get_value
from anvilsong.core.settings import Settings
from anvilsong.core.words import sentence


@dataclass(frozen=True)
class Said:
    """What the planner itself said of its settings: reasons, warnings, fillers."""

    reasons: Sequence[Reason]
    warnings: Sequence[LimitWarning]
    fillers: FillerRows | None


def follow(
    at: Situation,
    settings: Settings,
    machine: Machine,
    c: Coefficients,
    said: Said,
    planned: bool = True,
) -> Plan:
    """A plan around settings. ``planned``: they are the planner's own, which lie inside their windows."""
    job = at.job_as_asked
    seen = outcome(job, settings, machine, c=c)
    bands = windows(at, settings, machine, c, planned)
    return Plan(
        job=job,
        settings=settings,
        windows=bands.sound,
        best=bands.best,
        ends=bands.ends,
        empty=bands.empty,
        consequences=seen.consequences,
        reasons=list(said.reasons),
        warnings=worst_first([*said.warnings, *seen.warnings]),
        panel=seen.panel,
        run_sheet=run_sheet(at, settings, machine),
        margins=seen.margins,
        passes=passes(at, settings, c, machine.most_a),
        travel_for_amps=travel_for_amps(at, settings, c),
        amps_for_warmth=amps_for_warmth(at, settings, c),
        fillers=said.fillers,
        coefficients=c,
    )


def with_settings(plan: Plan, settings: Settings, machine: Machine) -> Plan:
    """The plan with settings that a person chose: all that follows from them, and of what the planner said
    what still holds.

    What it said of a setting that was moved since no longer does; the reason of such a setting is the hand.
    """
    was = plan.settings
    if was is None:
        return plan
    moved = {key for key in BY_KEY if get_value(was, key) != get_value(settings, key)}
    at = situation(plan.job)
    c = plan.coefficients or nominal()
    own = {warning.code for warning in outcome(plan.job, was, machine, c=c).warnings}
    said = [each for each in plan.warnings if each.code not in own and each.setting not in moved]
    reasons = [
        _by_hand(reason, was, settings) if reason.setting in moved else reason for reason in plan.reasons
    ]
    return follow(at, settings, machine, c, Said(reasons, said, plan.fillers), planned=False)


def _by_hand(reason: Reason, was: Settings, now: Settings) -> Reason:
    """The reason of a setting that a person moved."""
    entry = BY_KEY[reason.setting]
    before, after = get_value(was, entry.key), get_value(now, entry.key)
    value: float | str = float(after) if entry.dimension and after is not None else str(after)
    words = [
        say.setting(each, entry.dimension, entry.decimals)
        if entry.dimension and each is not None
        else str(each if each is not None else "none")
        for each in (before, after)
    ]
    return Reason(
        setting=reason.setting,
        rule="Set by you",
        source=say.joined("The plan: ", say.small(reason.rule)),
        value=value,
        said=sentence("plan.set_you_instead_plans", now=words[1], planned=words[0]),
    )
