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


def spot_times(at: Situation, settings: Settings, c: Coefficients | None = None) -> SpotTimes:
    """Seconds of a spot that melts a tack's width, and the pause until its place has cooled to 60 K of rise
    in the middle.

    The width is that of the pool the joint wants. A spot is between 0.2 and 10 s: what would take longer
    wants more amps.
    """
    c = c or nominal()
    heat = settings.amps_set * heat_per_amp_w(settings.wave(), c, at.job.arc_length_mm, at.job.helium_share)
    heat /= at.heat_factor
    width = float(at.aimed_width_mm(settings.travel_mm_s, settings.preheat_c))
    wanted = float(at.contour_k(settings.preheat_c))

    def short(time_s: float) -> float:
        return _rise_k(at, heat, width / 2, time_s) - wanted

    if short(MOST_SPOT_S) <= 0:
        spot = MOST_SPOT_S
    else:
        spot = LEAST_SPOT_S if short(LEAST_SPOT_S) >= 0 else root(short, LEAST_SPOT_S, MOST_SPOT_S)

    def warm(pause_s: float) -> float:
        radius = width / 2
        left = _rise_k(at, heat, radius, spot + pause_s) - _rise_k(at, heat, radius, pause_s)
        return left - PAUSE_TO_K

    longest = 60.0
    pause = longest if warm(longest) > 0 else root(warm, 0.05, longest) if warm(0.05) > 0 else 0.05
    return SpotTimes(round(spot, 2), round(pause, 1), width)


def _rise_k(at: Situation, heat_w: float, radius_mm: float, time_s: float) -> float:
    """Rise of a standing source that was switched on so long ago, K."""
    reach = math.sqrt(4 * at.diffusivity_mm2_s * time_s)
    total = 0.0
    mirrors = math.ceil(1.5 * reach / at.thickness_mm) + 1  # further ones have not been reached
    for mirror in range(-mirrors, mirrors + 1):
        away = math.hypot(radius_mm, 2 * mirror * at.thickness_mm)
        total += math.erfc(away / reach) / away
    return heat_w / (2 * math.pi * at.conductivity_w_mm_k) * total
