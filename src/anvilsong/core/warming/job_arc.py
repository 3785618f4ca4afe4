"""From a job and its settings to the arc over its part, and back from what the foot does to amps."""

from __future__ import annotations

from dataclasses import replace

from anvilsong.core.arc.waveform import heat_per_amp_w
from anvilsong.core.coefficients import Coefficients
from anvilsong.core.heat.metal_heat import MetalHeat
from anvilsong.core.model import Situation
from anvilsong.core.settings import Settings
from anvilsong.core.warming.arc import Arc
from anvilsong.core.warming.result import FootAmps

MOST_SHARE, LEAST_SHARE = 3.0, 0.05
REFERENCE_C = 20.0  # at which a share of 1 is told


def metal_of(at: Situation) -> MetalHeat:
    """The job's metal, the side that melts later where they differ; conductivity and density as its plate has
    them.
    """
    a, b = at.job.a.metal, at.job.b.metal
    melts = a if a.contour_c >= b.contour_c else b
    return MetalHeat(
        density_g_mm3=round(at.conductivity_w_mm_k / at.diffusivity_mm2_s, 9),
        hot_w_mm_k=round(at.conductivity_w_mm_k, 6),
        solidus_c=melts.solidus_c,
        liquidus_c=melts.liquidus_c,
    )


def foot_amps(at: Situation, settings: Settings, c: Coefficients) -> FootAmps:
    """For the wanted pool at the travel and wave of some settings in a plate at 20 °C; how warm the part is
    at first, and how one of its size warms, is then computed on its own drawing.
    """
    cold = at.job.model_copy(update={"part_temperature_c": REFERENCE_C})
    at, wave, job = replace(at, cold_share=1.0, job=cold), settings.wave(), at.job
    return FootAmps(
        pool_w=float(at.wanted_pool_heat_w(settings.travel_mm_s)),
        rod_w=float(at.filler_heat_w(settings.travel_mm_s, c)),
        per_amp_w=float(heat_per_amp_w(wave, c, job.arc_length_mm, job.helium_share)),
    )


def plate_share(at: Situation, start_c: float) -> float:
    """Share of the foot that the pool wants on a plate without end which begins this warm: the rise that is
    left to the contour, over that from 20 °C.
    """
    return (at.contour_c - start_c) / (at.contour_c - REFERENCE_C)


def arc_of(at: Situation, settings: Settings, c: Coefficients) -> Arc:
    """The wanted pool, and how far foot or machine go: with a pedal from its start amps to its ceiling; with
    a switch the amps that are set.
    """
    foot = foot_amps(at, settings, c)
    most = min(max(foot.share(settings.amps_set), LEAST_SHARE), MOST_SHARE)
    least = min(max(foot.share(settings.start_amps), LEAST_SHARE), most)
    width = float(replace(at, cold_share=1.0).aimed_width_mm(settings.travel_mm_s))
    return Arc(round(width, 3), settings.travel_mm_s, round(most, 4), round(least, 4))
