"""Passes: how many, what each fills, and its own amps."""

from __future__ import annotations

import math
from typing import Literal

from anvilsong.core.arc.waveform import heat_per_amp_w
from anvilsong.core.coefficients import Coefficients
from anvilsong.core.metal.rods import rod_diameter_mm, rod_for_pass_mm
from anvilsong.core.model import Later, Pass, Situation, later_heat_w, later_within, needs_bridging
from anvilsong.core.prep.gap import GapStep, bridge_gap
from anvilsong.core.settings import Settings

PASS_WINDOW = (0.92, 1.10)
STOCKED_LATER_MM = (1.6, 2.4, 3.2, 4.0)


def passes(at: Situation, settings: Settings, c: Coefficients, most_a: float = math.inf) -> list[Pass]:
    """The passes that fill the whole section, in order.

    The first carries what the settings were made for; the rest is shared evenly by passes of at most a 6
    mm fillet (18 mm²).
    A gap that has to be bridged is closed by its own steps, which are then the passes. Where the usual passes
    want more than the machine's ``most_a``, more and smaller ones stand for them.
    """
    if needs_bridging(at):
        return [
            _of_gap(at, number, step) for number, step in enumerate(_with_arc(bridge_gap(at, settings)), 1)
        ]
    per_amp = heat_per_amp_w(settings.wave(), c, at.job.arc_length_mm, at.job.helium_share)
    later = later_within(at, per_amp, most_a, settings.travel_mm_s, settings.preheat_c, c).passes
    if not later:
        return [_first(at, settings, "single", at.whole.total_mm2)]
    rest = [_later(at, settings, c, number, each) for number, each in enumerate(later, 2)]
    return [_first(at, settings, "root", at.section_mm2), *rest]


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
        usual = rod_diameter_mm(max(at.job.thin_mm, math.sqrt(2 * later.section_mm2)), STOCKED_LATER_MM)
        rod = rod_for_pass_mm(later.section_mm2, later.width_mm, usual, STOCKED_LATER_MM)
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
