"""Passes: how many, what each fills, and its own amps."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Literal

from pydantic import BaseModel, ConfigDict

from anvilsong.core.arc.waveform import heat_per_amp_w
from anvilsong.core.coefficients import Coefficients
from anvilsong.core.heat.moving_source import heat_for_width_w
from anvilsong.core.metal.fillers import rod_diameter_mm
from anvilsong.core.metal.sections import fillet_mm2
from anvilsong.core.plan.situation import LARGEST_ONE_PASS_LEG_MM, Situation
from anvilsong.core.settings import Settings

PASS_WINDOW = (0.92, 1.10)


class Pass(BaseModel):
    """One pass: filler section mm², pool width mm, amps under the foot, rod mm."""

    model_config = ConfigDict(frozen=True)

    number: int
    kind: Literal["single", "root", "fill", "cap"]
    section_mm2: float
    pool_width_mm: float
    amps_run: float
    amps_window: tuple[float, float]
    rod_mm: float | None


def passes(at: Situation, settings: Settings, c: Coefficients) -> list[Pass]:
    """The passes that fill the whole section, in order.

    The first carries what the settings were made for; the rest is shared evenly by passes of at most a 6 mm fillet (18 mm²).
    """
    more, section = later_passes(at)
    if more == 0:
        return [_first(at, settings, "single", at.whole.total_mm2)]
    later = [
        _later(at, settings, c, place, "cap" if place == more + 1 else "fill", section)
        for place in range(2, more + 2)
    ]
    return [_first(at, settings, "root", at.section_mm2), *later]


def later_passes(at: Situation) -> tuple[int, float]:
    """How many passes follow the first, and the section of each, mm²."""
    rest = at.whole.total_mm2 - at.section_mm2
    more = math.ceil(rest / fillet_mm2(LARGEST_ONE_PASS_LEG_MM) - 1e-9) if rest > 0.05 * at.section_mm2 else 0
    return more, rest / more if more else 0.0


def later_heat_w(
    at: Situation, section_mm2: float, travel_mm_s: float, preheat_c: float | None, c: Coefficients
) -> float:
    """Heat of a fill or cap pass, W: the fillet rule for its own section, in the whole thickness, and its rod."""
    plate = replace(at.plate(travel_mm_s), thickness_mm=at.mean_thickness_mm)
    pool = (
        at.heat_factor
        * at.position_factor
        * heat_for_width_w(plate, later_width_mm(at, section_mm2), at.contour_k(preheat_c))
    )
    return pool + section_mm2 * travel_mm_s * c.filler_j_per_mm3


def later_width_mm(at: Situation, section_mm2: float) -> float:
    """Pool width of a fill or cap pass, mm: leg × 1.4 with leg = √(2·section), at least 2.5 + 0.6·t."""
    return max(1.4 * math.sqrt(2 * section_mm2), 2.5 + 0.6 * min(at.mean_thickness_mm, 10.0))


def _first(at: Situation, settings: Settings, kind: Literal["single", "root"], section: float) -> Pass:
    amps = settings.amps_run
    rod = settings.filler.diameter_mm if settings.filler else None
    return Pass(
        number=1,
        kind=kind,
        section_mm2=section,
        pool_width_mm=at.wanted_width_mm,
        amps_run=amps,
        amps_window=_window(amps),
        rod_mm=rod,
    )


def _later(
    at: Situation,
    settings: Settings,
    c: Coefficients,
    number: int,
    kind: Literal["fill", "cap"],
    section: float,
) -> Pass:
    heat = later_heat_w(at, section, settings.travel_mm_s, settings.preheat_c, c)
    amps = heat / heat_per_amp_w(settings.wave(), c, at.job.arc_length_mm, at.job.helium_share)
    rod = (
        rod_diameter_mm(max(at.job.thin_mm, math.sqrt(2 * section)), (2.4, 3.2, 4.0))
        if settings.filler
        else None
    )
    width = later_width_mm(at, section)
    return Pass(
        number=number,
        kind=kind,
        section_mm2=section,
        pool_width_mm=width,
        amps_run=amps,
        amps_window=_window(amps),
        rod_mm=rod,
    )


def _window(amps: float) -> tuple[float, float]:
    return amps * PASS_WINDOW[0], amps * PASS_WINDOW[1]
