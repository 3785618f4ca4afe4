"""Fit cup, stick-out, flow and post-flow to one another for a joint; change one and the others follow."""

from __future__ import annotations

import math

from anvilsong.core.formula import Formula
from anvilsong.core.model import Situation
from anvilsong.core.settings import Cup, Gas, Settings, Tungsten
from anvilsong.core.torch.cup import bore_mm, longest_stick_out_mm, outer_radius_mm
from anvilsong.core.torch.gas import planned_flow_l_min, post_flow_s, target_reynolds
from anvilsong.core.torch.tungsten import find_size, flat_mm, included_angle_deg

OPEN_STICK_OUT = Formula("bore_mm * share")
ANGLE_STICK_OUT = Formula("max(bore_mm * share, radius_mm / tan(half_angle) - arc_mm)")
USUAL_STICK_OUT = {True: 0.55, False: 0.40}  # of the bore, with a lens and with a plain body


def fitted_cup(at: Situation, number: int, lens: bool) -> Cup:
    """A cup with its stick-out: the usual share of the bore, and at least what its shoulder leaves in the
    joint.
    """
    formula, numbers = stick_out_formula(at, number, lens)
    return Cup(number=number, gas_lens=lens, stick_out_mm=round(formula(**numbers), 1))


def stick_out_formula(at: Situation, number: int, lens: bool) -> tuple[Formula, dict[str, float]]:
    """What the stick-out is worked out with, and its numbers: in an angle the cup's shoulder has a say."""
    numbers = {"bore_mm": bore_mm(number), "share": USUAL_STICK_OUT[lens]}
    if at.joint.access_deg >= 180:
        return OPEN_STICK_OUT, numbers
    return ANGLE_STICK_OUT, numbers | {
        "radius_mm": outer_radius_mm(number),
        "half_angle": math.radians(at.joint.access_deg / 2),
        "arc_mm": at.job.arc_length_mm,
    }


def fitted_flow_l_min(at: Situation, cup: Cup) -> tuple[float, float]:
    """Flow, L/min, for a cup, and the Reynolds number it aims at."""
    target = target_reynolds(at.job.draught_m_s, round(covered_share(cup), 3) - 0.005)
    return round(planned_flow_l_min(target, bore_mm(cup.number), at.job.helium_share), 1), target


def covered_share(cup: Cup) -> float:
    """Stick-out as a share of how far the gas still covers."""
    return cup.stick_out_mm / longest_stick_out_mm(cup.number, cup.gas_lens)


def with_cup(at: Situation, settings: Settings, number: int, lens: bool) -> Settings:
    """Another cup: stick-out, flow and post-flow follow."""
    cup = fitted_cup(at, number, lens)
    flow, _ = fitted_flow_l_min(at, cup)
    changed = settings.model_copy(update={"cup": cup, "gas": Gas(kind=settings.gas.kind, flow_l_min=flow)})
    return _with_post_flow(changed)


def with_tungsten(settings: Settings, class_key: str, diameter_mm: float) -> Settings:
    """Another tungsten: its tip and the post-flow follow."""
    old = settings.tungsten
    ball = old is not None and old.tip == "ball"
    made = Tungsten(
        class_=class_key,
        diameter_mm=diameter_mm,
        tip="ball" if ball else "point",
        angle_deg=None if ball else included_angle_deg(settings.amps_run),
        flat_mm=None if ball else flat_mm(diameter_mm),
    )
    return _with_post_flow(settings.model_copy(update={"tungsten": made}))


def _with_post_flow(settings: Settings) -> Settings:
    least = find_size(settings.tungsten.diameter_mm).post_flow_least_s if settings.tungsten else 0.0
    return settings.model_copy(
        update={"post_flow_s": post_flow_s(settings.amps_run, least, covered_share(settings.cup))}
    )
