"""From a sign to its likely causes: prior × fit with these settings and this coupon, each with what raised
and what lowered it, a check, and one change with what it does.

weight = (6·prior/Σ prior + helped)/(6 + tried) × Π times over the rules that hold; a share is a weight over
the sum of them. Causes of several signs with the same name add up. What helped in this shop counts as so
many cases more beside six from the table.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from typing import NamedTuple

from anvilsong.core import say
from anvilsong.core.bead.change_words import change_on_panel, effects_of, plainly_said
from anvilsong.core.bead.evidence import CLEARLY, MEASURED, Case, figure_said, figures_for
from anvilsong.core.bead.fault_signs import Against, Cause, FaultChange, Sign, find_sign, lies
from anvilsong.core.bead.figure_keys import FigureKey
from anvilsong.core.bead.next import NextChange
from anvilsong.core.checks import newly_broken
from anvilsong.core.errors import BadInput
from anvilsong.core.job import Job
from anvilsong.core.machine import Machine, read_panel, show_on_panel, within_machine
from anvilsong.core.model import consequences
from anvilsong.core.registry import BY_KEY, get_value, with_value
from anvilsong.core.said import Words
from anvilsong.core.say import setting as said_setting
from anvilsong.core.settings import Settings
from anvilsong.core.value import Value

TABLE_WEIGHS = 6.0  # cases
MOST_CAUSES = 6  # shown


class Tried(NamedTuple):
    """How often a cause was acted on in this shop, and how often that helped."""

    helped: int
    tried: int


class Likely(Value):
    """A cause with its share of all, why, and what to do about it."""

    sign: str
    key: str
    words: str
    share: float
    raised: tuple[Words, ...]
    lowered: tuple[Words, ...]
    check: Words
    cost: int
    change: NextChange | None
    helped: int
    tried: int


def spoken_against(seen: Sequence[str], case: Case) -> dict[str, list[Words]]:
    """What the numbers say against some signs: by sign the figures, as clauses; only signs that have any."""
    figures = figures_for(case)
    found = {
        sign.key: [
            figure_said(rule.of, figures[rule.of])
            for rule in sign.against
            if lies(figures.get(rule.of), rule.way, rule.limit)
        ]
        for sign in map(find_sign, seen)
    }
    return {key: said for key, said in found.items() if said}


def measured_against(seen: Sequence[str], case: Case) -> list[str]:
    """The signs that the coupon's own measures contradict: nothing can be proposed for what was not there."""
    if case.readings is None:
        return []
    figures = figures_for(case)

    def contradicts(rule: Against) -> bool:
        value = figures.get(rule.of, 0.0)
        return rule.of in MEASURED and abs(value) >= CLEARLY and lies(value, rule.way, rule.limit)

    return [sign.key for sign in map(find_sign, seen) if any(map(contradicts, sign.against))]


def likely_causes(
    seen: Sequence[str],
    case: Case,
    counts: Mapping[tuple[str, str], Tried] | None = None,
    ruled_out: Collection[str] = (),
) -> list[Likely]:
    """The causes of some signs, the likeliest first; among equals the cheapest check first.

    Parameters
    ----------
    seen : keys of signs
    counts : what helped in this shop, by sign and cause
    ruled_out : keys of causes that were tried and did not help

    Raises
    ------
    BadInput : a sign is none of the table's
    """
    figures = figures_for(case)
    weights: dict[str, float] = {}
    rows: dict[str, tuple[Sign, Cause]] = {}
    for sign in map(find_sign, seen):
        whole = sum(cause.prior for cause in sign.cause)
        for cause in sign.cause:
            if cause.key in ruled_out:
                continue
            helped, tried = (counts or {}).get((sign.key, cause.key), Tried(0, 0))
            weight = (TABLE_WEIGHS * cause.prior / whole + helped) / (TABLE_WEIGHS + tried)
            for rule in cause.rules:
                weight *= rule.times if rule.holds(figures) else 1.0
            weights[cause.key] = weights.get(cause.key, 0.0) + weight
            rows.setdefault(cause.key, (sign, cause))
    total = sum(weights.values())
    order = sorted(weights, key=lambda key: (-round(weights[key] / total, 3), rows[key][1].cost))
    return [
        _likely(*rows[key], weights[key] / total, figures, case,
                (counts or {}).get((rows[key][0].key, key), Tried(0, 0)))
        for key in order[:MOST_CAUSES]
    ]  # fmt: skip


def _likely(
    sign: Sign,
    cause: Cause,
    share: float,
    figures: Mapping[FigureKey, float],
    case: Case,
    tried: Tried,
) -> Likely:
    holding = [rule for rule in cause.rules if rule.holds(figures)]
    return Likely(
        sign=sign.key,
        key=cause.key,
        words=cause.words,
        share=share,
        raised=tuple(figure_said(rule.of, figures[rule.of]) for rule in holding if rule.times > 1),
        lowered=tuple(figure_said(rule.of, figures[rule.of]) for rule in holding if rule.times < 1),
        check=_check(cause, case),
        cost=cause.cost,
        change=_changed(cause, case),
        helped=tried.helped,
        tried=tried.tried,
    )


def _check(cause: Cause, case: Case) -> Words:
    """The check, and what the hand does where the machine has no control for the change."""
    lacking = cause.change is not None and not case.machine.sets(cause.change.setting)
    by_foot = case.job.control == "pedal"
    if not lacking or by_foot or not cause.by_hand:
        return cause.check
    return say.joined(cause.check, cause.by_hand, by=" ")


def _changed(cause: Cause, case: Case) -> NextChange | None:
    """The cause's change on this machine, with what it does; None where there is none to make."""
    if cause.change is None:
        return None
    job, settings, machine = case.job, case.settings, case.machine
    key, entry = cause.change.setting, BY_KEY[cause.change.setting]
    slope_by_foot = job.control == "pedal" and key in ("up_slope_s", "down_slope_s")
    if slope_by_foot or (entry.group and get_value(settings, key) is None):
        return None  # the foot makes the slopes, and a group that is off has nothing to change
    if not machine.sets(key):
        return None  # the check says what the hand does instead
    try:
        after = _in_steps(settings, _set(cause.change, job, settings), key, machine, job)
    except BadInput:
        return None
    old, new = (_said(get_value(each, key), key) for each in (settings, after))
    if old == new:
        return None
    if newly_broken(job, settings, after, machine, c=case.c):
        return None  # what mends one thing must not break another
    was, now = consequences(job, settings, machine, case.c), consequences(job, after, machine, case.c)
    return NextChange(
        kind="setting",
        setting=key,
        settings=after,
        said=plainly_said(settings, after, key, (old, new), machine),
        why=f"{cause.words}.",
        on_panel=change_on_panel(settings, after, key, machine),
        effects=effects_of(was, now),
        expected_border_mm=now.border_mm,
        expected_width_mm=now.pool_width_mm,
    )


def _in_steps(settings: Settings, after: Settings, key: str, machine: Machine, job: Job) -> Settings:
    """The change as the machine and its panel can make it: within the range, in the control's own steps, and
    a whole step where the change is smaller than that.
    """
    inside = within_machine(after, machine)
    after = with_value(after, key, get_value(inside, key), job.control)
    control = machine.control(key)
    if control is None or BY_KEY[key].dimension is None:
        return after
    before, wanted = get_value(settings, key), get_value(after, key)
    was, now = (_place(each, key, machine) for each in (settings, after))
    if was == now and was is not None and wanted != before:
        rising = control.scale.points[-1][1] >= control.scale.points[0][1]
        now = was + control.scale.step * (1 if (wanted > before) == rising else -1)
        if not control.scale.points[0][0] <= now <= control.scale.points[-1][0]:
            return settings
    if now is not None:
        wanted = get_value(read_panel({key: now}, machine, after, job.control), key)
    return with_value(after, key, wanted, job.control)


def _place(settings: Settings, key: str, machine: Machine) -> float | None:
    """Where a control of the panel stands; None where the panel does not show it."""
    return next((line.value for line in show_on_panel(settings, machine).lines if line.setting == key), None)


def _set(change: FaultChange, job: Job, settings: Settings) -> Settings:
    value = get_value(settings, change.setting)
    if change.to is not None:
        value = change.to
    elif change.times is not None:
        value = round(value * change.times)
    else:
        entry = BY_KEY[change.setting]
        low, high = _bounds(change.setting)
        value = round(min(max((value or 0.0) + (change.by or 0.0), low), high), 3 if entry.decimals else 2)
    after = with_value(settings, change.setting, value, job.control)
    if change.setting == "shape_en":
        after = with_value(after, "shape_ep", value)
    return after


def _bounds(key: str) -> tuple[float, float]:
    return {"ep_share": (0.15, 0.5), "ep_trim": (-0.6, 0.0)}.get(key, (0.0, 1e4))


def _said(value: float | str | None, key: str) -> Words:
    entry = BY_KEY[key]
    if value is None:
        return "none"
    if isinstance(value, str) or entry.dimension is None:
        return str(value)
    return said_setting(value, entry.dimension, entry.decimals)
