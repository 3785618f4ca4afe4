"""The board as a value: one lane a setting, with range, window, schools' marks and reason."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel, ConfigDict

from anvilsong.core import say
from anvilsong.core.arc.frequency import frequency_band, school_factor
from anvilsong.core.heat.pedal import HEADROOM
from anvilsong.core.machine import SHAPE_WORDS, Machine
from anvilsong.core.model import LEAST_EP_SHARE, MOST_EP_SHARE, Plan, Reason, situation
from anvilsong.core.plan import BALANCE_SHIFT, TRIM_WHEN_TRIMMED
from anvilsong.core.prep import limit_for
from anvilsong.core.registry import BOARD, DEFAULT_GROUPS, Setting, get_value
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.torch.cup import bore_mm
from anvilsong.core.torch.gas import flow_for

# How a run begins and ends, gas with it: without a control the machine does as it does.
ENDS = ("start_amps", "finish_amps", "up_slope_s", "down_slope_s", "pre_flow_s", "post_flow_s")

# As fast as settings may say; and lanes of which both ends are used, far apart.
FASTEST_PULSE_HZ, BY_RATIO = 500.0, ("pulse_rate_hz",)


class Lane(BaseModel):
    """One lane. All values in inside units; ``value`` None when its group (pulse, mix) is off.

    A lane of choices has ``names``, and its values are their places; a lane of fixed sizes has ``stops``.
    On a lane ``by_ratio`` equal ways are equal ratios: a pulse of 1.6 Hz is set as easily as one of 300.
    """

    model_config = ConfigDict(frozen=True)

    key: str
    words: str
    group: str
    dimension: str
    decimals: int
    step: float
    low: float
    high: float
    value: float | None
    planned: float | None
    rest: float
    """Where the tab stands while the lane is off."""
    window: tuple[float, float] | None
    """Sound values; None where nothing is sound, or nothing can be said against any value."""
    best: tuple[float, float] | None
    ends: tuple[str, str] = ("", "")
    empty: str = ""
    marks: list[tuple[str, float]]
    names: list[str] = []
    choices: list[str] = []
    stops: list[float] = []
    by_ratio: bool = False
    said: Words
    reason: Reason | None = None


def board(plan: Plan, settings: Settings, machine: Machine) -> list[Lane]:
    """The lanes of a plan, with the chosen settings' values as their tabs. What the machine does not have
    has no lane.
    """
    if plan.settings is None:
        return []
    missing = {
        key
        for key, has in (
            ("ep_trim", machine.can_trim),
            ("pulse", machine.can_pulse),
            ("mix", machine.can_mix),
        )
        if not has
    }
    # Where the machine leaves no choice there is nothing to move.
    fixed = (
        ("amps_run", plan.job.control != "pedal"),
        ("shape_en", len(machine.shapes) < 2),
        ("frequency_hz", machine.least_frequency_hz == machine.most_frequency_hz),
        ("ep_share", machine.least_ep_share == machine.most_ep_share),
    )
    missing |= {key for key, is_fixed in fixed if is_fixed}
    missing |= {key for key in ENDS if not machine.sets(key)}
    entries = [entry for entry in BOARD if entry.key not in missing and entry.group not in missing]
    if plan.settings.filler is None:
        entries = [entry for entry in entries if entry.key != "filler_mm"]
    return [_lane(entry, plan, plan.settings, settings, machine) for entry in entries]


def lane_value(entry: Setting, settings: Settings, machine: Machine, part_c: float = 20.0) -> float | None:
    """A setting as its lane counts it: choices by their place, no preheat as the part's own temperature."""
    value: Any = get_value(settings, entry.key)
    if entry.dimension is None:
        return float(machine.shapes.index(value)) if value in machine.shapes else 0.0
    if entry.key == "preheat_c" and value is None:
        return part_c
    return None if value is None else float(value)


def _lane(entry: Setting, plan: Plan, planned: Settings, settings: Settings, machine: Machine) -> Lane:
    part_c = plan.job.part_temperature_c
    value, first = (lane_value(entry, chosen, machine, part_c) for chosen in (settings, planned))
    stand = [each for each in (value, first) if each is not None]
    low, high = _on_panel(entry, _range(entry, plan, planned, machine), stand, machine)
    reason = plan.reason(entry.key)
    window, best = (_cut(bands.get(entry.key), low, high) for bands in (plan.windows, plan.best))
    marks = [(words, at) for words, at in _marks(entry.key, plan, planned) if low <= at <= high]
    return Lane(
        key=entry.key,
        words=entry.words,
        group=entry.lane or "more",
        dimension=entry.dimension or "number",
        decimals=entry.decimals,
        step=entry.step,
        low=low,
        high=high,
        value=value,
        planned=first,
        rest=first if first is not None else _usual(entry),
        window=window,
        best=best,
        ends=plan.ends.get(entry.key, ("", "")),
        empty=plan.empty.get(entry.key, ""),
        marks=marks,
        names=[SHAPE_WORDS[shape] for shape in machine.shapes] if entry.dimension is None else [],
        choices=list(machine.shapes) if entry.dimension is None else [],
        stops=[stop for stop in entry.stops if low <= stop <= high],
        by_ratio=entry.key in BY_RATIO,
        said=_said(entry, plan, reason),
        reason=reason,
    )


def _cut(band: tuple[float, float] | None, low: float, high: float) -> tuple[float, float] | None:
    """A band inside a lane; None when none of it is."""
    if band is None or band[0] > high or band[1] < low:
        return None
    return max(low, band[0]), min(high, band[1])


def _usual(entry: Setting) -> float:
    head, _, name = entry.path.partition(".")
    return float(getattr(DEFAULT_GROUPS[head], name)) if head in DEFAULT_GROUPS else entry.low


def _said(entry: Setting, plan: Plan, reason: Reason | None) -> Words:
    said = reason.said if reason else entry.help
    # With a torch switch the pool's amps have no lane of their own, so the machine's says both.
    running = plan.reason("amps_run")
    both = entry.key == "amps_set" and plan.job.control != "pedal" and running
    return say.joined(said, " ", running.said) if both and running else said


def _range(entry: Setting, plan: Plan, planned: Settings, machine: Machine) -> tuple[float, float]:
    """The machine's range, end to end; gas by the cup, preheat by the metal."""
    match entry.key:
        case "amps_set" | "amps_run":
            return machine.least_a, machine.most_a
        case "start_amps" | "finish_amps":
            return machine.least_a, max(machine.least_a + 1, machine.most_a / 2)
        case "ep_share":
            return machine.least_ep_share, machine.most_ep_share
        case "frequency_hz":
            return machine.least_frequency_hz, machine.most_frequency_hz
        case "ep_trim":
            return machine.least_trim, machine.most_trim
        case "shape_en":
            return 0.0, float(len(machine.shapes) - 1)
        case "pulse_rate_hz":
            return min(0.5, machine.most_pulse_hz), min(FASTEST_PULSE_HZ, machine.most_pulse_hz)
        case "flow_l_min":
            bore = bore_mm(planned.cup.number)
            return round(float(flow_for(400, bore)), 1), round(float(flow_for(2600, bore)), 1)
        case "preheat_c":
            low = plan.job.part_temperature_c
            return low, max(limit_for(situation(plan.job)).limit_c, low + 1)
    return entry.low, entry.high


def _on_panel(
    entry: Setting, ends: tuple[float, float], stand: list[float], machine: Machine
) -> tuple[float, float]:
    """The ends of a lane, no further than the control's own where it shows the value itself, and than what
    stands in the settings.
    """
    control = machine.control(entry.key)
    if control is None or control.basis != "value" or entry.dimension is None or control.scale.is_fixed:
        return ends
    meanings = [meaning for _, meaning in control.scale.points]
    low, high = max(ends[0], min(*meanings, *stand)), min(ends[1], max(*meanings, *stand))
    return (low, high) if low < high else ends


def _marks(key: str, plan: Plan, planned: Settings) -> list[tuple[str, float]]:
    at = situation(plan.job)
    match key:
        case "amps_set" if plan.job.control == "pedal":
            return [(school, planned.amps_run * HEADROOM[school]) for school in ("patient", "middle", "hot")]
        case "ep_share":
            base = at.surface.ep_share
            return [
                (school, min(max(base + shift, LEAST_EP_SHARE), MOST_EP_SHARE))
                for school, shift in BALANCE_SHIFT.items()
            ]
        case "frequency_hz":
            band = frequency_band(plan.job.thin_mm, at.joint.band, at.is_casting, plan.job.gap_mm)
            return [
                (school, (band.low_hz + band.high_hz) / 2 * school_factor(school))
                for school in ("wide", "middle", "tight")
            ]
        case "ep_trim":
            return [("trimmed", TRIM_WHEN_TRIMMED), ("symmetrical", 0.0)]
    return []
