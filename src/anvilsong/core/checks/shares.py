"""Limits over whole arrays of settings: of each the share that is used, over 1 where its warning comes.

The sentences are made one setting at a time (``checks.limits``); maps and windows ask thousands and need
the edge, not the words. Both hold the same limits: tests draw settings at random and compare code by code.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from anvilsong.core.arc.sampling import ac_cycles_in_shorter_phase
from anvilsong.core.arc.waveform import Numbers, Wave, shortest_half_s
from anvilsong.core.checks.border import ABOUT_MM
from anvilsong.core.checks.machine import ABOVE_LEAST, OVER_SET_A, SHORT_OVER
from anvilsong.core.checks.metal import metal_warnings
from anvilsong.core.checks.pool import CHILLS_SHARE, COLD_SHARE, HOT_SHARE, MELT_AMBER, NEAR_ROOT
from anvilsong.core.checks.pulse import mixed_on_thin
from anvilsong.core.coefficients import Coefficients
from anvilsong.core.heat.pedal import DUTY_CYCLE_S, NO_RESERVE, TOO_COARSE, allowed_duty, pedal_used
from anvilsong.core.heat.root import LEAST_SHARE, face_for_root_mm
from anvilsong.core.machine import Machine, least_run_a, past_controls
from anvilsong.core.metal.preheat import strictest
from anvilsong.core.model import (
    MOST_BORDER_MM,
    ROOT_SHORT,
    Bench,
    Figures,
    Situation,
    figures,
    hottest_later_w,
)
from anvilsong.core.settings import Settings
from anvilsong.core.torch.kit import Kit
from anvilsong.core.torch.tungsten import LOAD_AT_RUN, LOAD_BALLS, LOAD_MELTS, tungsten_load

STOPS = frozenset(
    {"melt_through", "no_root", "tungsten_melts", "machine_short", "pass_short", "over_machine",
     "preheat_over", "unsettable"}
)  # fmt: skip
# A warning that is not said where a harder one of its kind is; here its share goes on.
UNDER = {
    "melt_through_near": ("melt_through",),
    "hot": ("melt_through_near", "melt_through"),
    "short_root": ("no_root",),
    "thin_border": ("oxide_at_toes",),
    "wide_border": ("border_for_look",),
    "tungsten_hot": ("tungsten_melts",),
    "pass_small": ("pass_short",),
    "pass_duty": ("pass_short",),
    "pass_torch": ("pass_short",),
}
NOTHING = 1e-9


@dataclass(frozen=True)
class Moved:
    """Settings at many places at once; what does not move is one number, and the others broadcast."""

    keys: frozenset[str]
    wave: Wave
    amps_set: Numbers
    start_a: float
    travel_mm_s: Numbers
    preheat_c: Numbers | None

    @property
    def full(self) -> Wave:
        """The wave at the machine's amps."""
        return replace(self.wave, amps=self.amps_set)


def moved(settings: Settings, values: Mapping[str, Numbers], is_pedal: bool) -> Moved:
    """The settings with some of amps_run, amps_set, ep_share, ep_trim, frequency_hz, travel_mm_s and
    preheat_c as arrays. A foot that wants more than is set lifts the machine's amps, and without a pedal both
    are one.
    """
    run: Any = values.get("amps_run", settings.amps_run)
    full: Any = values.get("amps_set", settings.amps_set)
    if not is_pedal:
        run = full = values.get("amps_run", full)
    elif "amps_run" in values:
        full = np.maximum(run, full)
    else:
        run = np.minimum(run, full)
    wave = replace(
        settings.wave(),
        amps=run,
        ep_share=values.get("ep_share", settings.ep_share),
        ep_trim=values.get("ep_trim", settings.ep_trim),
        frequency_hz=values.get("frequency_hz", settings.frequency_hz),
    )
    return Moved(
        frozenset(values),
        wave,
        full,
        settings.start_amps,
        values.get("travel_mm_s", settings.travel_mm_s),
        values.get("preheat_c", settings.preheat_c),
    )


def limits_used(
    at: Situation, settings: Settings, to: Moved, bench: Bench
) -> tuple[Figures, dict[str, Numbers]]:
    """The figures there, and by a warning's code the share of its limit that is used; over 1 it comes.

    A milder warning goes on where the harder one of its kind comes (``UNDER``). What these settings do not
    move, such as alloy, gas and control, is not here.
    """
    machine, kit, c = bench
    seen = figures(at, to.wave, settings, c, travel_mm_s=to.travel_mm_s, preheat_c=to.preheat_c)
    wanted = at.wanted_pool_heat_w(to.travel_mm_s, to.preheat_c) + at.filler_heat_w(to.travel_mm_s, c)
    used: dict[str, Any] = {
        **_pool(at, seen, wanted),
        **_border(at, seen),
        **_tungsten(settings, to, c),
        **_amps(at, seen, to, wanted, machine),
        **_wave(settings, to, machine),
        **_for_long(at, seen, to, machine, kit),
        **_later(at, seen, to, machine, kit, c),
        **_machine_has(to, machine),
    }
    if to.preheat_c is not None:
        limit = strictest(at.job.a.metal, at.job.b.metal, at.job.temper).limit_c
        used["preheat_over"] = 1 + (np.asarray(to.preheat_c) - limit) / 100.0
    return seen, used


def _pool(at: Situation, seen: Figures, wanted: Numbers) -> dict[str, Any]:
    heat = np.maximum(np.asarray(seen.work_heat_w), NOTHING)
    used: dict[str, Any] = {
        "melt_through": seen.melt_through,
        "melt_through_near": np.asarray(seen.melt_through) / MELT_AMBER,
        "cold": COLD_SHARE * wanted / heat,
        "hot": heat / (HOT_SHARE * wanted),
        "chill": np.asarray(seen.filler_heat_share) / CHILLS_SHARE,
    }
    if at.root_depth_mm is not None:
        top = np.maximum(np.asarray(seen.pool_width_mm), NOTHING)
        # Told in shares of the width and not of the root, which falls to nothing at once.
        used["short_root"] = 1 + ROOT_SHORT - np.asarray(seen.root_width_mm) / top
        reaches = face_for_root_mm(LEAST_SHARE, at.root_depth_mm)
        over = np.maximum(np.asarray(seen.over_root_mm), NEAR_ROOT * top)
        used["no_root"] = reaches / np.maximum(over, NOTHING)
    return used


def _border(at: Situation, seen: Figures) -> dict[str, Any]:
    # Told by differences, since a border may be nothing at all.
    border, pool = np.asarray(seen.border_mm), np.maximum(np.asarray(seen.pool_width_mm), NOTHING)
    used: dict[str, Any] = {
        "oxide_at_toes": 1 + (pool - np.asarray(seen.cleaned_width_mm)) / pool,
        "thin_border": 1 + (at.least_border_mm - border) / MOST_BORDER_MM,
        "wide_border": border / MOST_BORDER_MM,
    }
    if "appearance" in at.job.purposes:
        used["border_for_look"] = border / (at.aim.high_mm + ABOUT_MM)
    return used


def _tungsten(settings: Settings, to: Moved, c: Coefficients) -> dict[str, Any]:
    """Under the foot, and at a full press."""
    if settings.tungsten is None:
        return {}
    kind = (settings.tungsten.diameter_mm, settings.tungsten.class_, settings.tungsten.tip, c.tungsten_limit)
    run, full = (np.asarray(tungsten_load(wave, *kind)) for wave in (to.wave, to.full))
    return {
        "tungsten_melts": run / LOAD_MELTS,
        "tungsten_hot": np.maximum(run / LOAD_AT_RUN, full / LOAD_BALLS),
    }


def _amps(at: Situation, seen: Figures, to: Moved, wanted: Numbers, machine: Machine) -> dict[str, Any]:
    """Against the machine's amps and the pedal's way."""
    run = np.asarray(to.wave.amps)
    need = run * wanted / np.maximum(np.asarray(seen.work_heat_w), NOTHING)
    used: dict[str, Any] = {
        "machine_short": need / (SHORT_OVER * machine.most_a),
        "machine_minimum": ABOVE_LEAST * least_run_a(to.wave, machine) / np.maximum(need, NOTHING),
        "over_machine": np.asarray(to.amps_set) / (machine.most_a + OVER_SET_A),
    }
    if at.job.control == "pedal":
        way = np.asarray(pedal_used(run, to.start_a, to.amps_set))
        used["pedal_coarse"] = TOO_COARSE / np.maximum(way, NOTHING)
        used["pedal_no_reserve"] = way / NO_RESERVE
    return used


def _wave(settings: Settings, to: Moved, machine: Machine) -> dict[str, Any]:
    """The shorter half, and a pulse beside AC cycles and the machine's least."""
    used: dict[str, Any] = {
        "half_too_short": machine.least_half_ms
        / np.maximum(1000 * np.asarray(shortest_half_s(to.wave)), NOTHING)
    }
    if settings.pulse is not None:
        used["pulse_beats"] = 2 / np.maximum(ac_cycles_in_shorter_phase(to.wave), NOTHING)
        base = settings.pulse.base_share * np.asarray(to.wave.amps)
        used["pulse_base_low"] = machine.least_a / np.maximum(base, NOTHING)
    return used


def _run_duty(at: Situation, to: Moved) -> Any:
    """Share of ten minutes that one run takes."""
    return np.minimum(1.0, at.job.weld_length_mm / np.asarray(to.travel_mm_s) / DUTY_CYCLE_S)


def _torch_a(machine: Machine, kit: Kit | None, duty: Any) -> Any:
    """Amps rms that the torch bears for so long a run; with a kit that of its torches which bears most."""
    torches = [(torch.rated_a, torch.rated_duty) for torch in kit.torches] if kit else []
    rated = torches or [(machine.torch_amps, machine.torch_duty)]
    bears = [amps * np.minimum(1.0, np.sqrt(share / np.maximum(duty, NOTHING))) for amps, share in rated]
    return np.max(np.stack(bears), axis=0)


def _for_long(at: Situation, seen: Figures, to: Moved, machine: Machine, kit: Kit | None) -> dict[str, Any]:
    """Duty of the machine and rating of the torch, under the foot."""
    duty = _run_duty(at, to)
    return {
        "duty": duty / allowed_duty(to.wave.amps, machine.duty.amps, machine.duty.share),
        "torch_rating": np.asarray(seen.means.rms) / _torch_a(machine, kit, duty),
    }


def _later(
    at: Situation, seen: Figures, to: Moved, machine: Machine, kit: Kit | None, c: Coefficients
) -> dict[str, Any]:
    """The hottest of the passes after the first, against machine, duty and torch."""
    run = np.maximum(np.asarray(to.wave.amps), NOTHING)
    per_amp = np.asarray(seen.work_heat_w) / run
    hottest = hottest_later_w(at, per_amp, machine.most_a, to.travel_mm_s, to.preheat_c, c)
    if hottest is None:
        return {}
    need, duty = hottest.laid_w / per_amp, _run_duty(at, to)
    return {
        "pass_small": hottest.usual_w / per_amp / (SHORT_OVER * machine.most_a),
        "pass_short": need / (SHORT_OVER * machine.most_a),
        "pass_duty": duty / allowed_duty(need, machine.duty.amps, machine.duty.share),
        "pass_torch": need * np.asarray(seen.means.rms) / run / _torch_a(machine, kit, duty),
    }


def _machine_has(to: Moved, machine: Machine) -> dict[str, Any]:
    """Over 1 where the machine has no such value; what does not move is not asked."""
    found: list[Any] = []
    for key, value, low, high in (
        ("amps_run", to.wave.amps, machine.least_a, machine.most_a),
        ("ep_share", to.wave.ep_share, machine.least_ep_share, machine.most_ep_share),
        ("frequency_hz", to.wave.frequency_hz, machine.least_frequency_hz, machine.most_frequency_hz),
    ):
        if key in to.keys:
            at = np.maximum(np.asarray(value), NOTHING)
            found.append(np.maximum(low / at, at / high) - NOTHING)
    if "ep_trim" in to.keys:
        # Trims lie round 0: told by the factor on the amps.
        low, high = (machine.least_trim, machine.most_trim) if machine.can_trim else (0.0, 0.0)
        factor = 1 + np.asarray(to.wave.ep_trim)
        found.append(np.maximum((1 + low) / np.maximum(factor, NOTHING), factor / (1 + high)) - NOTHING)
    if not found:
        return {}
    most: Any = past_controls(to.full, to.keys, machine)
    for each in found:
        most = np.maximum(most, each)
    return {"unsettable": most}


def metal_cautions(at: Situation, settings: Settings) -> set[str]:
    """Codes of the stops and cautions that only metal, rod and thickness bring."""
    found = [*metal_warnings(at, settings), *mixed_on_thin(at, settings)]
    return {warning.code for warning in found if warning.level != "note"}
