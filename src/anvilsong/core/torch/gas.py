"""Shielding gas: the flow that keeps the stream smooth, and its times."""

from __future__ import annotations

import math

from anvilsong.core.arc.waveform import Numbers
from anvilsong.core.formula import Formula
from anvilsong.core.units import L_MIN_PER_CFH

ARGON_VISCOSITY_M2_S = 1.34e-5
TARGET_REYNOLDS = 1300.0
LEAST_REYNOLDS, MOST_REYNOLDS, BEST_REYNOLDS = 800.0, 1900.0, (1000.0, 1500.0)
DRAUGHT_REYNOLDS = 1800.0
FLOW = Formula("reynolds * pi * bore_mm / 1000 * viscosity_m2_s / 4 * 60000")
HELIUM_FLOW = Formula("max(argon_l_min, min(wanted_l_min, 1.8 * argon_l_min, 25))")
POST_FLOW = Formula("min(ceil(max(amps_run / 15, least_s, 4) * longer), 20)")
TURBULENT_REYNOLDS = 2000.0


def viscosity_m2_s(helium_share: Numbers = 0.0) -> Numbers:
    """Kinematic viscosity, m²/s: 1.34e-5/(1 − 0.9·x) for helium share x."""
    return ARGON_VISCOSITY_M2_S / (1 - 0.9 * helium_share)


def reynolds(flow_l_min: Numbers, bore_mm: Numbers, helium_share: Numbers = 0.0) -> Numbers:
    """Reynolds number of the stream in the cup: Re = v·d/ν = 4·Q/(π·d·ν)."""
    flow_m3_s = flow_l_min / 60_000
    return 4 * flow_m3_s / (math.pi * bore_mm / 1000 * viscosity_m2_s(helium_share))


def flow_for(reynolds_number: Numbers, bore_mm: Numbers, helium_share: Numbers = 0.0) -> Numbers:
    """Flow, L/min, that gives this Reynolds number: Q = Re·π·d·ν/4.

    >>> round(float(flow_for(1200, 11.1125)), 1)
    8.4
    """
    viscosity = viscosity_m2_s(helium_share)
    flow: Numbers = FLOW(reynolds=reynolds_number, pi=math.pi, bore_mm=bore_mm, viscosity_m2_s=viscosity)
    return flow


def planned_flow_l_min(reynolds_number: float, bore_mm: float, helium_share: float = 0.0) -> float:
    """Flow, L/min, to plan: for this Reynolds number, with helium at most 1.8 × argon's and 25 L/min.

    Helium is lighter and wants more to cover as well; more than that only costs.
    """
    wanted, plain = (float(flow_for(reynolds_number, bore_mm, share)) for share in (helium_share, 0.0))
    if wanted <= plain + 1e-9:
        return wanted
    return float(HELIUM_FLOW(argon_l_min=plain, wanted_l_min=wanted))


def target_reynolds(draught_m_s: float, stick_out_share: float) -> float:
    """The Reynolds number to aim at: 1300, rising to 1800 with a draught to 0.5 m/s or stick-out past 0.8 of
    its reach.
    """
    more = max(min(draught_m_s / 0.5, 1.0), min(max(0.0, stick_out_share - 0.8) / 0.2, 1.0))
    return TARGET_REYNOLDS + (DRAUGHT_REYNOLDS - TARGET_REYNOLDS) * more


def shop_rule_l_min(cup_number: float) -> tuple[float, float]:
    """The shop rule: 2 to 2.6 cubic feet an hour for each cup number, in L/min."""
    return 2 * cup_number * L_MIN_PER_CFH, 2.6 * cup_number * L_MIN_PER_CFH


def pre_flow_s(thickness_mm: float, hose_m: float = 4.0) -> float:
    """Pre-flow, s: 0.5, 0.7 on thin metal, 1 on foil, and 0.05 for each metre of hose over 4."""
    least = 1.0 if thickness_mm <= 0.3 else 0.7 if thickness_mm <= 1.6 else 0.5
    return round(least + 0.05 * max(0.0, hose_m - 4), 2)


def post_flow_s(amps_run: float, least_s: float, stick_out_share: float = 0.5) -> float:
    """Post-flow, s: amps/15 when the arc ends, at least what the tungsten needs, 4 to 20; longer at full
    stick-out.
    """
    return float(POST_FLOW(amps_run=amps_run, least_s=least_s, longer=post_flow_factor(stick_out_share)))


def post_flow_factor(stick_out_share: float) -> float:
    """How much longer the post-flow is with a long stick-out: 1 to 0.7 of its reach, 1.3 at all of it."""
    return 1 + max(0.0, stick_out_share - 0.7)
