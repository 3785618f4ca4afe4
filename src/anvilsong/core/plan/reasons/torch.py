"""Why this tungsten, cup, stick-out, gas and rod."""

from __future__ import annotations

import math
from dataclasses import replace

from anvilsong.core import say
from anvilsong.core.arc.waveform import Wave
from anvilsong.core.formula import Formula
from anvilsong.core.metal.fillers import PURPOSE_WORDS, Ranked
from anvilsong.core.model import Reason, Situation
from anvilsong.core.plan.reasons.source import WORKSHOP
from anvilsong.core.plan.torch_fit import USUAL_STICK_OUT, stick_out_formula
from anvilsong.core.said import Words
from anvilsong.core.shown import percent
from anvilsong.core.torch.cup import EVERYDAY_LENS, EVERYDAY_PLAIN, bore_mm
from anvilsong.core.torch.cylinder import gas_used_l
from anvilsong.core.torch.gas import (
    FLOW,
    HELIUM_FLOW,
    POST_FLOW,
    flow_for,
    post_flow_factor,
    shop_rule_l_min,
    viscosity_m2_s,
)
from anvilsong.core.torch.tungsten import (
    EVERYDAY_MM,
    LOAD_WANDERS,
    Tip,
    bears,
    find_size,
    limit_factor,
    load_parts,
    tungsten_load,
    tungsten_sizes,
)
from anvilsong.core.words import sentence

CUP = Formula(
    "max(ceil((max(pool_width_mm + 2 * border_mm, 3 * tungsten_mm) - 0.25) / 1.5875), least_number)"
)


def _as_well(diameter: float, class_key: str, run: Wave, full: Wave, tip: Tip, limit: float) -> Words:
    """The nearest other sizes that bear these waves at ease, in a sentence."""
    others = [
        size.diameter_mm
        for size in tungsten_sizes()
        if size.diameter_mm != diameter
        and bears(run, full, size.diameter_mm, class_key, tip, limit)
        and tungsten_load(run, size.diameter_mm, class_key, tip, limit) >= LOAD_WANDERS
    ]
    nearest = sorted(others, key=lambda size: abs(size - diameter))[:2]
    if not nearest:
        return ""
    return say.joined(" ", say.joined(*map(say.size, sorted(nearest)), by=" or "), " would do as well.")


def tungsten(
    diameter: float, class_key: str, amps: tuple[float, float], wave: Wave, ball: bool, limit: float
) -> Reason:
    """Why this size: its load under the foot and at full press."""
    run, full = amps
    size = find_size(diameter)
    tip: Tip = "ball" if ball else "point"
    factor = limit_factor(class_key, tip) * limit
    en, ep = load_parts(wave, diameter, class_key, tip, limit)
    numbers = {
        "en_mean_a": float(en) * size.en_limit_a * factor,
        "ep_mean_a": float(ep) * size.ep_limit_a * factor,
        "en_limit_a": size.en_limit_a * factor,
        "ep_limit_a": size.ep_limit_a * factor,
        "amps_run": run,
        "amps_set": full,
    }
    return Reason(
        setting="tungsten_mm",
        rule=sentence("plan.tungsten_mm_rule", everyday_mm=EVERYDAY_MM),
        numbers=numbers,
        source=sentence("plan.tungsten_mm_source"),
        value=diameter,
        said=sentence(
            "plan.tungsten_mm_said",
            welding=float(en + ep),
            full=float(en + ep) * full / run,
            others=_as_well(diameter, class_key, wave, replace(wave, amps=full), tip, limit),
        ),
    )


def cup(number: int, lens: bool, width: float, at: Situation, tungsten_mm: float) -> Reason:
    """Why this cup: what it has to shield."""
    numbers = {
        "pool_width_mm": at.wanted_width_mm,
        "border_mm": at.aim.aim_mm,
        "tungsten_mm": tungsten_mm,
        "width_to_shield_mm": width,
        "least_number": float((EVERYDAY_LENS if lens else EVERYDAY_PLAIN)[0]),
    }
    said = sentence("plan.shields_pool_both_borders", width=width, number=bore_mm(number))
    return Reason(
        setting="cup_number",
        rule=sentence("plan.cup_number_rule"),
        formula=CUP.text,
        numbers=numbers,
        source=WORKSHOP,
        school=f"shielding: {'lens' if lens else 'plain'}",
        value=float(number),
        said=said,
    )


def stick_out(value: float, needed: float, number: int, lens: bool, at: Situation) -> Reason:
    """Why this stick-out: a share of the bore, and the room in the joint."""
    share = USUAL_STICK_OUT[lens]
    formula, numbers = stick_out_formula(at, number, lens)
    said = (
        sentence("plan.cups_shoulder_leaves_corner", needed=needed)
        if needed >= bore_mm(number) * share
        else f"{percent(share)} of the bore {'with a lens' if lens else 'with a plain body'}."
    )
    return Reason(
        setting="stick_out_mm",
        rule=sentence("plan.stick_out_mm_rule"),
        formula=formula.text,
        numbers=numbers,
        source=sentence("plan.stick_out_mm_source"),
        value=value,
        said=said,
    )


def flow(value: float, target: float, number: int, helium: float) -> Reason:
    """Why this flow: a Reynolds number, with the shop rule beside it."""
    bore = bore_mm(number)
    formula, numbers = (
        FLOW,
        {
            "reynolds": target,
            "pi": math.pi,
            "bore_mm": bore,
            "viscosity_m2_s": float(viscosity_m2_s(helium)),
        },
    )
    if helium:
        wanted, argon = (float(flow_for(target, bore, each)) for each in (helium, 0.0))
        formula, numbers = HELIUM_FLOW, {"argon_l_min": argon, "wanted_l_min": wanted}
    low, high = shop_rule_l_min(number)
    return Reason(
        setting="flow_l_min",
        rule=sentence("plan.flow_l_min_rule"),
        formula=formula.text,
        numbers=numbers,
        source=sentence("plan.flow_l_min_source"),
        value=value,
        said=sentence("plan.flow_l_min_said", number=number, target=target, low=low, high=high),
    )


def gas_times(
    times_s: tuple[float, float],
    run: float,
    tungsten_mm: float,
    thin_mm: float,
    covered: float,
    flow_l_min: float,
) -> tuple[Reason, Reason]:
    """Why gas flows so long before and after, and what a stop costs."""
    pre, post = times_s
    least = find_size(tungsten_mm).post_flow_least_s
    stop_l = gas_used_l(0.0, 1, pre, post, flow_l_min)
    before = Reason(
        setting="pre_flow_s",
        rule=sentence("plan.pre_flow_s_rule"),
        numbers={"thickness_mm": thin_mm},
        source=WORKSHOP,
        value=pre,
        said=sentence("plan.pre_flow_s_said") if thin_mm <= 1.6 else sentence("plan.pre_flow_s_said_2"),
    )
    after = Reason(
        setting="post_flow_s",
        rule=sentence("plan.post_flow_s_rule"),
        formula=POST_FLOW.text,
        numbers={"amps_run": run, "least_s": least, "longer": post_flow_factor(covered)},
        source=WORKSHOP,
        value=post,
        said=sentence("plan.post_flow_s_said", tungsten_mm=tungsten_mm, least=least, stop_l=stop_l),
    )
    return before, after


def filler(
    best: Ranked, diameter: float, at: Situation, smaller: bool, by_pass: bool = False
) -> list[Reason]:
    """Why this rod and its size. ``by_pass``: the first pass takes less than the sheet's usual rod."""
    job = at.job
    asked = ", ".join(PURPOSE_WORDS[purpose] for purpose in job.purposes)
    why = (
        f"Best for {asked}"
        if asked
        else "Usual for this pair"
        if "usual for this pair" in best.parts
        else "Best all round"
    )
    kind = Reason(
        setting="filler_class",
        rule=sentence("plan.filler_class_rule"),
        numbers={"score": best.score, "crack_sensitivity": best.sensitivity, "dilution": at.filler.dilution},
        source=sentence("plan.filler_class_source"),
        value=best.filler,
        said=f"{why}: {best.good_for}.",
    )
    rule = sentence("plan.about_thinner_side_size", small=2.4, to_mm=4, middle=3.2, next_mm=7, large=4.0)
    size = Reason(
        setting="filler_mm",
        rule=rule,
        numbers={"thickness_mm": job.thin_mm},
        source=WORKSHOP,
        value=diameter,
        said=(
            sentence("plan.filler_mm_said", section_mm2=at.section_mm2)
            if by_pass
            else say.joined("For ", say.sheet(job.thin_mm)) + (", one size down." if smaller else ".")
        ),
    )
    return [kind, size]
