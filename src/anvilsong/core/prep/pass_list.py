"""Passes: how many, what each fills, and its own amps."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Literal

from anvilsong.core.arc.waveform import heat_per_amp_w
from anvilsong.core.coefficients import Coefficients
from anvilsong.core.joint import POOL_PER_LEG, fillet_mm2, groove_face_mm, pool_wet_mm
from anvilsong.core.metal.fillers import rod_diameter_mm
from anvilsong.core.model import Pass, Situation
from anvilsong.core.prep.gap import GapStep, bridge_gap, needs_bridging
from anvilsong.core.settings import Settings

PASS_WINDOW = (0.92, 1.10)
CAP_OVER_FACE_MM, MOST_CAP_MM = 1.5, 10.5  # beyond the groove; wider ones get beads side by side


@dataclass(frozen=True)
class Later:
    """A pass after the first: filler section mm², pool width mm."""

    kind: Literal["fill", "cap"]
    section_mm2: float
    width_mm: float


def passes(at: Situation, settings: Settings, c: Coefficients) -> list[Pass]:
    """The passes that fill the whole section, in order.

    The first carries what the settings were made for; the rest is shared evenly by passes of at most a 6
    mm fillet (18 mm²).
    A gap that has to be bridged is closed by its own steps, which are then the passes.
    """
    if needs_bridging(at):
        return [
            _of_gap(at, number, step) for number, step in enumerate(_with_arc(bridge_gap(at, settings)), 1)
        ]
    later = later_passes(at)
    if not later:
        return [_first(at, settings, "single", at.whole.total_mm2)]
    rest = [_later(at, settings, c, number, each) for number, each in enumerate(later, 2)]
    return [_first(at, settings, "root", at.section_mm2), *rest]


def later_passes(at: Situation) -> list[Later]:
    """The passes that follow the first, each with its share of what is left to fill.

    A pool is as wide as the fillet rule wants it, leg × 1.4 with leg = √(2·section), at least 2.5 + 0.6·t;
    the cap also
    wets both edges of the groove, as far as one pool reaches.
    """
    rest = at.whole.total_mm2 - at.section_mm2
    more = (
        math.ceil(rest / fillet_mm2(at.weld.one_pass_leg_mm(at.job)) - 1e-9)
        if rest > 0.05 * at.section_mm2
        else 0
    )
    if more == 0:
        return []
    section = rest / more
    width = max(POOL_PER_LEG * math.sqrt(2 * section), pool_wet_mm(at.mean_thickness_mm))
    face = groove_face_mm(at.job, at.mean_thickness_mm)
    cap = max(width, min(face + CAP_OVER_FACE_MM, MOST_CAP_MM)) if face > 0 else width
    fills = [Later("fill", section, width)] * (more - 1)
    return [*fills, Later("cap", section, cap)]


def later_heat_w(
    at: Situation, later: Later, travel_mm_s: float, preheat_c: float | None, c: Coefficients
) -> float:
    """Heat of a fill or cap pass, W: that of its pool in the whole thickness, and its rod."""
    plate = replace(at.plate(travel_mm_s), thickness_mm=at.mean_thickness_mm)
    plain = float(at.heat_model.heat_w(plate, later.width_mm, at.contour_k(preheat_c)))
    return at.heat_factor * at.position_factor * plain + later.section_mm2 * travel_mm_s * c.filler_j_per_mm3


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


def _later(at: Situation, settings: Settings, c: Coefficients, number: int, later: Later) -> Pass:
    heat = later_heat_w(at, later, settings.travel_mm_s, settings.preheat_c, c)
    amps = heat / heat_per_amp_w(settings.wave(), c, at.job.arc_length_mm, at.job.helium_share)
    rod = None
    if settings.filler:
        rod = rod_diameter_mm(max(at.job.thin_mm, math.sqrt(2 * later.section_mm2)), (2.4, 3.2, 4.0))
    return Pass(
        number=number,
        kind=later.kind,
        section_mm2=later.section_mm2,
        pool_width_mm=later.width_mm,
        amps_run=amps,
        amps_window=_window(amps),
        rod_mm=rod,
    )


def _with_arc(steps: list[GapStep]) -> list[GapStep]:
    return [step for step in steps if step.amps is not None]


def _of_gap(at: Situation, number: int, step: GapStep) -> Pass:
    """A step that closes a gap, as a pass: its filler spread over the whole length."""
    assert step.amps is not None
    return Pass(
        number=number,
        kind=step.kind,
        section_mm2=step.volume_mm3 / at.job.weld_length_mm,
        pool_width_mm=at.wanted_width_mm,
        amps_run=step.amps,
        amps_window=step.amps_window or _window(step.amps),
        rod_mm=step.rod_mm,
    )


def _window(amps: float) -> tuple[float, float]:
    return amps * PASS_WINDOW[0], amps * PASS_WINDOW[1]
