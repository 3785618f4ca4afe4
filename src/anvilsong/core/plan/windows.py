"""Windows in two bands: how far each setting may move, and within which part the plan's aims are met."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from anvilsong.core.arc.frequency import arc_width_factor, frequency_band, school_factor
from anvilsong.core.arc.waveform import Wave
from anvilsong.core.coefficients import Coefficients
from anvilsong.core.heat.pedal import TOO_COARSE
from anvilsong.core.machine.model import Machine
from anvilsong.core.metal.joints import handbook_argon_l_min
from anvilsong.core.plan.checks import MELT_AMBER
from anvilsong.core.plan.cleaning import share_limits
from anvilsong.core.plan.consequences import ROOT_SHORT, figures
from anvilsong.core.plan.situation import LEAST_BORDER_MM, MOST_BORDER_MM, Situation
from anvilsong.core.plan.trade import FASTEST_HAND_MM_S, SLOWEST_HAND_MM_S
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
Mask = NDArray[np.bool_]
Span = tuple[float, float]
Limits = list[tuple[str, Mask]]  # what gives, in a word, and where it holds

BEST_POOL, SOUND_POOL = (0.90, 1.15), (0.87, 1.20)  # of the wanted width
LEAST_WIDTH, LEAST_SHARE_WIDTH = 0.02, 0.01  # of the value; and where that is 0, such as an untouched trim
GRID_SLACK = 0.03  # of the value: grids are coarse, and planned values are rounded
HAND_TRAVEL = (0.75, 1.3)  # a hand goes this much slower or faster and still makes the same bead
LEAST_IN_HAND, MOST_IN_HAND = 1.05, 1.5  # of the amps under the foot
LEAST_POST_S, HURRIED_POST = 3.0, 0.6  # people stop at 3 to 10 s, with less than a tungsten's own least
SOUND_SHARE, SOUND_LOADS = (0.15, 0.50), (0.95, 1.2)
MACHINE_ENDS = "the machine ends"
# Why nothing satisfies, by what gives, and what else must move then.
WHY_NOTHING = {
    "cold": "No amps that this machine has make the pool: a bevel, preheat, slower travel or a bigger machine must.",
    "wide": "The least this machine holds makes too wide a pool: faster travel or a bigger pool must move.",
    "sags": "Whatever makes this pool sags: faster travel, a backing or a smaller pool must move.",
    "no root": "The root is not reached before the pool sags: a bevel, a gap or slower travel must open it.",
    "specks": "Nothing here clears the oxide beside the bead: clean the metal better, or travel slower.",
    "wide border": "Nothing here keeps the border narrow: trim, faster travel or a smaller cup must move.",
    "tip balls": "No value spares this tungsten: a bigger one, or fewer amps.",
    "no reserve": "The machine ends before the foot has anything in hand: a bigger machine, or a way to need less.",
    MACHINE_ENDS: "This machine has none of these values.",
}


class Band(NamedTuple):
    """From low to high, and in a word what gives below and above."""

    low: float
    high: float
    below: str = ""
    above: str = ""


class Nothing(NamedTuple):
    """No value satisfies; what gives first where the plan stands."""

    gives: str


Found = Band | Nothing


@dataclass(frozen=True)
class Windows:
    """Low and high for each setting that has a window, in inside units; None where nothing satisfies.

    ``best`` holds the values with which this plan's aims are met at its own travel; ``sound`` every value with which a
    practised hand makes this weld, travel following as far as a hand can. plan ∈ best ⊆ sound ⊆ what the machine can do.
    ``ends`` says what gives at the ends of the sound window, ``empty`` why a window is None and what else must move.
    """

    sound: dict[str, Span | None]
    best: dict[str, Span | None]
    ends: dict[str, tuple[str, str]]
    empty: dict[str, str]


def windows(
    at: Situation, settings: Settings, machine: Machine, c: Coefficients, planned: bool = True
) -> Windows:
    """Both bands of every setting that has one; what a person set may lie outside, what is ``planned`` may not."""
    found = {key: bands(at, settings, machine, c) for key, bands in _BANDS.items()}
    foot, pedal = found["amps_run"], at.job.control == "pedal"
    found["amps_set"] = _ceiling(settings, foot[0], settings.start_amps) if pedal else foot
    reach = _machine_reach(machine)
    made = Windows({}, {}, {}, {})
    for key, (sound, best) in found.items():
        value = float(get_value(settings, key))
        best = _inside(best, reach.get(key))
        if planned:
            best = _holding(best, value, reach.get(key))
        sound = _inside(sound if isinstance(best, Nothing) else _union(sound, best), reach.get(key))
        if planned:
            sound = _holding(sound, value, reach.get(key))
        made.sound[key] = None if isinstance(sound, Nothing) else (sound.low, sound.high)
        made.best[key] = None if isinstance(best, Nothing) else (best.low, best.high)
        if isinstance(best, Nothing):
            made.empty[key] = WHY_NOTHING.get(best.gives, WHY_NOTHING[MACHINE_ENDS])
        if isinstance(sound, Band):
            made.ends[key] = (sound.below, sound.above)
    return made


def _machine_reach(machine: Machine) -> dict[str, Span]:
    return {
        "amps_run": (machine.least_a, machine.most_a),
        "amps_set": (machine.least_a, machine.most_a),
        "ep_share": (machine.least_ep_share, machine.most_ep_share),
        "frequency_hz": (machine.least_frequency_hz, machine.most_frequency_hz),
        "ep_trim": (machine.least_trim, machine.most_trim) if machine.can_trim else (0.0, 0.0),
    }


def _union(one: Found, other: Found) -> Found:
    if isinstance(one, Nothing) or isinstance(other, Nothing):
        return other if isinstance(one, Nothing) else one
    low, high = min(one, other, key=lambda band: band.low), max(one, other, key=lambda band: band.high)
    return Band(low.low, high.high, low.below, high.above)


def _inside(found: Found, reach: Span | None) -> Found:
    """A band cut to what the machine reaches. A machine with one value has that one, whatever the band."""
    if isinstance(found, Nothing) or reach is None:
        return found
    low, high, below, above = found
    if reach[0] == reach[1]:
        return Band(reach[0], reach[1], MACHINE_ENDS, MACHINE_ENDS)
    if low > reach[1] or high < reach[0]:
        return Nothing(below if low > reach[1] else above)
    if low < reach[0]:
        low, below = reach[0], MACHINE_ENDS
    if high > reach[1]:
        high, above = reach[1], MACHINE_ENDS
    return Band(low, high, below, above)


def _holding(found: Found, value: float, reach: Span | None) -> Found:
    """The band with the planned value in it and some width, rounded outwards; nothing when the value lies well outside."""
    if isinstance(found, Nothing):
        return found
    low, high, below, above = found
    slack = max(GRID_SLACK * abs(value), LEAST_SHARE_WIDTH)
    if not low - slack <= value <= high + slack:
        return Nothing(below if value < low else above)
    low, high = min(low, value), max(high, value)
    least = max(LEAST_WIDTH * abs(value), LEAST_SHARE_WIDTH)
    if high - low < least:
        low, high = low - least, high + least
    if reach is not None:
        low, high = max(low, min(reach[0], value)), min(high, max(reach[1], value))
    return Band(math.floor(low * 1e4) / 1e4, math.ceil(high * 1e4) / 1e4, below, above)


def _span(grid: Grid, limits: Limits, value: float) -> Found:
    """The stretch of the grid nearest to a value in which every limit holds, and which limit gives at either end."""
    good = np.logical_and.reduce([mask for _, mask in limits])
    places = np.flatnonzero(good)
    if places.size == 0:
        here = int(np.argmin(np.abs(grid - value)))
        never = [word for word, mask in limits if not mask.any()]
        return Nothing((never or [word for word, mask in limits if not mask[here]] or [limits[0][0]])[0])
    runs = np.split(places, np.flatnonzero(np.diff(places) > 1) + 1)
    nearest = min(runs, key=lambda run: max(grid[run[0]] - value, value - grid[run[-1]], 0.0))
    first, last = int(nearest[0]), int(nearest[-1])

    def gives(place: int) -> str:
        if not 0 <= place < grid.size:
            return ""
        return next(word for word, mask in limits if not mask[place])

    return Band(float(grid[first]), float(grid[last]), gives(first - 1), gives(last + 1))


def _foot(at: Situation, settings: Settings, machine: Machine, c: Coefficients) -> tuple[Found, Found]:
    """Best: the wanted pool at the plan's travel. Sound: the same at any travel from 0.75 to 1.3 of it."""
    best = _foot_at(at, settings, machine, c, BEST_POOL)
    sound = _foot_at(at, settings, machine, c, SOUND_POOL)
    for factor in HAND_TRAVEL:
        travel = min(max(settings.travel_mm_s * factor, SLOWEST_HAND_MM_S), FASTEST_HAND_MM_S)
        moved = settings.model_copy(update={"travel_mm_s": round(travel, 2)})
        sound = _union(sound, _foot_at(at, moved, machine, c, SOUND_POOL))
    return sound, best


def _foot_at(at: Situation, settings: Settings, machine: Machine, c: Coefficients, shares: Span) -> Found:
    """Pool between two shares of the wanted width, a root of 0.35 of the top where asked, and short of sagging."""
    run = np.geomspace(
        max(machine.least_a, 0.3 * settings.amps_run),
        max(machine.least_a, min(machine.most_a, 2.5 * settings.amps_run)),
        160,
    )
    seen = figures(at, replace(settings.wave(), amps=run, frequency_hz=100.0), settings, c)
    # Out of position the whole window moves with the smaller pool that the position allows.
    aim = at.aimed_width_mm(settings.travel_mm_s, settings.preheat_c)
    pool = np.asarray(seen.pool_width_mm) / arc_width_factor(at.job.arc_length_mm)
    limits: Limits = [
        ("cold", pool >= shares[0] * aim),
        ("sags", np.asarray(seen.melt_through) < MELT_AMBER + 0.02),
        ("wide", pool <= shares[1] * aim),
    ]
    if at.wants_root:
        limits.insert(1, ("no root", np.asarray(seen.root_width_mm) >= ROOT_SHORT * pool))
    return _span(run, limits, settings.amps_run)


def _ceiling(settings: Settings, foot: Found, start_a: float) -> tuple[Found, Found]:
    """Where the machine may be set over a foot.

    Sound: from the least the foot can do with, to where the job lies in the first third of the pedal or a full press balls
    the tungsten. Best: from a little in hand to half as much again, and a tungsten at ease when pressed all the way.
    """
    run = settings.amps_run
    coarse = start_a + max(run - start_a, 0.0) / TOO_COARSE
    bears, eased = (_most_a(settings, load) for load in (SOUND_LOADS[1], LOAD_AT_SET))
    least = foot.low if isinstance(foot, Band) else run
    low, below = (least, "cold") if isinstance(foot, Band) else (run, "no reserve")
    high, above = min((coarse, "pedal coarse"), (bears, "tip balls"))
    sound = Band(low, max(run, high), below, above)
    highest = min((MOST_IN_HAND * run, "pedal coarse"), (coarse, "pedal coarse"), (eased, "tip balls"))
    return sound, Band(min(LEAST_IN_HAND * run, eased), max(run, highest[0]), "no reserve", highest[1])


def _most_a(settings: Settings, load: float) -> float:
    """Amps at which the tungsten has this load; it goes with the mean EP current, so with the amps."""
    if settings.tungsten is None:
        return math.inf
    kind = (settings.tungsten.diameter_mm, settings.tungsten.class_, settings.tungsten.tip)
    return settings.amps_set * load / max(float(tungsten_load(settings.wave(settings.amps_set), *kind)), 1e-9)


def _share(at: Situation, settings: Settings, machine: Machine, c: Coefficients) -> tuple[Found, Found]:
    share = np.linspace(0.05, 0.60, 111)
    wave = replace(settings.wave(), ep_share=share)
    ends = (SOUND_SHARE, share_limits(at, machine))
    return _cleaning_bands(at, settings, c, share, wave, settings.ep_share, ends)


def _trim(at: Situation, settings: Settings, machine: Machine, c: Coefficients) -> tuple[Found, Found]:
    if not machine.can_trim:
        return Band(0.0, 0.0), Band(0.0, 0.0)
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
    ends: tuple[Span, Span],
) -> tuple[Found, Found]:
    """Sound: clean toes, a border that harms nothing, a tungsten that lives. Best: the aim, and a tungsten at ease."""
    border = np.asarray(figures(at, wave, settings, c).border_mm)
    widest = at.aim.high_mm if "appearance" in at.job.purposes else MOST_BORDER_MM
    loads = [np.zeros_like(grid), np.zeros_like(grid)]
    if settings.tungsten is not None:
        kind = (settings.tungsten.diameter_mm, settings.tungsten.class_, settings.tungsten.tip)
        loads = [
            np.asarray(tungsten_load(at_amps, *kind))
            for at_amps in (wave, replace(wave, amps=settings.amps_set))
        ]

    def band(low: float, high: float, most: Span, reach: Span) -> Found:
        limits = [
            ("specks", (border >= low) & (grid >= reach[0] - 1e-9)),
            ("tip balls", (loads[0] <= most[0]) & (loads[1] <= most[1])),
            ("wide border", (border <= high) & (grid <= reach[1] + 1e-9)),
        ]
        return _span(grid, limits, value)

    sound = band(LEAST_BORDER_MM, MOST_BORDER_MM, SOUND_LOADS, ends[0])
    return sound, band(at.aim.low_mm, widest, (LOAD_AT_RUN, LOAD_AT_SET), ends[1])


def _frequency(at: Situation, settings: Settings, machine: Machine, c: Coefficients) -> tuple[Found, Found]:
    """Best: the school's band. Sound: whatever runs, tighter for foil, thin sheet, corners and gaps, wider for plate."""
    job = at.job
    band = frequency_band(job.thin_mm, job.joint, at.is_casting, job.gap_mm)
    factor = school_factor(job.school.frequency)
    tight = job.thin_mm < 1.6 or job.joint in ("outside_corner", "inside_corner") or job.gap_mm > 0
    low = float(np.interp(job.thin_mm, (0.8, 1.6, 5.0, 8.0), (60, 50, 50, 40)))
    words = ("arc wanders", "loud, narrow")
    return Band(low, 250.0 if tight else 200.0, *words), Band(
        band.low_hz * factor, band.high_hz * factor, *words
    )


def _flow(at: Situation, settings: Settings, machine: Machine, c: Coefficients) -> tuple[Found, Found]:
    """By Reynolds number in the cup: sound 800 to 1900 and what handbooks print for the sheet, best 1000 to 1500."""
    bore, helium = bore_mm(settings.cup.number), at.job.helium_share
    sound, best = (
        Band(
            planned_flow_l_min(low, bore, helium),
            float(flow_for(high, bore, helium)),
            "draught wins",
            "turbulent",
        )
        for low, high in ((LEAST_REYNOLDS, MOST_REYNOLDS), BEST_REYNOLDS)
    )
    printed = None if helium else handbook_argon_l_min(at.mean_thickness_mm)
    return _union(sound, Band(*printed, "draught wins", "turbulent")) if printed else sound, best


def _post_flow(at: Situation, settings: Settings, machine: Machine, c: Coefficients) -> tuple[Found, Found]:
    post = settings.post_flow_s
    least = find_size(settings.tungsten.diameter_mm).post_flow_least_s if settings.tungsten else LEAST_POST_S
    low = max(LEAST_POST_S, HURRIED_POST * least)
    words = ("tip turns blue", "gas wasted")
    return Band(min(low, post), 2 * post, *words), Band(0.8 * post, 1.6 * post, *words)


def _pre_flow(at: Situation, settings: Settings, machine: Machine, c: Coefficients) -> tuple[Found, Found]:
    words = ("sooty start", "gas wasted")
    return Band(0.2, 2.0, *words), Band(0.3, 1.5, *words)


_BANDS: dict[str, Callable[[Situation, Settings, Machine, Coefficients], tuple[Found, Found]]] = {
    "amps_run": _foot,
    "ep_share": _share,
    "frequency_hz": _frequency,
    "ep_trim": _trim,
    "flow_l_min": _flow,
    "post_flow_s": _post_flow,
    "pre_flow_s": _pre_flow,
}
