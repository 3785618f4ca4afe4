"""The axes that a map can have: what each means for settings and job, and how far it goes."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from anvilsong.core.job import Control, Job
from anvilsong.core.machine import Machine
from anvilsong.core.model import Situation
from anvilsong.core.prep import FASTEST_HAND_MM_S, SLOWEST_HAND_MM_S, limit_for
from anvilsong.core.registry import with_value
from anvilsong.core.settings import Settings
from anvilsong.core.units import Dimension
from anvilsong.core.value import LEAST_THICKNESS_MM, MOST_THICKNESS_MM

AxisKey = Literal[
    "amps_run", "travel_mm_s", "ep_share", "ep_trim", "frequency_hz", "preheat_c", "thickness_mm", "ep_amps"
]


@dataclass(frozen=True)
class MapAxis:
    """One axis: its words, dimension and decimals; ``lane`` is the board's lane whose marks it shows."""

    key: AxisKey
    words: str
    dimension: Dimension
    decimals: int
    lane: str | None


AXES: dict[AxisKey, MapAxis] = {
    axis.key: axis
    for axis in (
        MapAxis("amps_run", "Welding amps", "current", 0, "amps_run"),
        MapAxis("travel_mm_s", "Travel", "speed", 1, "travel_mm_s"),
        MapAxis("ep_share", "AC balance", "balance", 0, "ep_share"),
        MapAxis("ep_trim", "EP amplitude", "amplitude", 0, "ep_trim"),
        MapAxis("frequency_hz", "AC frequency", "number", 0, "frequency_hz"),
        MapAxis("preheat_c", "Preheat", "temperature", 0, "preheat_c"),
        MapAxis("thickness_mm", "Thickness", "length", 1, None),
        MapAxis("ep_amps", "EP amps", "current", 0, None),
    )
}


def axes_of(machine: Machine) -> dict[AxisKey, MapAxis]:
    """The axes that a machine leaves a choice in."""
    fixed = {
        "ep_trim": not machine.can_trim,
        "ep_amps": not machine.can_trim,
        "ep_share": machine.least_ep_share == machine.most_ep_share,
        "frequency_hz": machine.least_frequency_hz == machine.most_frequency_hz,
    }
    return {key: axis for key, axis in AXES.items() if not fixed.get(key)}


def axis_value(key: AxisKey, at: Situation, settings: Settings) -> float:
    """Where settings and job stand on an axis."""
    match key:
        case "preheat_c":
            return settings.preheat_c if settings.preheat_c is not None else at.job.part_temperature_c
        case "thickness_mm":
            return at.job.a.thickness_mm
        case "ep_amps":
            return settings.amps_run * (1 + settings.ep_trim)
        case _:
            return float(getattr(settings, key))


def axis_range(key: AxisKey, at: Situation, settings: Settings, machine: Machine) -> tuple[float, float]:
    """How far the axis goes: round the value, a little past what machine, hand and alloy allow."""
    here = axis_value(key, at, settings)
    match key:
        case "amps_run":
            low, high = 0.5 * here, max(1.5 * here, min(1.05 * machine.most_a, 1.7 * here))
        case "ep_amps":
            low, high = 0.4 * here, 2.0 * here
        case "travel_mm_s":
            low, high = 0.8 * SLOWEST_HAND_MM_S, max(1.1 * FASTEST_HAND_MM_S, 1.2 * here)
        case "ep_share":
            low, high = min(0.10, here), max(0.55, here)
        case "ep_trim":
            low, high = min(-0.6, here), max(0.4, here)
        case "frequency_hz":
            low, high = (
                max(20.0, 0.8 * machine.least_frequency_hz),
                min(400.0, 1.1 * machine.most_frequency_hz),
            )
        case "preheat_c":
            low = at.job.part_temperature_c
            high = max(limit_for(at).limit_c * 1.3, low + 60, here)
        case "thickness_mm":
            low, high = max(LEAST_THICKNESS_MM, 0.4 * here), min(MOST_THICKNESS_MM, 1.8 * here)
    return min(low, here), max(high, here, low + 1e-3)


def with_axis(settings: Settings, key: AxisKey, value: float | None, control: Control) -> Settings:
    """The settings with an axis's value, None for no preheat; thickness is no setting, and leaves them.

    Raises
    ------
    BadInput : a value that no setting may have
    """
    match key:
        case "thickness_mm":
            return settings
        case "ep_amps":
            assert value is not None
            return with_value(settings, "ep_trim", value / settings.amps_run - 1, control)
        case _:
            return with_value(settings, key, value, control)


def with_thickness(job: Job, thickness_mm: float) -> Job:
    """The job in another thickness, its second side in proportion; a bevel that is given stays."""
    share = thickness_mm / job.a.thickness_mm
    given = job.model_dump()
    for name, side in (("a", job.a), ("b", job.b)):
        thick = min(max(side.thickness_mm * share, LEAST_THICKNESS_MM), MOST_THICKNESS_MM)
        given[name] = {"alloy": side.alloy, "thickness": round(thick, 4)}
    return Job.model_validate(given)
