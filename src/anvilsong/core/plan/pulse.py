"""Pulse: planned by school, finish, thickness and position."""

from __future__ import annotations

import math

from anvilsong.core.machine import Machine
from anvilsong.core.model import FASTEST_DAB_HZ, Situation
from anvilsong.core.said import Words
from anvilsong.core.settings import Pulse
from anvilsong.core.words import sentence

FINE_RIPPLE_MM, WIDE_RIPPLE_MM, SLOWEST_DAB_HZ = 1.8, 3.2, 0.8
FOIL_MM = 0.8
SOFT_ON, BASE_STEP = 0.50, 0.05
DAB_ON, DAB_BASE = 0.45, 0.33  # the middle of what welders dab with
# What a steady arc holds at all, A; of can stock: a third of the time on; a base nearer the peak is none.
HOLDS_A, CAN_ON, STEADY_BASE = 10.0, 0.33, 0.7


def ripple_wanted_mm(at: Situation) -> float:
    """Ripple pitch to aim at, mm: fine for appearance and thin metal, coarse on thick, between by
    thickness.
    """
    if "appearance" in at.job.purposes:
        return FINE_RIPPLE_MM
    thickness = min(max(at.thickness_mm, 1.5), 6.0)
    return FINE_RIPPLE_MM + (WIDE_RIPPLE_MM - FINE_RIPPLE_MM) * (thickness - 1.5) / 4.5


def planned_pulse(at: Situation, machine: Machine, travel_mm_s: float, frequency_hz: float) -> Pulse | None:
    """The pulse of the job's school; None for none or when the machine has none.

    Dab-paced: rate = travel/ripple pitch, 0.8 to 2.5 a second, 45 % on, base a third. Fast: as fast as two AC
    cycles in the shorter phase allow, f·min(on, 1 − on)/2, at most the machine's; a third on and base 20 % on
    foil, else 40 and 30 %.
    """
    school = at.job.school.pulse
    if school == "none" or not machine.can_pulse:
        return None
    if school == "dab":
        dab, most = dab_pulse(at, travel_mm_s), math.floor(10 * machine.most_pulse_hz) / 10
        return dab.model_copy(update={"rate_hz": min(dab.rate_hz, most)})
    on, base = (CAN_ON, 0.20) if at.job.thin_mm <= FOIL_MM else (0.40, 0.30)
    return Pulse(rate_hz=_fastest_hz(machine, frequency_hz, on), peak_share=on, base_share=base)


def dab_pulse(at: Situation, travel_mm_s: float) -> Pulse:
    """The pulse to dab with: rate = travel/ripple pitch, 0.8 to 2.5 a second; 45 % on, base a third."""
    rate = min(max(travel_mm_s / ripple_wanted_mm(at), SLOWEST_DAB_HZ), FASTEST_DAB_HZ)
    return Pulse(rate_hz=round(rate, 1), peak_share=DAB_ON, base_share=DAB_BASE)


def softer(pulse: Pulse) -> list[Pulse]:
    """The pulse, then ones whose peaks tower less over their mean: half the time on, the base rising to where
    hardly a pulse is left.
    """
    found, base = [pulse], max(pulse.base_share, 0.40)
    while base <= STEADY_BASE + 1e-9:
        found.append(pulse.model_copy(update={"peak_share": SOFT_ON, "base_share": round(base, 2)}))
        base += BASE_STEP
    return found


def _fastest_hz(machine: Machine, frequency_hz: float, on: float) -> float:
    """As fast as two AC cycles in the shorter phase and the machine allow: whole ones, under one a second
    tenths.
    """
    rate = min(frequency_hz * min(on, 1 - on) / 2, machine.most_pulse_hz)
    return float(int(rate)) if rate >= 1 else math.floor(10 * rate) / 10


def can_stock_pulse(machine: Machine, need_a: float, frequency_hz: float) -> Pulse | None:
    """The pulse of metal that wants fewer amps than a steady arc holds, about 10; None where it wants more,
    or the machine has none.

    A third of the time at the peak, as fast as two AC cycles in it allow.
    """
    if need_a >= HOLDS_A or not machine.can_pulse:
        return None
    rate = _fastest_hz(machine, frequency_hz, CAN_ON)
    return held_up(Pulse(rate_hz=rate, peak_share=CAN_ON, base_share=0.2), need_a, machine)


def held_up(pulse: Pulse, need_a: float, machine: Machine) -> Pulse | None:
    """A pulse whose base is no less than the machine holds, with the same mean as steady amps of ``need_a``,
    A, as far as an arc of 10 A lasts; None where hardly a pulse is left.

    base = least, peak = (need − (1 − on)·least)/on
    """
    on, least = pulse.peak_share, machine.least_a
    peak = need_a / (on + (1 - on) * pulse.base_share)
    if pulse.base_share * peak >= least:
        return pulse
    peak = max((need_a - (1 - on) * least) / on, HOLDS_A)
    # Amps are rounded to a tenth afterwards, and the base stands even so.
    base = math.ceil(1000 * least / max(peak - 0.1, HOLDS_A)) / 1000
    return pulse.model_copy(update={"base_share": base}) if base <= STEADY_BASE else None


def coolest_a(machine: Machine) -> float:
    """Steady amps, A, that put in as little heat as a machine can: its least, or a pulse of can stock."""
    least = machine.least_a
    if not machine.can_pulse or least > STEADY_BASE * HOLDS_A:
        return least
    return CAN_ON * HOLDS_A + (1 - CAN_ON) * least


def pulse_advice(at: Situation) -> Words:
    """When a pulse is worth trying here, though none is asked for."""
    if at.job.school.pulse != "none":
        return ""
    if at.job.position in ("vertical", "overhead"):
        return sentence("plan.dab_paced_pulse_stops")
    if at.job.thin_mm <= FOIL_MM:
        return sentence("plan.fast_pulse_puts_less")
    if "appearance" in at.job.purposes:
        return sentence("plan.dab_paced_pulse_makes")
    return ""
