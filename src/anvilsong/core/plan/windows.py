"""Advisable windows: how far each setting may move before something else gives."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from anvilsong.core.arc.frequency import frequency_band, school_factor
from anvilsong.core.arc.waveform import Wave
from anvilsong.core.coefficients import Coefficients
from anvilsong.core.machine.model import Machine
from anvilsong.core.plan.checks import MELT_AMBER, MOST_BORDER_MM
from anvilsong.core.plan.consequences import ROOT_SHORT, figures
from anvilsong.core.plan.situation import LEAST_EP_SHARE, MOST_EP_SHARE, Situation
from anvilsong.core.settings import Settings
from anvilsong.core.torch.cup import bore_mm
from anvilsong.core.torch.gas import LEAST_REYNOLDS, MOST_REYNOLDS, flow_for
from anvilsong.core.torch.tungsten import LOAD_AT_RUN, LOAD_AT_SET, tungsten_load

Grid = NDArray[np.float64]

NARROWEST, WIDEST = 0.90, 1.15


def windows(
    at: Situation, settings: Settings, machine: Machine, c: Coefficients
) -> dict[str, tuple[float, float]]:
    """Low and high for each setting that has a window, in inside units."""
    found = {
        "amps_set": _amps(at, settings, machine, c),
        "ep_share": _share(at, settings, machine, c),
        "frequency_hz": _frequency(at, machine),
        "ep_trim": _trim(at, settings, machine, c),
        "flow_l_min": _flow(at, settings),
        "post_flow_s": (0.8 * settings.post_flow_s, 1.6 * settings.post_flow_s),
        "pre_flow_s": (0.3, 1.5),
    }
    return {key: (round(low, 4), round(high, 4)) for key, (low, high) in found.items()}


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


def _amps(at: Situation, settings: Settings, machine: Machine, c: Coefficients) -> tuple[float, float]:
    """Pool between 0.9 and 1.15 of the wanted width, a root of 0.35 of the top where asked, and short of sagging."""
    ratio = settings.amps_set / settings.amps_run
    run = np.geomspace(
        max(machine.least_a, 0.3 * settings.amps_run),
        min(machine.most_a / ratio, 2.5 * settings.amps_run),
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
    low, high = _span(run, best, settings.amps_run)
    return low * ratio, high * ratio


def _share(at: Situation, settings: Settings, machine: Machine, c: Coefficients) -> tuple[float, float]:
    """Border from the thinnest wanted to the widest good, tungsten within its limits, machine within its own."""
    share = np.linspace(0.05, 0.60, 111)
    return _cleaning_span(
        at,
        settings,
        c,
        share,
        replace(settings.wave(), ep_share=share),
        settings.ep_share,
        (max(LEAST_EP_SHARE, machine.least_ep_share), min(MOST_EP_SHARE, machine.most_ep_share)),
    )


def _trim(at: Situation, settings: Settings, machine: Machine, c: Coefficients) -> tuple[float, float]:
    if not machine.can_trim:
        return 0.0, 0.0
    trim = np.linspace(machine.least_trim, min(machine.most_trim, 0.2), 71)
    return _cleaning_span(
        at,
        settings,
        c,
        trim,
        replace(settings.wave(), ep_trim=trim),
        settings.ep_trim,
        (machine.least_trim, machine.most_trim),
    )


def _cleaning_span(
    at: Situation,
    settings: Settings,
    c: Coefficients,
    grid: Grid,
    wave: Wave,
    value: float,
    limits: tuple[float, float],
) -> tuple[float, float]:
    seen = figures(at, wave, settings, c)
    border = np.asarray(seen.border_mm)
    widest = at.aim.high_mm if "appearance" in at.job.purposes else MOST_BORDER_MM
    good = (border >= at.aim.low_mm) & (border <= widest)
    if settings.tungsten is not None:
        kind = (settings.tungsten.diameter_mm, settings.tungsten.class_, settings.tungsten.tip)
        good &= np.asarray(tungsten_load(wave, *kind)) <= LOAD_AT_RUN
        good &= np.asarray(tungsten_load(replace(wave, amps=settings.amps_set), *kind)) <= LOAD_AT_SET
    good &= (grid >= limits[0] - 1e-9) & (grid <= limits[1] + 1e-9)
    return _span(grid, good, value)


def _frequency(at: Situation, machine: Machine) -> tuple[float, float]:
    band = frequency_band(at.job.thin_mm, at.job.joint, at.is_casting, at.job.gap_mm)
    factor = school_factor(at.job.school.frequency)
    low, high = (
        min(max(edge * factor, machine.least_frequency_hz), machine.most_frequency_hz)
        for edge in (band.low_hz, band.high_hz)
    )
    return low, high


def _flow(at: Situation, settings: Settings) -> tuple[float, float]:
    bore, helium = bore_mm(settings.cup.number), at.job.helium_share
    return float(flow_for(LEAST_REYNOLDS, bore, helium)), float(flow_for(MOST_REYNOLDS, bore, helium))
