"""When a 4-step changes to its second level, and how long spots and their pauses are.

How long a spot burns is how long a standing arc takes to melt the width that a tack wants: a point source on
a plate with both faces adiabatic, switched on at t = 0,

ΔT(r, t) = q/(2πk)·Σ erfc(R_m/√(4at))/R_m,  R_m = √(r² + (2mh)²)

References
----------
Carslaw, H. S., and Jaeger, J. C., Conduction of Heat in Solids (1959), 10.4: continuous point source.
"""

from __future__ import annotations

import math

from anvilsong.core.arc.waveform import heat_per_amp_w
from anvilsong.core.coefficients import Coefficients, nominal
from anvilsong.core.model import Situation
from anvilsong.core.prep.trigger import Levels, SpotTimes
from anvilsong.core.roots import root
from anvilsong.core.settings import Settings
from anvilsong.core.words import sentence

LEAST_LEVEL, MOST_LEVEL = 0.6, 0.85  # of the main amps
PAUSE_TO_K = 60.0  # of rise that a spot leaves behind before the next
LEAST_SPOT_S, MOST_SPOT_S = 0.2, 10.0
LEAST_PAUSE_S, MOST_PAUSE_S = 0.05, 60.0
SPOT_AMPS = 1.3  # of a run's: a spot is struck hot and left quickly


def second_level(at: Situation, settings: Settings, arc_s: float) -> Levels:
    """The second level and when to change: by what the part has warmed to by the end of the run, where its
    size is told, half way; else for the last stretch before an edge.
    """
    share = min(max(at.cold_share_at_end, LEAST_LEVEL), MOST_LEVEL)
    amps = round(settings.amps_set * share)
    if at.job.part_size != "large":
        return Levels(float(amps), 0.5 * arc_s, sentence("prep.level_for_warm_part"))
    before_end = 20.0 / settings.travel_mm_s
    return Levels(float(amps), max(arc_s - before_end, 0.5 * arc_s), sentence("prep.level_for_edge"))


def spot_times(at: Situation, settings: Settings, most_a: float, c: Coefficients | None = None) -> SpotTimes:
    """Amps and seconds of a spot that melts the pool the joint wants, and the pause until the rim of its
    place has cooled to 60 K of rise.

    A spot takes 1.3 times the amps of a run, as far as the machine goes: an arc that stands at a run's amps
    takes three times as long. It burns 0.2 to 10 s, and nobody waits for more than a minute; what does not
    melt or cool in that time says so.
    """
    c = c or nominal()
    amps = min(SPOT_AMPS * settings.amps_run, most_a)
    heat = amps * heat_per_amp_w(settings.wave(), c, at.job.arc_length_mm, at.job.helium_share)
    heat /= at.heat_factor
    width = float(at.aimed_width_mm(settings.travel_mm_s, settings.preheat_c))
    wanted = float(at.contour_k(settings.preheat_c))

    def short(time_s: float) -> float:
        return _rise_k(at, heat, width / 2, time_s) - wanted

    melts = short(MOST_SPOT_S) > 0
    spot = MOST_SPOT_S
    if melts:
        spot = LEAST_SPOT_S if short(LEAST_SPOT_S) >= 0 else root(short, LEAST_SPOT_S, MOST_SPOT_S)

    def warm(pause_s: float) -> float:
        left = _rise_k(at, heat, width / 2, spot + pause_s) - _rise_k(at, heat, width / 2, pause_s)
        return left - PAUSE_TO_K

    cools = warm(MOST_PAUSE_S) <= 0
    pause = MOST_PAUSE_S
    if cools:
        pause = LEAST_PAUSE_S if warm(LEAST_PAUSE_S) <= 0 else root(warm, LEAST_PAUSE_S, MOST_PAUSE_S)
    return SpotTimes(round(amps), round(spot, 2), round(pause, 1), width, melts, cools)


def _rise_k(at: Situation, heat_w: float, radius_mm: float, time_s: float) -> float:
    """Rise of a standing source that was switched on so long ago, K."""
    reach = math.sqrt(4 * at.diffusivity_mm2_s * time_s)
    total = 0.0
    mirrors = math.ceil(1.5 * reach / at.thickness_mm) + 1  # further ones have not been reached
    for mirror in range(-mirrors, mirrors + 1):
        away = math.hypot(radius_mm, 2 * mirror * at.thickness_mm)
        total += math.erfc(away / reach) / away
    return heat_w / (2 * math.pi * at.conductivity_w_mm_k) * total
