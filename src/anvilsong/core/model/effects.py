"""What settings do: the one function that board, map, prediction, next change and practice all call."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

from anvilsong.core.arc.border import border_mm, cleaned_width_mm
from anvilsong.core.arc.frequency import arc_width_factor, width_factor
from anvilsong.core.arc.waveform import Means, Numbers, Wave, cycle_means, shortest_half_s, work_heat_w
from anvilsong.core.coefficients import Coefficients, nominal
from anvilsong.core.heat.pedal import DUTY_CYCLE_S, allowed_duty, pedal_used
from anvilsong.core.job import Job
from anvilsong.core.joint import pool_through_mm
from anvilsong.core.machine import IDEAL, Machine
from anvilsong.core.model.situations import Situation, situation
from anvilsong.core.model.values import Consequences
from anvilsong.core.settings import Settings
from anvilsong.core.torch.cup import bore_mm, longest_stick_out_mm
from anvilsong.core.torch.cylinder import gas_used_l
from anvilsong.core.torch.gas import reynolds
from anvilsong.core.torch.tungsten import tungsten_load

LEAST_SEEN_RIPPLE_MM, RIPPLE_PER_WIDTH = 0.25, 0.28
FASTEST_DAB_HZ = 2.5  # that a hand keeps up
# Root over face: where a pool hangs through, and how little of a root is too little.
ROOT_NEAR_TOP, ROOT_SHORT = 0.88, 0.25
OVER_WIDTH_RED, OVER_WIDTH_AMBER = 1.3, 1.15


@dataclass(frozen=True)
class Figures:
    """The physical figures of a wave in a situation; numbers or arrays, as the wave's are."""

    means: Means
    work_heat_w: Numbers
    pool_width_mm: Numbers
    root_width_mm: Numbers
    over_root_mm: Numbers
    """Width of the pool that reaches for the root: at the face, and wider out of position."""
    melt_through: Numbers
    cleaned_width_mm: Numbers
    border_mm: Numbers
    filler_heat_share: Numbers


def figures(
    at: Situation,
    wave: Wave,
    settings: Settings,
    c: Coefficients,
    travel_mm_s: Numbers | None = None,
    preheat_c: Numbers | None = None,
) -> Figures:
    """Heat, pool, root, border for a wave; any of its members may be an array, and the others broadcast.

    ``travel_mm_s`` and ``preheat_c`` stand in for those of the settings, and may be arrays too.

    Pool heat = work heat − heat that melts the rod; pool and root widths from the moving source at pool
    heat / joint factor,
    the pool's then × (f/100)^−0.12 and + 6 % a mm of arc over 3 mm; the root's at pool heat / position
    factor.
    """
    job, travel = at.job, settings.travel_mm_s if travel_mm_s is None else travel_mm_s
    warm = settings.preheat_c if preheat_c is None else preheat_c
    heat = work_heat_w(wave, c, job.arc_length_mm, job.helium_share)
    rod = at.filler_heat_w(travel, c)
    pool_heat = np.maximum(np.asarray(heat) - rod, 0.0) / at.heat_factor
    top = np.asarray(at.top_mm(travel, pool_heat, warm))
    # Out of position the pool is smaller and runs from under the arc, which reaches as deep with less heat.
    deep = pool_heat / at.position_factor
    over_root = top if at.position_factor == 1 else np.asarray(at.top_mm(travel, deep, warm))
    root = np.asarray(at.root_mm(over_root))
    narrowed = width_factor(wave.frequency_hz, c)
    bead = top * narrowed * arc_width_factor(job.arc_length_mm)
    means = cycle_means(wave)
    cleaned = cleaned_width_mm(
        means.ep,
        wave.ep_trim,
        bead,
        travel,
        at.cleaning_factor(warm),
        bore_mm(settings.cup.number),
        c,
        job.arc_length_mm,
        narrowed,
    )
    return Figures(
        means=means,
        work_heat_w=heat,
        pool_width_mm=bead,
        root_width_mm=root,
        over_root_mm=over_root,
        melt_through=_melt_through(at, deep, travel, warm, over_root),
        cleaned_width_mm=cleaned,
        border_mm=border_mm(cleaned, bead),
        filler_heat_share=rod / np.maximum(heat, 1e-9),
    )


def pool_width_mm(at: Situation, wave: Wave, settings: Settings, c: Coefficients) -> Numbers:
    """The pool's width alone, mm, as ``figures`` has it, for who asks for nothing else."""
    job, travel = at.job, settings.travel_mm_s
    heat = np.asarray(work_heat_w(wave, c, job.arc_length_mm, job.helium_share)) - at.filler_heat_w(travel, c)
    top = at.top_mm(travel, np.maximum(heat, 0.0) / at.heat_factor, settings.preheat_c)
    return np.asarray(top) * width_factor(wave.frequency_hz, c) * arc_width_factor(job.arc_length_mm)


def _melt_through(
    at: Situation, pool_heat: Numbers, travel: Numbers, preheat_c: Numbers | None, top_mm: Numbers
) -> Numbers:
    """How near melting through (``near_melting_through``) a job's sheet is. With unlike sides the thin one
    is tried alone too, with heat × t_thin/t_eff, since the arc must favour the thick side. ``top_mm`` is the
    width that this heat makes at the face.
    """
    thin, whole = at.job.thin_mm, near_melting_through(at, top_mm, at.thickness_mm)
    if thin >= 0.95 * at.thickness_mm:
        return whole
    plate = replace(at.plate(travel), thickness_mm=thin)
    heat = np.asarray(pool_heat) * thin / at.thickness_mm
    face_mm = at.heat_model.face_mm(plate, heat, at.contour_k(preheat_c))
    alone: Numbers = np.maximum(whole, near_melting_through(at, face_mm, thin))
    return alone


def near_melting_through(at: Situation, face_mm: Numbers, thickness_mm: float) -> Numbers:
    """How near a pool so wide at the face, mm, is to melting through a sheet so thick: 1 is red. A heuristic,
    which coupons move.

    Both must be over: root/face over 0.88, and face over 1.3·(2.5 + 1.1·t).
    """
    share = at.heat_model.root_mm(face_mm, thickness_mm) / np.maximum(face_mm, 1e-9)
    nearer: Numbers = np.minimum(
        share / ROOT_NEAR_TOP, face_mm / (OVER_WIDTH_RED * pool_through_mm(thickness_mm))
    )
    return nearer


def consequences(
    job: Job, settings: Settings, machine: Machine = IDEAL, c: Coefficients | None = None
) -> Consequences:
    """The figures of some settings for a job: the pool's at amps_run, what the ceiling loads (tungsten, duty)
    at amps_set.

    Parameters
    ----------
    machine : for pedal range and duty
    c : coefficients; nominal when left out
    """
    c = c or nominal()
    at = situation(job)
    run, full = settings.wave(), settings.wave(settings.amps_set)
    seen = figures(at, run, settings, c)
    means = seen.means
    tungsten = settings.tungsten
    loads = [0.0, 0.0]
    if tungsten is not None:
        loads = [
            float(tungsten_load(wave, tungsten.diameter_mm, tungsten.class_, tungsten.tip, c.tungsten_limit))
            for wave in (run, full)
        ]
    seconds = job.weld_length_mm / settings.travel_mm_s
    duty = min(1.0, seconds / DUTY_CYCLE_S) / float(
        allowed_duty(settings.amps_set, machine.duty.amps, machine.duty.share)
    )
    pedal = (
        float(pedal_used(settings.amps_run, settings.start_amps, settings.amps_set))
        if job.control == "pedal"
        else 1.0
    )
    return Consequences(
        work_heat_w=float(seen.work_heat_w),
        pool_width_mm=float(seen.pool_width_mm),
        root_width_mm=float(seen.root_width_mm),
        cleaned_width_mm=float(seen.cleaned_width_mm),
        border_mm=float(seen.border_mm),
        tungsten_load=loads[0],
        tungsten_load_set=loads[1],
        reynolds=float(reynolds(settings.gas.flow_l_min, bore_mm(settings.cup.number), job.helium_share)),
        filler_heat_share=float(seen.filler_heat_share),
        pedal_used=pedal,
        duty_used=duty,
        heat_wanted_w=_heat_wanted_w(at, settings.travel_mm_s, settings.preheat_c, c),
        melt_through=float(seen.melt_through),
        en_mean_a=float(means.en),
        ep_mean_a=float(means.ep),
        rms_a=float(means.rms),
        rms_set_a=float(cycle_means(full).rms),
        shortest_half_ms=float(shortest_half_s(run)) * 1000,
        arc_time_s=seconds,
        run_time_s=seconds + settings.up_slope_s + settings.down_slope_s,
        gas_l=gas_used_l(
            seconds + settings.up_slope_s + settings.down_slope_s,
            1,
            settings.pre_flow_s,
            settings.post_flow_s,
            settings.gas.flow_l_min,
        ),
        finish_share=settings.finish_amps / settings.amps_run,
        rod_feed_mm_s=at.section_mm2 * settings.travel_mm_s / (math.pi * settings.filler.diameter_mm**2 / 4)
        if settings.filler
        else 0.0,
        ripple_mm=ripple_pitch_mm(settings, float(seen.pool_width_mm)),
        shield_used=settings.cup.stick_out_mm
        / longest_stick_out_mm(settings.cup.number, settings.cup.gas_lens),
    )


def _heat_wanted_w(at: Situation, travel_mm_s: float, preheat_c: float | None, c: Coefficients) -> float:
    return at.wanted_pool_heat_w(travel_mm_s, preheat_c) + at.filler_heat_w(travel_mm_s, c)


def ripple_pitch_mm(settings: Settings, pool_width_mm: float) -> float:
    """Ripple spacing, mm: travel over the rate of a pulse or mix the eye can follow, else of a dab.

    A dab a ripple of 0.28 × the pool's width, but no more than 2.5 a second.
    """
    rate = (
        settings.pulse.rate_hz if settings.pulse else 1 / settings.mix.cycle_s if settings.mix else math.inf
    )
    followed = settings.travel_mm_s / rate
    return (
        followed
        if followed >= LEAST_SEEN_RIPPLE_MM
        else max(RIPPLE_PER_WIDTH * pool_width_mm, settings.travel_mm_s / FASTEST_DAB_HZ)
    )
