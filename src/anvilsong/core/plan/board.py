"""The board as a value: one lane a setting, with range, window, schools' marks, ties and reason."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict

from anvilsong.core.arc.frequency import frequency_band, school_factor
from anvilsong.core.machine.model import Machine
from anvilsong.core.plan.planner import BALANCE_SHIFT, TRIM_WHEN_TRIMMED
from anvilsong.core.plan.reasons import headroom_marks
from anvilsong.core.plan.situation import LEAST_EP_SHARE, MOST_EP_SHARE, situation
from anvilsong.core.plan.values import Plan, Reason
from anvilsong.core.registry import BOARD, Setting, get_value
from anvilsong.core.settings import Settings
from anvilsong.core.torch.cup import bore_mm
from anvilsong.core.torch.gas import flow_for


class Lane(BaseModel):
    """One lane. All values in inside units; ``window`` and ``marks`` lie between ``low`` and ``high``."""

    model_config = ConfigDict(frozen=True)

    key: str
    words: str
    dimension: str
    decimals: int
    step: float
    low: float
    high: float
    value: float
    planned: float
    window: tuple[float, float]
    marks: list[tuple[str, float]]
    said: str
    reason: Reason | None = None


def board(plan: Plan, settings: Settings, machine: Machine) -> list[Lane]:
    """The lanes of a plan, with the chosen settings' values as their tabs."""
    if plan.settings is None:
        return []
    return [_lane(entry, plan, plan.settings, settings, machine) for entry in BOARD if entry.key != "ep_trim" or machine.can_trim]


def _lane(entry: Setting, plan: Plan, planned: Settings, settings: Settings, machine: Machine) -> Lane:
    value, first = float(get_value(settings, entry.key)), float(get_value(planned, entry.key))
    low, high = _range(entry, planned, machine)
    reason = plan.reason(entry.key)
    window = plan.windows.get(entry.key, (first, first))
    marks = [(words, at) for words, at in _marks(entry.key, plan, planned) if low <= at <= high]
    dimension = entry.dimension or "number"
    return Lane(
        key=entry.key,
        words=entry.words,
        dimension=dimension,
        decimals=entry.decimals,
        step=entry.step,
        low=low,
        high=high,
        value=value,
        planned=first,
        window=(max(low, window[0]), min(high, window[1])),
        marks=marks,
        said=_said(entry.key, plan, reason),
        reason=reason,
    )


def _said(key: str, plan: Plan, reason: Reason | None) -> str:
    said = reason.said if reason else ""
    # Full amps are understood through the running amps, so the lane says both.
    running = plan.reason("amps_run")
    return f"{said} {running.said}" if key == "amps_set" and running else said


def _range(entry: Setting, planned: Settings, machine: Machine) -> tuple[float, float]:
    """The machine's range, end to end; gas by the cup."""
    match entry.key:
        case "amps_set":
            return machine.least_a, machine.most_a
        case "ep_share":
            return machine.least_ep_share, machine.most_ep_share
        case "frequency_hz":
            return machine.least_frequency_hz, machine.most_frequency_hz
        case "ep_trim":
            return machine.least_trim, machine.most_trim
        case "flow_l_min":
            bore = bore_mm(planned.cup.number)
            return round(float(flow_for(400, bore)), 1), round(float(flow_for(2600, bore)), 1)
    return entry.low, entry.high


def _marks(key: str, plan: Plan, planned: Settings) -> list[tuple[str, float]]:
    at = situation(plan.job)
    match key:
        case "amps_set" if plan.job.control == "pedal":
            return headroom_marks(planned.amps_run)
        case "ep_share":
            base = at.surface.ep_share
            return [(school, min(max(base + shift, LEAST_EP_SHARE), MOST_EP_SHARE)) for school, shift in BALANCE_SHIFT.items()]
        case "frequency_hz":
            band = frequency_band(plan.job.thin_mm, plan.job.joint, at.is_casting)
            return [(school, (band.low_hz + band.high_hz) / 2 * school_factor(school)) for school in ("wide", "middle", "tight")]
        case "ep_trim":
            return [("trimmed", TRIM_WHEN_TRIMMED), ("symmetrical", 0.0)]
    return []
