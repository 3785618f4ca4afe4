"""Pulse: planned by school, finish, thickness and position."""

from __future__ import annotations

from anvilsong.core.machine import Machine
from anvilsong.core.model import FASTEST_DAB_HZ, Situation
from anvilsong.core.settings import Pulse

FINE_RIPPLE_MM, WIDE_RIPPLE_MM, SLOWEST_DAB_HZ = 1.8, 3.2, 0.8
FOIL_MM = 0.8


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

    Dab-paced: rate = travel/ripple pitch, 0.8 to 2.5 a second, 40 % on, base 35 %. Fast: as fast as two AC
    cycles in the shorter
    phase allow, f·min(on, 1 − on)/2, at most the machine's; 30 % on and base 20 % on foil, else 40 and 30 %.
    """
    school = at.job.school.pulse
    if school == "none" or not machine.can_pulse:
        return None
    if school == "dab":
        rate = min(
            max(travel_mm_s / ripple_wanted_mm(at), SLOWEST_DAB_HZ), FASTEST_DAB_HZ, machine.most_pulse_hz
        )
        return Pulse(rate_hz=round(rate, 1), peak_share=0.40, base_share=0.35)
    on, base = (0.30, 0.20) if at.job.thin_mm <= FOIL_MM else (0.40, 0.30)
    rate = min(frequency_hz * min(on, 1 - on) / 2, machine.most_pulse_hz)
    return Pulse(rate_hz=float(int(rate)), peak_share=on, base_share=base)


def pulse_advice(at: Situation) -> str:
    """When a pulse is worth trying here, though none is asked for."""
    if at.job.school.pulse != "none":
        return ""
    if at.job.position in ("vertical", "overhead"):
        return "A dab-paced pulse helps to hold the pool up in this position."
    if at.job.thin_mm <= FOIL_MM:
        return "A fast pulse puts less heat into metal this thin."
    if "appearance" in at.job.purposes:
        return "A dab-paced pulse makes even ripples: one dab a pulse."
    return ""
