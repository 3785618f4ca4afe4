"""What a run takes out of machine, outlet and generator, and the arc energy that records ask for.

Duty: I1²·D1 = I2²·D2 over ten minutes, a stated approximation. Arc voltage: the conventional load of TIG
machines, U = 10 + 0.04·I. Input current = U·I/(η·V·λ), η = 0.82, λ = 0.99 with power factor correction and
0.7 without. A generator wants a quarter more than that. Whether an outlet, a lead or a generator may be used,
an electrician decides.

References
----------
IEC 60974-1: conventional load voltage of TIG machines, duty cycle of ten minutes.
EN 1011-1: heat input = thermal efficiency × arc energy, 0.6 for TIG.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from anvilsong.core.errors import Unfit
from anvilsong.core.heat.pedal import DUTY_CYCLE_S, allowed_duty
from anvilsong.core.machine.model import Machine
from anvilsong.core.words import sentence

EFFICIENCY, CORRECTED, PLAIN = 0.82, 0.99, 0.70
GENERATOR_MARGIN, TIG_EFFICIENCY = 1.25, 0.6


@dataclass(frozen=True)
class DutyUse:
    """Of ten minutes: what may be welded, how long a run may be, what rest a run wants, and runs an hour."""

    allowed: float
    longest_s: float
    rest_s: float
    runs_an_hour: float
    is_within: bool


@dataclass(frozen=True)
class SupplyUse:
    """Amps and kVA out of the supply; ``is_within`` of the fuse; most amps at the arc that the fuse holds."""

    input_a: float
    input_kva: float
    generator_kva: float
    is_within: bool
    most_arc_a: float


def load_voltage_v(amps: float) -> float:
    """U = 10 + 0.04·I, up to 34 V."""
    return min(10 + 0.04 * amps, 34.0)


def duty_use(machine: Machine, amps: float, run_s: float) -> DutyUse:
    """For runs of so many seconds at so many amps, one after another.

    Raises
    ------
    ValueError : no amps, or a run of no length
    """
    if amps <= 0 or run_s <= 0:
        raise Unfit(sentence("machine.amps_seconds_are_more"))
    allowed = float(allowed_duty(amps, machine.duty.amps, machine.duty.share))
    longest = math.inf if allowed >= 1 else allowed * DUTY_CYCLE_S
    rest = 0.0 if allowed >= 1 else run_s * (1 / allowed - 1)
    return DutyUse(allowed, longest, rest, 3600 / (run_s + rest), run_s <= longest)


def supply_use(amps: float, supply_v: float, fuse_a: float, corrected: bool) -> SupplyUse:
    """At so many amps of arc, from a single phase.

    Raises
    ------
    ValueError : a supply of no volts or a fuse of no amps
    """
    if supply_v <= 0 or fuse_a <= 0:
        raise Unfit(sentence("machine.volts_amps_are_more"))
    share = EFFICIENCY * supply_v * (CORRECTED if corrected else PLAIN)
    taken = load_voltage_v(amps) * amps / share
    # 0.04·I² + 10·I = share × fuse
    bears = fuse_a * share
    most = (-10 + math.sqrt(100 + 0.16 * bears)) / 0.08
    if most > 600:  # over 600 A the conventional voltage stays at 34 V
        most = bears / 34
    kva = taken * supply_v / 1000
    return SupplyUse(taken, kva, kva * GENERATOR_MARGIN, taken <= fuse_a, most)


def arc_energy_kj_mm(amps: float, travel_mm_s: float) -> float:
    """U·I/(1000·v)."""
    return load_voltage_v(amps) * amps / (1000 * travel_mm_s)


def heat_input_kj_mm(amps: float, travel_mm_s: float) -> float:
    """Arc energy × 0.6: codes differ in which of the two they mean."""
    return TIG_EFFICIENCY * arc_energy_kj_mm(amps, travel_mm_s)
