"""The planner's choices at the torch: tungsten, cup, gas, rod."""

from __future__ import annotations

import math
from dataclasses import replace

from anvilsong.core.job import Job
from anvilsong.core.metal.rods import rod_diameter_mm, rod_for_pass_mm
from anvilsong.core.model import (
    MOST_EP_SHARE,
    LimitWarning,
    later_passes,
    needs_bridging,
)
from anvilsong.core.plan import reasons
from anvilsong.core.plan.amps import Chosen
from anvilsong.core.plan.torch_fit import fitted_cup, fitted_flow_l_min
from anvilsong.core.plan.work import Work
from anvilsong.core.settings import Cup, Filler, Tungsten
from anvilsong.core.shown import percent
from anvilsong.core.torch.cup import (
    BORE_TOLERANCE_MM,
    bore_mm,
    choose_cup,
    covers,
    stick_out_needed_mm,
    width_to_shield_mm,
)
from anvilsong.core.torch.tungsten import (
    flat_mm,
    included_angle_deg,
)
from anvilsong.core.words import sentence

MOST_USUAL_CUP = 10


def tungsten_of(work: Work, chosen: Chosen) -> Tungsten:
    """The tungsten chosen with the amps, with its tip."""
    assert chosen.tungsten is not None
    wave = replace(chosen.wave, amps=chosen.run_a)
    ball = work.job.school.tip == "ball" or float(wave.ep_share) > MOST_EP_SHARE
    name, diameter = chosen.tungsten
    work.say(
        reasons.tungsten(diameter, name, (chosen.run_a, chosen.full_a), wave, ball, work.c.tungsten_limit)
    )
    return Tungsten(
        class_=name,
        diameter_mm=diameter,
        tip="ball" if ball else "point",
        angle_deg=None if ball else included_angle_deg(chosen.run_a),
        flat_mm=None if ball else flat_mm(diameter),
    )


def cup_of(work: Work, tungsten_mm: float) -> Cup:
    """The smallest everyday cup of the shelf that shields pool and borders."""
    at, kit = work.at, work.kit
    lens = (work.job.school.shielding == "lens" and bool(kit.lens_cups)) or not kit.cups
    stocked = kit.lens_cups if lens else kit.cups
    asked = width_to_shield_mm(at.wanted_width_mm, at.aim.aim_mm, tungsten_mm)
    # Wider cups are for reach, by choice: over the usual ones a pool is shielded in passes and by the hand's
    # angle.
    width = min(asked, bore_mm(MOST_USUAL_CUP) + BORE_TOLERANCE_MM)
    cup = fitted_cup(at, choose_cup(width, stocked, lens), lens)
    if not covers(cup.number, width):
        text = sentence(
            "plan.widest_cup_shelf_shields",
            number=cup.number,
            bore_mm=bore_mm(cup.number),
            wanted_mm=width,
            buy=math.ceil((width - BORE_TOLERANCE_MM) / bore_mm(1)),
        )
        work.warnings.append(
            LimitWarning(code="cup_short", level="watch", setting="cup_number", message=text)
        )
    needed = stick_out_needed_mm(cup.number, at.joint.access_deg, work.job.arc_length_mm)
    work.say(reasons.cup(cup.number, lens, width, at, tungsten_mm))
    work.say(reasons.stick_out(cup.stick_out_mm, needed, cup.number, lens, at))
    return cup


def flow_l_min(work: Work, cup: Cup) -> float:
    """Flow for the cup, L/min."""
    flow, target = fitted_flow_l_min(work.at, cup)
    work.say(reasons.flow(flow, target, cup.number, work.job.helium_share))
    return flow


def gas_kind(job: Job) -> str:
    """The gas in words."""
    return f"argon with {percent(job.helium_share)} helium" if job.helium_share else "argon"


def filler_of(work: Work) -> Filler | None:
    """The rod: best for the pair, or the best on the shelf; None for none."""
    at, job = work.at, work.job
    best = at.filler.best
    if job.filler_wanted == "none" or best is None:
        return None
    stocked = work.kit.fillers
    if stocked is not None and best.filler not in stocked:
        on_shelf = next((row for row in at.filler.ranked if row.filler in stocked), None)
        text = sentence("plan.filler_rod_not_shelf", filler=best.filler) + (
            sentence("plan.planned_with_which_buy", filler=on_shelf.filler, best=best.filler)
            if on_shelf
            else f"buy {best.filler}."
        )
        work.warnings.append(
            LimitWarning(code="filler_short", level="watch", setting="filler_class", message=text)
        )
        best = on_shelf or best
    smaller = job.position in ("vertical", "overhead") or at.weld.small_rod
    usual = rod_diameter_mm(job.thin_mm, work.kit.rods_mm, smaller)
    diameter = usual
    if later_passes(at) and not needs_bridging(at):
        diameter = rod_for_pass_mm(at.section_mm2, at.wanted_width_mm, usual, work.kit.rods_mm)
    for reason in reasons.filler(best, diameter, at, smaller, diameter < usual):
        work.say(reason)
    return Filler(class_=best.filler, diameter_mm=diameter)
