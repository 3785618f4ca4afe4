"""What amps trade against: the travel and the warmth of the part that hold the same pool."""

from __future__ import annotations

from typing import overload

import numpy as np

from anvilsong.core.arc.waveform import Numbers, heat_per_amp_w
from anvilsong.core.coefficients import Coefficients
from anvilsong.core.model import Situation
from anvilsong.core.prep.preheat import limit_for
from anvilsong.core.settings import Settings

# What a hand can hold on ordinary beads, mm/s; and the quick edge passes of thin sheet.
SLOWEST_HAND_MM_S, FASTEST_HAND_MM_S = 1.5, 8.0
COMFORT_MM_S = (1.5, 6.0)
TRAVEL_FACTORS = (0.5, 0.65, 0.8, 0.9, 1.0, 1.15, 1.35, 1.6)
WARMTH_STEP_C = 20.0
NEAR_MM_S = 0.01


@overload
def need_a(
    at: Situation, per_amp_w: float, travel_mm_s: float, preheat_c: float | None, c: Coefficients
) -> float: ...


@overload
def need_a(
    at: Situation, per_amp_w: float, travel_mm_s: Numbers, preheat_c: Numbers | None, c: Coefficients
) -> Numbers: ...


def need_a(
    at: Situation, per_amp_w: float, travel_mm_s: Numbers, preheat_c: Numbers | None, c: Coefficients
) -> Numbers:
    """Amps for the wanted pool and its rod at a speed: (q + q_rod)/(heat per ampere)."""
    heat = at.wanted_pool_heat_w(travel_mm_s, preheat_c) + at.filler_heat_w(travel_mm_s, c)
    return heat / per_amp_w


def travel_for_amps(at: Situation, settings: Settings, c: Coefficients) -> list[tuple[float, float]]:
    """Pairs of amps under the foot and travel, mm/s, that hold this plan's pool, slowest first, within what a
    hand holds.

    The plan's own travel is one of them; the rest of the settings stays.
    """
    per_amp = heat_per_amp_w(settings.wave(), c, at.job.arc_length_mm, at.job.helium_share)
    within = np.clip(settings.travel_mm_s * np.array(TRAVEL_FACTORS), SLOWEST_HAND_MM_S, FASTEST_HAND_MM_S)
    speeds = np.unique([round(float(speed), 2) for speed in (*within, settings.travel_mm_s)])
    amps = np.asarray(need_a(at, per_amp, speeds, settings.preheat_c, c))
    return [(round(float(a), 1), float(speed)) for a, speed in zip(amps, speeds, strict=True)]


def amps_for_warmth(at: Situation, settings: Settings, c: Coefficients) -> list[tuple[float, float]]:
    """Pairs of part temperature, °C, and amps that hold this plan's pool, up to the alloy's limit.

    The pool's heat goes with the rise to the contour; the rod's stays.
    """
    per_amp = heat_per_amp_w(settings.wave(), c, at.job.arc_length_mm, at.job.helium_share)
    start, limit = at.job.part_temperature_c, limit_for(at).limit_c
    if limit <= start:
        return []
    steps = np.unique(np.append(np.arange(start, limit, WARMTH_STEP_C), limit))
    amps = np.asarray(need_a(at, per_amp, settings.travel_mm_s, steps, c))
    return [(round(float(warm), 1), round(float(a), 1)) for warm, a in zip(steps, amps, strict=True)]


def travel_up_to(
    at: Situation,
    per_amp_w: float,
    preheat_c: float | None,
    least_a: float,
    usual_mm_s: float,
    c: Coefficients,
) -> float:
    """The slowest travel, mm/s, from the usual one up, at which the pool takes as many amps; the fastest that
    a hand goes where it takes fewer at any.
    """
    low, high = usual_mm_s, FASTEST_HAND_MM_S
    if low >= high or need_a(at, per_amp_w, high, preheat_c, c) < least_a:
        return max(low, high)
    while high - low > NEAR_MM_S:
        middle = (low + high) / 2
        low, high = (
            (low, middle) if need_a(at, per_amp_w, middle, preheat_c, c) >= least_a else (middle, high)
        )
    return round(high + 0.005, 2)


def travel_within(
    at: Situation,
    per_amp_w: float,
    preheat_c: float | None,
    most_a: float,
    usual_mm_s: float,
    c: Coefficients,
) -> float | None:
    """The fastest travel, mm/s, at which some amps make the pool; None when a hand cannot go that slowly."""
    low, high = SLOWEST_HAND_MM_S, usual_mm_s
    if low >= high or need_a(at, per_amp_w, low, preheat_c, c) > most_a:
        return None
    while high - low > NEAR_MM_S:
        middle = (low + high) / 2
        low, high = (middle, high) if need_a(at, per_amp_w, middle, preheat_c, c) <= most_a else (low, middle)
    return round(low - 0.005, 2)
