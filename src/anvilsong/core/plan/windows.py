"""Windows in two bands: how far each setting may move, and within which part the plan's aims are met."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from anvilsong.core.arc.frequency import frequency_band, school_factor
from anvilsong.core.arc.waveform import Wave
from anvilsong.core.coefficients import Coefficients
from anvilsong.core.heat.pedal import TOO_COARSE
from anvilsong.core.machine.model import Machine
from anvilsong.core.plan.checks import LEAST_BORDER_MM, MELT_AMBER, MOST_BORDER_MM
from anvilsong.core.plan.consequences import ROOT_SHORT, figures
from anvilsong.core.plan.situation import LEAST_EP_SHARE, MOST_EP_SHARE, Situation
from anvilsong.core.registry import get_value
from anvilsong.core.settings import Settings
from anvilsong.core.torch.cup import bore_mm
from anvilsong.core.torch.gas import (
    BEST_REYNOLDS,
    LEAST_REYNOLDS,
    MOST_REYNOLDS,
    flow_for,
    planned_flow_l_min,
)
from anvilsong.core.torch.tungsten import LOAD_AT_RUN, LOAD_AT_SET, find_size, tungsten_load

Grid = NDArray[np.float64]
Span = tuple[float, float]
Bands = tuple[Span, Span]  # sound, best

NARROWEST, WIDEST = 0.90, 1.15
LEAST_WIDTH, LEAST_SHARE_WIDTH = 0.02, 0.01  # of the value; and where that is 0, such as an untouched trim
# A hand goes this much slower or faster and still makes the same bead; slower than 1.5 and faster than 8 mm/s no hand holds.
HAND_TRAVEL, SLOWEST_HAND_MM_S, FASTEST_HAND_MM_S = (0.75, 1.3), 1.5, 8.0
LEAST_IN_HAND, MOST_IN_HAND = 1.05, 1.5  # of the amps under the foot
SOUND_SHARE, SOUND_LOADS = (0.15, 0.50), (0.95, 1.2)


@dataclass(frozen=True)
class Windows:
    """Low and high for each setting that has a window, in inside units.

    ``best`` holds the values with which this plan's aims are met at its own travel; ``sound`` every value with which a
    practised hand makes this weld, travel following as far as a hand can. plan ∈ best ⊆ sound ⊆ what the machine can do.
    """

    sound: dict[str, Span]
    best: dict[str, Span]


def windows(at: Situation, settings: Settings, machine: Machine, c: Coefficients) -> Windows:
    """Both bands of every setting that has one."""
    reach = _machine_reach(machine)
    found = {key: bands(at, settings, machine, c) for key, bands in _BANDS.items()}
    foot = found["amps_run"]
    pedal = at.job.control == "pedal"
    found["amps_set"] = _ceiling(settings, foot, settings.start_amps) if pedal else foot
    plan = {key: float(get_value(settings, key)) for key in found}
    best = {key: _holding(found[key][1], plan[key], reach.get(key)) for key in found}
    sound = {key: _holding(_union(found[key][0], best[key]), plan[key], reach.get(key)) for key in found}
    return Windows(sound, best)


def _machine_reach(machine: Machine) -> dict[str, Span]:
    return {
        "amps_run": (machine.least_a, machine.most_a),
        "amps_set": (machine.least_a, machine.most_a),
        "ep_share": (machine.least_ep_share, machine.most_ep_share),
        "frequency_hz": (machine.least_frequency_hz, machine.most_frequency_hz),
        "ep_trim": (machine.least_trim, machine.most_trim) if machine.can_trim else (0.0, 0.0),
    }


def _union(one: Span, other: Span) -> Span:
    return min(one[0], other[0]), max(one[1], other[1])


def _holding(span: Span, value: float, reach: Span | None) -> Span:
    """The span with the value in it, some width, and inside the machine's reach, rounded outwards."""
    low, high = _union(span, (value, value))
    least = max(LEAST_WIDTH * abs(value), LEAST_SHARE_WIDTH)
    if high - low < least:
        low, high = low - least, high + least
    if reach is not None:
        low, high = max(low, min(reach[0], value)), min(high, max(reach[1], value))
    return math.floor(low * 1e4) / 1e4, math.ceil(high * 1e4) / 1e4


def _span(grid: Grid, good: NDArray[np.bool_], value: float) -> tuple[float, float]:
    """Ends of the stretch of good grid points nearest to a value; the value itself when nothing is good."""
    places = np.flatnonzero(good)
    if places.size == 0:
        return value, value
    runs = np.split(places, np.flatnonzero(np.diff(places) > 1) + 1)
    nearest = min(
        runs,
        key=lambda run: (
            0.0
            if grid[run[0]] <= value <= grid[run[-1]]
            else min(abs(grid[run[0]] - value), abs(grid[run[-1]] - value))
        ),
    )
    return float(grid[nearest[0]]), float(grid[nearest[-1]])


def _foot(at: Situation, settings: Settings, machine: Machine, c: Coefficients) -> Bands:
    """Best: the wanted pool at the plan's travel. Sound: the same at any travel from 0.75 to 1.3 of it."""
    best = _foot_at(at, settings, machine, c)
    sound = best
    for factor in HAND_TRAVEL:
        travel = min(max(settings.travel_mm_s * factor, SLOWEST_HAND_MM_S), FASTEST_HAND_MM_S)
        moved = settings.model_copy(update={"travel_mm_s": round(travel, 2)})
        sound = _union(sound, _foot_at(at, moved, machine, c))
    return sound, best


def _ceiling(settings: Settings, foot: Bands, start_a: float) -> Bands:
    """Where the machine may be set over a foot.

    Sound: from the least the foot can do with, to where the job lies in the first third of the pedal or a full press balls
    the tungsten. Best: from a little in hand to half as much again, and a tungsten at ease when pressed all the way.
    """
    run = settings.amps_run
    coarse = start_a + max(run - start_a, 0.0) / TOO_COARSE
    bears = _most_a(settings, SOUND_LOADS[1])
    eased = _most_a(settings, LOAD_AT_SET)
    sound = (foot[0][0], max(run, min(coarse, bears)))
    return sound, (min(LEAST_IN_HAND * run, eased), max(run, min(MOST_IN_HAND * run, coarse, eased)))


def _most_a(settings: Settings, load: float) -> float:
    """Amps at which the tungsten has this load; it goes with the mean EP current, so with the amps."""
    if settings.tungsten is None:
        return math.inf
    kind = (settings.tungsten.diameter_mm, settings.tungsten.class_, settings.tungsten.tip)
    return settings.amps_set * load / max(float(tungsten_load(settings.wave(settings.amps_set), *kind)), 1e-9)


def _foot_at(at: Situation, settings: Settings, machine: Machine, c: Coefficients) -> Span:
    """Pool between 0.9 and 1.15 of the wanted width, a root of 0.35 of the top where asked, and short of sagging."""
    run = np.geomspace(
        max(machine.least_a, 0.3 * settings.amps_run),
        max(machine.least_a, min(machine.most_a, 2.5 * settings.amps_run)),
        160,
    )
    seen = figures(at, replace(settings.wave(), amps=run, frequency_hz=100.0), settings, c)
    # Out of position the whole window moves with the smaller pool that the position allows.
    aim = at.aimed_width_mm(settings.travel_mm_s, settings.preheat_c)
    pool, root = (
        np.asarray(seen.pool_width_mm) / (1 + 0.06 * (at.job.arc_length_mm - 3)),
        np.asarray(seen.root_width_mm),
    )
    good = (pool >= NARROWEST * aim) & (pool <= WIDEST * aim)
    held = good & (np.asarray(seen.melt_through) < MELT_AMBER + 0.02)
    rooted = held & (root >= ROOT_SHORT * pool) if at.wants_root else held
    best = rooted if rooted.any() else held if held.any() else good
    return _span(run, best, settings.amps_run)


def _share(at: Situation, settings: Settings, machine: Machine, c: Coefficients) -> Bands:
    share = np.linspace(0.05, 0.60, 111)
    wave = replace(settings.wave(), ep_share=share)
    return _cleaning_bands(
        at, settings, c, share, wave, settings.ep_share,
        ((SOUND_SHARE[0], SOUND_SHARE[1]), (LEAST_EP_SHARE, MOST_EP_SHARE)),
    )  # fmt: skip


def _trim(at: Situation, settings: Settings, machine: Machine, c: Coefficients) -> Bands:
    if not machine.can_trim:
        return (0.0, 0.0), (0.0, 0.0)
    trim = np.linspace(machine.least_trim, min(machine.most_trim, 0.2), 71)
    ends = (machine.least_trim, machine.most_trim)
    wave = replace(settings.wave(), ep_trim=trim)
    return _cleaning_bands(at, settings, c, trim, wave, settings.ep_trim, (ends, ends))


def _cleaning_bands(
    at: Situation,
    settings: Settings,
    c: Coefficients,
    grid: Grid,
    wave: Wave,
    value: float,
    limits: tuple[Span, Span],
) -> Bands:
    """Sound: clean toes, a border that harms nothing, a tungsten that lives. Best: the aim, and a tungsten at ease."""
    border = np.asarray(figures(at, wave, settings, c).border_mm)
    widest = at.aim.high_mm if "appearance" in at.job.purposes else MOST_BORDER_MM
    asked = (
        (LEAST_BORDER_MM, MOST_BORDER_MM, SOUND_LOADS, limits[0]),
        (at.aim.low_mm, widest, (LOAD_AT_RUN, LOAD_AT_SET), limits[1]),
    )
    loads = [np.zeros_like(grid), np.zeros_like(grid)]
    if settings.tungsten is not None:
        kind = (settings.tungsten.diameter_mm, settings.tungsten.class_, settings.tungsten.tip)
        loads = [
            np.asarray(tungsten_load(at_amps, *kind))
            for at_amps in (wave, replace(wave, amps=settings.amps_set))
        ]
    sound, best = (
        _span(
            grid,
            (border >= low) & (border <= high)
            & (loads[0] <= most_loads[0]) & (loads[1] <= most_loads[1])
            & (grid >= ends[0] - 1e-9) & (grid <= ends[1] + 1e-9),
            value,
        )
        for low, high, most_loads, ends in asked
    )  # fmt: skip
    return sound, best


def _frequency(at: Situation, settings: Settings, machine: Machine, c: Coefficients) -> Bands:
    """Best: the school's band. Sound: whatever runs, tighter for foil, thin sheet, corners and gaps, wider for plate."""
    job = at.job
    band = frequency_band(job.thin_mm, job.joint, at.is_casting, job.gap_mm)
    factor = school_factor(job.school.frequency)
    tight = job.thin_mm < 1.6 or job.joint in ("outside_corner", "inside_corner") or job.gap_mm > 0
    low = float(np.interp(job.thin_mm, (0.8, 1.6, 5.0, 8.0), (60, 50, 50, 40)))
    return (low, 250.0 if tight else 200.0), (band.low_hz * factor, band.high_hz * factor)


def _flow(at: Situation, settings: Settings, machine: Machine, c: Coefficients) -> Bands:
    """By Reynolds number in the cup: sound 800 to 1900, best 1000 to 1500."""
    bore, helium = bore_mm(settings.cup.number), at.job.helium_share
    sound, best = (
        (planned_flow_l_min(low, bore, helium), float(flow_for(high, bore, helium)))
        for low, high in ((LEAST_REYNOLDS, MOST_REYNOLDS), BEST_REYNOLDS)
    )
    return sound, best


def _post_flow(at: Situation, settings: Settings, machine: Machine, c: Coefficients) -> Bands:
    least = find_size(settings.tungsten.diameter_mm).post_flow_least_s if settings.tungsten else 3.0
    return (min(least, settings.post_flow_s), 2 * settings.post_flow_s), (
        0.8 * settings.post_flow_s,
        1.6 * settings.post_flow_s,
    )


def _pre_flow(at: Situation, settings: Settings, machine: Machine, c: Coefficients) -> Bands:
    return (0.2, 2.0), (0.3, 1.5)


_BANDS: dict[str, Callable[[Situation, Settings, Machine, Coefficients], Bands]] = {
    "amps_run": _foot,
    "ep_share": _share,
    "frequency_hz": _frequency,
    "ep_trim": _trim,
    "flow_l_min": _flow,
    "post_flow_s": _post_flow,
    "pre_flow_s": _pre_flow,
}
