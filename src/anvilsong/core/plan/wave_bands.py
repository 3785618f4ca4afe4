"""Bands of share, trim and frequency."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from anvilsong.core.arc.frequency import frequency_band, school_factor
from anvilsong.core.arc.waveform import Wave
from anvilsong.core.checks import COLD_SHARE, HOT_SHARE, MELT_AMBER, is_near_root
from anvilsong.core.coefficients import Coefficients
from anvilsong.core.machine import Machine
from anvilsong.core.model import (
    MOST_BORDER_MM,
    ROOT_SHORT,
    Figures,
    Situation,
    figures,
)
from anvilsong.core.plan.bands import Band, Found, Grid, Limits, Span, stretch
from anvilsong.core.plan.cleaning import share_limits
from anvilsong.core.settings import Settings
from anvilsong.core.torch.tungsten import LOAD_AT_RUN, LOAD_AT_SET, tungsten_load

SOUND_SHARE, SOUND_LOADS = (0.15, 0.50), (0.95, 1.2)


def share_bands(at: Situation, settings: Settings, machine: Machine, c: Coefficients) -> tuple[Found, Found]:
    """Sound and best EP shares."""
    share = np.linspace(0.05, 0.60, 111)
    wave = replace(settings.wave(), ep_share=share)
    ends = (SOUND_SHARE, share_limits(at, machine))
    return _cleaning_bands(at, settings, c, share, wave, settings.ep_share, ends)


def trim_bands(at: Situation, settings: Settings, machine: Machine, c: Coefficients) -> tuple[Found, Found]:
    """Sound and best trims; none to choose where the machine has none."""
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
    """Sound: clean toes, a border that harms nothing, a tungsten that lives. Best: the aim, and a tungsten
    at ease.
    """
    seen = figures(at, wave, settings, c)
    border = np.asarray(seen.border_mm)
    here = int(np.argmin(np.abs(grid - value)))
    widest = at.aim.high_mm if "appearance" in at.job.purposes else MOST_BORDER_MM
    loads = [np.zeros_like(grid), np.zeros_like(grid)]
    if settings.tungsten is not None:
        kind = (
            settings.tungsten.diameter_mm,
            settings.tungsten.class_,
            settings.tungsten.tip,
            c.tungsten_limit,
        )
        loads = [
            np.asarray(tungsten_load(at_amps, *kind))
            for at_amps in (wave, replace(wave, amps=settings.amps_set))
        ]

    def band(low: float, high: float, most: Span, reach: Span, pool: Limits) -> Found:
        limits = [
            ("specks", (border >= low) & (grid >= reach[0] - 1e-9)),
            ("tip balls", (loads[0] <= most[0]) & (loads[1] <= most[1])),
            ("wide border", (border <= high) & (grid <= reach[1] + 1e-9)),
            # What the plan itself does not keep is said of the plan, not of every other value.
            *((word, mask) for word, mask in pool if mask[here]),
        ]
        return stretch(grid, limits, value)

    sound = band(at.least_border_mm, MOST_BORDER_MM, SOUND_LOADS, ends[0], _pool_limits(at, seen, 0.0, 1.0))
    whole = _pool_limits(at, seen, ROOT_SHORT, MELT_AMBER)
    wanted = at.wanted_pool_heat_w(settings.travel_mm_s, settings.preheat_c)
    wanted += at.filler_heat_w(settings.travel_mm_s, c)
    heat = np.asarray(seen.work_heat_w)
    whole += [("cold", heat >= COLD_SHARE * wanted), ("wide", heat <= HOT_SHARE * wanted)]
    return sound, band(at.aim.low_mm, widest, (LOAD_AT_RUN, LOAD_AT_SET), ends[1], whole)


def _pool_limits(at: Situation, seen: Figures, least_root: float, most_melt: float) -> Limits:
    """That the pool keeps its root, as a share of its face, and does not melt through."""
    pool, root = np.asarray(seen.pool_width_mm), np.asarray(seen.root_width_mm)
    limits: Limits = [("sags", np.asarray(seen.melt_through) < most_melt)]
    if at.wants_root:
        near = np.asarray(is_near_root(at, pool))
        limits.append(("no root", near if least_root == 0 else root >= least_root * pool))
    return limits


def frequency_bands(
    at: Situation, settings: Settings, machine: Machine, c: Coefficients
) -> tuple[Found, Found]:
    """Best: the school's band. Sound: whatever runs, tighter for foil, thin sheet, corners and gaps, wider
    for plate.
    """
    job = at.job
    band = frequency_band(job.thin_mm, at.joint.band, at.is_casting, job.gap_mm)
    factor = school_factor(job.school.frequency)
    tight = job.thin_mm < 1.6 or at.joint.band == "corner" or job.gap_mm > 0
    low = float(np.interp(job.thin_mm, (0.8, 1.6, 5.0, 8.0), (60, 50, 50, 40)))
    words = ("arc wanders", "loud, narrow")
    return Band(low, 250.0 if tight else 200.0, *words), Band(
        band.low_hz * factor, band.high_hz * factor, *words
    )
