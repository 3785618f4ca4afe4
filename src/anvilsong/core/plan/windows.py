"""Windows in two bands: how far each setting may move, and within which part the plan's aims are met."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from anvilsong.core.arc.frequency import arc_width_factor, width_factor
from anvilsong.core.checks import MELT_AMBER, is_near_root
from anvilsong.core.coefficients import Coefficients
from anvilsong.core.heat.pedal import TOO_COARSE
from anvilsong.core.joint import handbook_argon_l_min
from anvilsong.core.machine import Machine
from anvilsong.core.model import ROOT_SHORT, Situation, figures
from anvilsong.core.plan.bands import (
    Band,
    Found,
    Grid,
    Limits,
    Nothing,
    Span,
    both,
    holding,
    joined,
    stretch,
    within,
)
from anvilsong.core.plan.wave_bands import SOUND_LOADS, frequency_bands, share_bands, trim_bands
from anvilsong.core.plan.window_checks import CHECKED, Checked
from anvilsong.core.plan.window_ends import why_nothing
from anvilsong.core.prep import FASTEST_HAND_MM_S, SLOWEST_HAND_MM_S
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
from anvilsong.core.torch.tungsten import LOAD_AT_SET, find_size, tungsten_load

BEST_POOL, SOUND_POOL = (0.90, 1.15), (0.87, 1.20)  # of the wanted width
HELD_POOL = 1.4  # of the wanted width, where a groove or a build-up holds as wide a pool
HAND_TRAVEL = (0.75, 1.3)  # a hand goes this much slower or faster and still makes the same bead
NEAR_THE_TOP, SAGGING = 0.8, MELT_AMBER + 0.02
LEAST_IN_HAND, MOST_IN_HAND = 1.05, 1.5  # of the amps under the foot
LEAST_POST_S, HURRIED_POST = 3.0, 0.6  # people stop at 3 to 10 s, with less than a tungsten's own least


@dataclass(frozen=True)
class Windows:
    """Low and high for each setting that has a window, in inside units; None where nothing satisfies.

    ``best`` holds the values with which this plan's aims are met at its own travel; ``sound`` every value
    with which a
    practised hand makes this weld, travel following as far as a hand can. plan ∈ best ⊆ sound ⊆ what the
    machine can do.
    ``ends`` says what gives at the ends of the sound window, ``empty`` why a window is None and what else
    must move.
    """

    sound: dict[str, Span | None]
    best: dict[str, Span | None]
    ends: dict[str, tuple[str, str]]
    empty: dict[str, str]


def windows(
    at: Situation, settings: Settings, machine: Machine, c: Coefficients, planned: bool = True
) -> Windows:
    """Both bands of every setting that has one; what a person set may lie outside, what is ``planned`` may
    not.
    """
    found = {key: bands(at, settings, machine, c) for key, bands in _BANDS.items()}
    foot, pedal = found["amps_run"], at.job.control == "pedal"
    found["amps_set"] = _ceiling(settings, foot[0], settings.start_amps, c.tungsten_limit) if pedal else foot
    reach = _machine_reach(machine)
    made = Windows({}, {}, {}, {})
    for key, (sound, best) in found.items():
        value = float(get_value(settings, key))
        best = within(best, reach.get(key))
        if planned:
            best = holding(best, value, reach.get(key))
        sound = within(sound if isinstance(best, Nothing) else joined(sound, best), reach.get(key))
        if planned:
            sound = holding(sound, value, reach.get(key))
        if key in CHECKED:
            along = Checked(at, settings, machine, c, key)
            best, sound = _checked(along, (best, sound), value, planned)
        made.sound[key] = None if isinstance(sound, Nothing) else (sound.low, sound.high)
        made.best[key] = None if isinstance(best, Nothing) else (best.low, best.high)
        if isinstance(best, Nothing):
            made.empty[key] = why_nothing(best.gives)
        if isinstance(sound, Band):
            made.ends[key] = (sound.below, sound.above)
    return made


def _checked(along: Checked, bands: tuple[Found, Found], value: float, planned: bool) -> tuple[Found, Found]:
    """Best and sound band, drawn in to where every limit is kept. They begin from a value that is good: the
    planned one, or the middle of the best.
    """
    best, sound = bands
    middle = value if isinstance(best, Nothing) else (best.low + best.high) / 2
    inside = isinstance(best, Band) and best.low <= value <= best.high
    good = value if planned and inside else middle
    best, sound = along.cut(best, sound, value, good, planned)
    return best, joined(sound, best)


def _machine_reach(machine: Machine) -> dict[str, Span]:
    return {
        "amps_run": (machine.least_a, machine.most_a),
        "amps_set": (machine.least_a, machine.most_a),
        "ep_share": (machine.least_ep_share, machine.most_ep_share),
        "frequency_hz": (machine.least_frequency_hz, machine.most_frequency_hz),
        "ep_trim": (machine.least_trim, machine.most_trim) if machine.can_trim else (0.0, 0.0),
    }


def _foot(at: Situation, settings: Settings, machine: Machine, c: Coefficients) -> tuple[Found, Found]:
    """Best: the wanted pool at the plan's travel. Sound: the same at any travel from 0.75 to 1.3 of it.

    The pool is between two shares of the wanted width, the root 0.35 of it where asked, and both short of
    sagging; a groove and a build-up hold a wider pool. A small part is as cold as a large one where its weld
    starts: sound reaches to the amps of that start, from which a hand comes off; and for a patient foot
    down to those of the weld's end, for which it waits.
    """
    run = np.geomspace(
        max(machine.least_a, 0.3 * settings.amps_run),
        max(machine.least_a, min(machine.most_a, 2.5 * settings.amps_run)),
        160,
    )
    hand = [
        round(min(max(settings.travel_mm_s * factor, SLOWEST_HAND_MM_S), FASTEST_HAND_MM_S), 2)
        for factor in HAND_TRAVEL
    ]
    foot = _Foot(settings, c, run, np.array([settings.travel_mm_s, *hand]))
    pools = foot.pools(at)
    sound = pools.sound(0)
    for speed in range(1, foot.travel.size):
        sound = joined(sound, pools.sound(speed))
    if at.cold_share < 1:
        sound = joined(sound, foot.pools(replace(at, cold_share=1.0)).sound(0))
        if at.job.control == "pedal" and at.job.school.pedal == "patient":
            sound = joined(sound, foot.pools(replace(at, cold_share=at.cold_share_at_end)).sound(0))
    # A hand may follow, but at the planned speed no sound value stops.
    stops: Limits = [("sags", pools.melts[:, 0] < 1)]
    if at.wants_root:
        bead = pools.pool[:, 0] * width_factor(settings.frequency_hz, c)
        stops.append(("no root", is_near_root(at, bead * arc_width_factor(at.job.arc_length_mm))))
    best = pools.stretch(0, BEST_POOL, MELT_AMBER)
    return both(sound, stretch(run, stops, settings.amps_run)), best


@dataclass(frozen=True)
class _Foot:
    """Welding amps and speeds of the hand that are tried, of some settings."""

    settings: Settings
    c: Coefficients
    run: Grid
    travel: Grid

    def pools(self, at: Situation) -> _Pools:
        """What they make in a situation."""
        wave = replace(self.settings.wave(), amps=self.run[:, None], frequency_hz=100.0)
        seen = figures(at, wave, self.settings, self.c, travel_mm_s=self.travel)
        # Out of position the whole window moves with the smaller pool that the position allows.
        aim = np.asarray(at.aimed_width_mm(self.travel, self.settings.preheat_c))
        pool = np.asarray(seen.pool_width_mm) / arc_width_factor(at.job.arc_length_mm)
        return _Pools(at, self, aim, pool, np.asarray(seen.melt_through), np.asarray(seen.root_width_mm))


@dataclass(frozen=True)
class _Pools:
    """Pool and root, mm, and how near melting through, by amps and speed; the pool that is aimed at, by
    speed.
    """

    at: Situation
    foot: _Foot
    aim: Grid
    pool: Grid
    melts: Grid
    root: Grid

    def sound(self, speed: int) -> Found:
        """The amps with which a hand at this speed makes the weld."""
        held = self.at.weld.widest_pool_mm(self.at.job, self.at.mean_thickness_mm) / float(self.aim[speed])
        widest = max(SOUND_POOL[1], min(held, HELD_POOL))
        return self.stretch(speed, (SOUND_POOL[0], widest), SAGGING)

    def stretch(self, speed: int, shares: Span, most_melt: float) -> Found:
        """The amps at which the pool is between two shares of the one aimed at, and nothing sags."""
        wide, wanted = self.pool[:, speed], self.aim[speed]
        limits: Limits = [
            ("cold", wide >= shares[0] * wanted),
            ("sags", self.melts[:, speed] < most_melt),
            ("wide", wide <= shares[1] * wanted),
        ]
        if self.at.wants_root:
            limits.insert(1, ("no root", self.root[:, speed] >= ROOT_SHORT * wide))
        return stretch(self.foot.run, limits, self.foot.settings.amps_run)


def _ceiling(settings: Settings, foot: Found, start_a: float, limit: float) -> tuple[Found, Found]:
    """Where the machine may be set over a foot.

    Sound: from the least the foot can do with, to where the job lies in the first third of the pedal or a
    full press balls
    the tungsten. Best: from a little in hand to half as much again, and a tungsten at ease when pressed
    all the way.
    """
    run = settings.amps_run
    coarse = start_a + max(run - start_a, 0.0) / TOO_COARSE
    bears, eased = (_most_a(settings, load, limit) for load in (SOUND_LOADS[1], LOAD_AT_SET))
    least = foot.low if isinstance(foot, Band) else run
    low, below = (least, "cold") if isinstance(foot, Band) else (run, "no reserve")
    high, above = min((coarse, "pedal coarse"), (bears, "tip balls"))
    sound = Band(low, max(run, high), below, above)
    highest = min((MOST_IN_HAND * run, "pedal coarse"), (coarse, "pedal coarse"), (eased, "tip balls"))
    return sound, Band(min(LEAST_IN_HAND * run, eased), max(run, highest[0]), "no reserve", highest[1])


def _most_a(settings: Settings, load: float, limit: float) -> float:
    """Amps at which the tungsten has this load; it goes with the mean EP current, so with the amps."""
    if settings.tungsten is None:
        return math.inf
    kind = (settings.tungsten.diameter_mm, settings.tungsten.class_, settings.tungsten.tip, limit)
    return settings.amps_set * load / max(float(tungsten_load(settings.wave(settings.amps_set), *kind)), 1e-9)


def _flow(at: Situation, settings: Settings, machine: Machine, c: Coefficients) -> tuple[Found, Found]:
    """By Reynolds number in the cup: sound 800 to 1900 and what handbooks print for the sheet, best 1000 to
    1500.
    """
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
    return joined(sound, Band(*printed, "draught wins", "turbulent")) if printed else sound, best


def _post_flow(at: Situation, settings: Settings, machine: Machine, c: Coefficients) -> tuple[Found, Found]:
    post = settings.post_flow_s
    least = find_size(settings.tungsten.diameter_mm).post_flow_least_s if settings.tungsten else LEAST_POST_S
    low = max(LEAST_POST_S, HURRIED_POST * least)
    words = ("tip turns blue", "gas wasted")
    best = Band(min(post, max(0.8 * post, least)), 1.6 * post, *words)
    return Band(min(low, post), 2 * post, *words), best


def _pre_flow(at: Situation, settings: Settings, machine: Machine, c: Coefficients) -> tuple[Found, Found]:
    words = ("sooty start", "gas wasted")
    return Band(0.2, 2.0, *words), Band(0.3, 1.5, *words)


_BANDS: dict[str, Callable[[Situation, Settings, Machine, Coefficients], tuple[Found, Found]]] = {
    "amps_run": _foot,
    "ep_share": share_bands,
    "frequency_hz": frequency_bands,
    "ep_trim": trim_bands,
    "flow_l_min": _flow,
    "post_flow_s": _post_flow,
    "pre_flow_s": _pre_flow,
}
