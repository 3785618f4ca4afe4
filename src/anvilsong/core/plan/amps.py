"""Amps and tungsten of a plan, which hang on one another: the share comes down before a tungsten gives
way.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

from anvilsong.core.arc.waveform import Wave, heat_per_amp_w
from anvilsong.core.coefficients import Coefficients
from anvilsong.core.formula import Formula
from anvilsong.core.heat.pedal import HEADROOM
from anvilsong.core.machine import Machine, least_run_a
from anvilsong.core.model import DEEPEST_TRIM, LEAST_EP_SHARE, Situation, later_within
from anvilsong.core.plan.cleaning import SHARE_STEP, TRIM_STEP, border_at_mm
from anvilsong.core.plan.work import Course
from anvilsong.core.torch.kit import Kit
from anvilsong.core.torch.tungsten import LOAD_AT_SET, bears, choose_tungsten, find_class, tungsten_load

EVERYDAY_MOST_MM, USUAL_MOST_TUNGSTEN_MM, RARITY_SHARE = 3.2, 4.0, 0.25

AMPS_RUN = Formula("min(max((pool_heat_w + rod_heat_w) / heat_w_per_a, least_a), most_a)")
AMPS_SET = Formula("min(max(amps_run * headroom, hottest_pass_a), most_a)")


@dataclass(frozen=True)
class Chosen:
    """Amps under the foot and of the machine, A, the wave with its share, and the tungsten that bears them
    if one does.
    """

    need_a: float
    run_a: float
    full_a: float
    hottest_a: float
    headroom: float
    heat_per_amp_w: float
    wave: Wave
    tungsten: tuple[str, float] | None


@dataclass(frozen=True)
class _Asked:
    at: Situation
    machine: Machine
    c: Coefficients
    course: Course
    later_heat_w: float


def settle(
    at: Situation, machine: Machine, kit: Kit, c: Coefficients, course: Course, planned: Wave
) -> Chosen:
    """Amps, share and tungsten for a heat.

    amps_run = (q + q_filler)/(heat per canonical ampere), and the everyday tungsten that bears it. When
    none up to 3.2 mm does, the share comes down a point at a time to 25 %, as far as the border allows; then
    4.0 mm is taken, then rarer sizes, then the share comes down to 20 %.
    Appearance brings it down too, to its border.
    """
    travel_mm_s, preheat_c = course.travel_mm_s, course.preheat_c
    per_amp = heat_per_amp_w(planned, c, at.job.arc_length_mm, at.job.helium_share)
    later = later_within(at, per_amp, machine.most_a, travel_mm_s, preheat_c, c)
    later_heat = later.hottest_w if at.job.control == "pedal" else 0.0
    asked = _Asked(at, machine, c, course, later_heat)
    planned = _narrowed(asked, planned)
    every = [(item.class_, item.diameter_mm) for item in kit.tungstens]
    usual = [
        item for item in every if item[1] <= USUAL_MOST_TUNGSTEN_MM and not find_class(item[0]).never_proposed
    ]
    least = max(LEAST_EP_SHARE, machine.least_ep_share)
    everyday = [item for item in usual if item[1] <= EVERYDAY_MOST_MM]
    found = _down_to(asked, planned, everyday, max(RARITY_SHARE, least), at.aim.low_mm)
    if found.tungsten is None:
        found = _down_to(asked, planned, usual, max(RARITY_SHARE, least), at.aim.low_mm)
    if found.tungsten is None or _too_wide(asked, found.wave):
        found = _down_to(asked, planned, every, least, 0.0)
    return found


def _narrowed(asked: _Asked, wave: Wave) -> Wave:
    """For the look, the trim that takes a wide border to its aim, to 40 %: the strong lever on it."""
    deepest = max(DEEPEST_TRIM, asked.machine.least_trim) if asked.machine.can_trim else 0.0
    while _too_wide(asked, wave) and wave.ep_trim > deepest + 1e-9:
        wave = replace(wave, ep_trim=max(deepest, round(float(wave.ep_trim) - TRIM_STEP, 3)))
    return wave


def _down_to(
    asked: _Asked, planned: Wave, stocked: Sequence[tuple[str, float]], least: float, border_mm: float
) -> Chosen:
    """The first share from the planned one down at which a stocked tungsten bears the amps; the last tried
    when none does.
    """
    wave = planned
    while True:
        found = _at(asked, wave, stocked)
        if found.tungsten is not None and not _too_wide(asked, wave):
            return found
        lower = replace(wave, ep_share=round(float(wave.ep_share) - SHARE_STEP, 3))
        if lower.ep_share < least - 1e-9 or (border_mm > 0 and _border_mm(asked, lower) < border_mm):
            return found
        wave = lower


def worked_run_a(
    course: Course, heat_w_per_a: float, wave: Wave, machine: Machine
) -> tuple[float, dict[str, float]]:
    """Welding amps, A, by ``AMPS_RUN``, and the numbers that went into it."""
    numbers = {
        "pool_heat_w": course.heat_w - course.rod_w,
        "rod_heat_w": course.rod_w,
        "heat_w_per_a": heat_w_per_a,
        "least_a": least_run_a(wave, machine),
        "most_a": machine.most_a,
    }
    return float(AMPS_RUN(**numbers)), numbers


def _at(asked: _Asked, wave: Wave, stocked: Sequence[tuple[str, float]]) -> Chosen:
    job, machine = asked.at.job, asked.machine
    per_amp = heat_per_amp_w(wave, asked.c, job.arc_length_mm, job.helium_share)
    pedal = job.control == "pedal"
    headroom, patient = (HEADROOM[job.school.pedal], HEADROOM["patient"]) if pedal else (1.0, 1.0)
    need, hottest = asked.course.heat_w / per_amp, asked.later_heat_w / per_amp
    run, _ = worked_run_a(asked.course, per_amp, wave, machine)
    full = AMPS_SET(amps_run=run, headroom=headroom, hottest_pass_a=hottest, most_a=machine.most_a)
    tip, limit = job.school.tip, asked.c.tungsten_limit
    chosen = choose_tungsten(replace(wave, amps=run), replace(wave, amps=full), stocked, tip, limit)
    if chosen is None and patient < headroom:
        # A ceiling set lower, as far as a patient foot needs it, so that a tungsten bears a full press.
        least = min(max(run * patient, hottest), full)
        chosen = choose_tungsten(replace(wave, amps=run), replace(wave, amps=least), stocked, tip, limit)
        if chosen is not None:
            name, size = chosen
            load = float(tungsten_load(replace(wave, amps=full), size, name, tip, limit))
            eased = max(least, min(full, math.floor(10 * full * LOAD_AT_SET / load) / 10))
            full = (
                eased
                if bears(replace(wave, amps=run), replace(wave, amps=eased), size, name, tip, limit)
                else least
            )
            headroom = full / run
    return Chosen(need, run, full, hottest, headroom, per_amp, wave, chosen)


def _border_mm(asked: _Asked, wave: Wave) -> float:
    return border_at_mm(asked.at, asked.machine, wave, asked.course, asked.c)


def _too_wide(asked: _Asked, wave: Wave) -> bool:
    """Whether appearance is asked and the border at the wanted pool would be wider than its aim."""
    return "appearance" in asked.at.job.purposes and _border_mm(asked, wave) > asked.at.aim.high_mm
