"""Reasons as data: rule, formula with its numbers, source, school, and the one line a lane shows.

Each formula is an expression in the names of its numbers that gives the value, so that it can be checked.
"""

from __future__ import annotations

import math
from dataclasses import replace

from anvilsong.core import say
from anvilsong.core.arc.frequency import Band
from anvilsong.core.arc.waveform import Shape, Wave
from anvilsong.core.heat.pedal import HEADROOM
from anvilsong.core.machine.model import Machine
from anvilsong.core.metal.fillers import PURPOSE_WORDS, Ranked
from anvilsong.core.metal.joints import handbook_band_a, shop_rule_a
from anvilsong.core.plan.gap import FIRST_SHARE, needs_bridging
from anvilsong.core.plan.pulse import ripple_wanted_mm
from anvilsong.core.plan.situation import Situation
from anvilsong.core.plan.values import Reason
from anvilsong.core.quantities import percent
from anvilsong.core.settings import Pulse
from anvilsong.core.torch.cup import EVERYDAY_LENS, EVERYDAY_PLAIN, WALL_MM, bore_mm
from anvilsong.core.torch.cylinder import gas_used_l
from anvilsong.core.torch.gas import planned_flow_l_min, post_flow_factor, shop_rule_l_min, viscosity_m2_s
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

ROSENTHAL = "Moving point source with mirror images (Rosenthal 1946); joint factors nominal"
WORKSHOP = "Workshop practice"


def preheat(value: float, words: str) -> Reason:
    said = f"Castings are preheated: it drives out moisture and oil, and lowers the amps. {words[0].upper()}{words[1:]}."
    return Reason(
        setting="preheat_c",
        rule="Preheat of castings, within the alloy's limit",
        source=WORKSHOP,
        value=value,
        said=said,
    )


def travel(value: float, at: Situation, chosen: bool, short: str = "") -> Reason:
    """``short`` names a machine that reaches the pool only more slowly than usual."""
    said = "Your own speed." if chosen else f"Usual by hand for {say.sheet(round(at.thickness_mm, 2))}."
    if short:
        said = f"Slower than the usual {say.mm_s(at.usual_travel_mm_s)}, so that {short} reaches the pool."
    return Reason(
        setting="travel_mm_s",
        rule="Hand travel by thickness",
        numbers={"thickness_mm": at.thickness_mm},
        source=WORKSHOP,
        value=value,
        said=said,
    )


def frequency(value: float, band: Band, school: str, factor: float, machine: Machine) -> Reason:
    numbers = {
        "band_low_hz": band.low_hz,
        "band_high_hz": band.high_hz,
        "school_factor": factor,
        "least_hz": machine.least_frequency_hz,
        "most_hz": machine.most_frequency_hz,
    }
    # Rounded to the nearest 5 Hz by ceil(x/5 − 1/2).
    formula = (
        "min(max(5 * ceil((band_low_hz + band_high_hz) / 2 * school_factor / 5 - 0.5), least_hz), most_hz)"
    )
    return Reason(
        setting="frequency_hz",
        rule=band.words,
        formula=formula,
        numbers=numbers,
        source="Workshop bands for inverter AC",
        school=f"frequency: {school}",
        value=value,
        said=f"{band.words.split(':')[0].split(',')[0]}: {band.low_hz:.0f} to {band.high_hz:.0f} Hz"
        + ("." if factor == 1 else f", × {factor:g} for {school}."),
    )


def waveform(shape: Shape, wanted: Shape, machine: str) -> Reason:
    said = (
        f"As your school says: {wanted}."
        if shape == wanted
        else f"{machine} has no {wanted} wave; {shape} is what it has."
    )
    return Reason(
        setting="shape_en",
        rule="Waveform by school, within what the machine has; amps are converted so that the heat stays",
        source="Means of the unit shapes",
        school=f"waveform: {wanted}",
        value=shape,
        said=said,
    )


def trim(value: float, asked: bool, can: bool, school: str) -> Reason:
    if asked and not can:
        said = "A trimmed positive half is wanted; this machine cannot set it apart."
    elif asked and value == 0:
        said = "Not trimmed: the border would be too thin on this metal."
    elif asked:
        said = "Positive half trimmed for a narrow, straight border and a sharp tungsten."
    else:
        said = "Both halves alike."
    return Reason(
        setting="ep_trim",
        rule="Trim for appearance or by school, 20 to 30 %",
        source=WORKSHOP,
        school=f"amplitude: {school}",
        value=value,
        said=said,
    )


def amps_run(
    value: float,
    need: float,
    pool_heat: float,
    rod: float,
    per_amp: float,
    at: Situation,
    travel_mm_s: float,
    machine: Machine,
    meter_per_a: float = 1.0,
) -> Reason:
    """``meter_per_a`` is what a meter shows (rms) for each ampere of the wave's peak: handbooks print meter amps."""
    numbers = {
        "pool_heat_w": pool_heat,
        "rod_heat_w": rod,
        "heat_w_per_a": per_amp,
        "least_a": machine.least_a,
        "most_a": machine.most_a,
        "pool_width_mm": at.wanted_width_mm,
        "thickness_mm": at.thickness_mm,
        "travel_mm_s": travel_mm_s,
        "joint_factor": at.heat_factor,
        "position_factor": at.position_factor,
        "shop_rule_a": shop_rule_a(at.thickness_mm),
    }
    beside = f"Shop rule of {say.per_mm(40, 'A', 0)}: {shop_rule_a(at.thickness_mm):.0f} A."
    band = handbook_band_a(at.thickness_mm, at.job.joint, at.job.position)
    if band and at.job.bevel is None:
        meter = need * meter_per_a
        numbers |= {"handbook_low_a": band[0], "handbook_high_a": band[1], "meter_a": meter}
        where = "inside" if band[0] <= meter <= band[1] else "below" if meter < band[0] else "above"
        beside = f"Handbooks give {band[0]:.0f} to {band[1]:.0f} A ({where}); {say.per_mm(40, 'A', 0)} gives {shop_rule_a(at.thickness_mm):.0f} A."
    return Reason(
        setting="amps_run",
        rule="Heat for the wanted pool and the rod, over the heat of each ampere",
        value=value,
        numbers=numbers,
        source=ROSENTHAL,
        formula="min(max((pool_heat_w + rod_heat_w) / heat_w_per_a, least_a), most_a)",
        said=f"{_pool_words(at)} wants {pool_heat:.0f} W. {beside}{_gap_words(at)}",
    )


def _gap_words(at: Situation) -> str:
    """That a bridged gap starts lower."""
    return (
        f" The gap is closed first, with {percent(FIRST_SHARE)} of it and more with each layer."
        if needs_bridging(at)
        else ""
    )


def _pool_words(at: Situation) -> str:
    """What the pool is made in: the sheet, or the root of a groove."""
    pool = f"A pool of {say.mm(at.wanted_width_mm)}"
    if at.joint.kind == "butt" and at.job.bevel is not None:
        return (
            f"{pool} at the root of the groove, on a root face of {say.near_mm(at.job.bevel.root_face_mm)},"
        )
    return f"{pool} on {say.sheet(at.thickness_mm)}"


def amps_set(
    value: float, run: float, headroom: float, hottest: float, at: Situation, machine: Machine
) -> Reason:
    job = at.job
    numbers = {"amps_run": run, "headroom": headroom, "hottest_pass_a": hottest, "most_a": machine.most_a}
    pedal = job.control == "pedal"
    if not pedal:
        said = f"Torch switch: set to the need, {run:.0f} A."
    elif hottest > run * headroom:
        said = f"{run:.0f} A under the foot at the root; the passes over it want up to {hottest:.0f} A."
        if band := handbook_band_a(at.mean_thickness_mm, job.joint, job.position):
            said += f" Handbooks give {band[0]:.0f} to {band[1]:.0f} A for this plate."
    else:
        said = f"{run:.0f} A under the foot; headroom {headroom:.3g}."
    if max(run * headroom, hottest) > machine.most_a + 0.5:
        said = f"{said} Cut at the machine's {machine.most_a:.0f} A."
    return Reason(
        setting="amps_set",
        rule="Amps under the foot with the pedal school's headroom, and enough for the hottest pass"
        if pedal
        else "With a torch switch the machine is set to the need",
        formula="min(max(amps_run * headroom, hottest_pass_a), most_a)",
        numbers=numbers,
        source=WORKSHOP,
        school=f"pedal: {job.school.pedal}" if pedal else None,
        value=value,
        said=said,
    )


def ep_share(
    value: float,
    first: float,
    at: Situation,
    shift: float,
    school: str,
    limits: tuple[float, float],
    lowered: bool,
) -> Reason:
    """``lowered`` says that tungsten or look brought the share down, and not the border alone."""
    numbers = {
        "surface_share": at.surface.ep_share,
        "school_shift": shift,
        "least": limits[0],
        "border_share": value if value > first else 0.0,
        "allowed": value if value < first else max(limits[1], value),
    }
    said = f"{at.surface.words}: {percent(at.surface.ep_share)} EP to start."
    if value < first:
        for_what = (
            "a border narrow enough for the look"
            if "appearance" in at.job.purposes
            else "what the tungsten bears"
            if lowered
            else "enough for the border at this speed"
        )
        said = f"{percent(first)} is usual for this surface; {percent(value)} is {for_what}."
    elif value > first:
        said = f"{percent(first)} is usual for this surface; {percent(value)} cleans {say.mm(at.aim.low_mm)} beside this bead."
    return Reason(
        setting="ep_share",
        rule="Base share by surface, moved by the school, enough for the border, under what tungsten or look allow",
        formula="min(max(surface_share + school_shift, least, border_share), allowed)",
        numbers=numbers,
        source="Surface table; workshop practice",
        school=f"balance: {school}",
        value=value,
        said=said,
    )


def _as_well(diameter: float, class_key: str, run: Wave, full: Wave, tip: Tip) -> str:
    """The nearest other sizes that bear these waves at ease, in a sentence."""
    others = [
        size.diameter_mm
        for size in tungsten_sizes()
        if size.diameter_mm != diameter
        and bears(run, full, size.diameter_mm, class_key, tip)
        and tungsten_load(run, size.diameter_mm, class_key, tip) >= LOAD_WANDERS
    ]
    nearest = sorted(others, key=lambda size: abs(size - diameter))[:2]
    if not nearest:
        return ""
    return f" {' or '.join(say.size(size) for size in sorted(nearest))} would do as well."


def tungsten(diameter: float, class_key: str, run: float, full: float, wave: Wave, ball: bool) -> Reason:
    size = find_size(diameter)
    tip: Tip = "ball" if ball else "point"
    (en, ep), factor = load_parts(wave, diameter, class_key, tip), limit_factor(class_key, tip)
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
        rule=f"Nearest to the everyday {say.size(EVERYDAY_MM)} with a load of 25 to 85 % under the foot and at most 105 % at full press",
        numbers=numbers,
        source="Published AC ranges; ISO 6848 classes",
        value=diameter,
        said=f"Load {percent(float(en + ep))} under the foot, {percent(float(en + ep) * full / run)} at full press.{_as_well(diameter, class_key, wave, replace(wave, amps=full), tip)}",
    )


def cup(number: int, lens: bool, width: float, at: Situation, tungsten_mm: float) -> Reason:
    numbers = {
        "pool_width_mm": at.wanted_width_mm,
        "border_mm": at.aim.aim_mm,
        "tungsten_mm": tungsten_mm,
        "width_to_shield_mm": width,
        "least_number": float((EVERYDAY_LENS if lens else EVERYDAY_PLAIN)[0]),
    }
    said = f"Shields {say.mm(width)}: pool, both borders, and three tungstens. Bore {say.near_mm(bore_mm(number))}."
    return Reason(
        setting="cup_number",
        rule="Smallest everyday cup whose bore covers max(pool + 2 × border, 3 × tungsten)",
        formula="max(ceil((max(pool_width_mm + 2 * border_mm, 3 * tungsten_mm) - 0.25) / 1.5875), least_number)",
        numbers=numbers,
        source=WORKSHOP,
        school=f"shielding: {'lens' if lens else 'plain'}",
        value=float(number),
        said=said,
    )


def stick_out(value: float, needed: float, number: int, lens: bool, at: Situation) -> Reason:
    share = 0.55 if lens else 0.40
    numbers = {
        "bore_mm": bore_mm(number),
        "share": share,
        "radius_mm": bore_mm(number) / 2 + WALL_MM,
        "half_angle": math.radians(min(at.joint.access_deg, 180) / 2),
        "arc_mm": at.job.arc_length_mm,
    }
    formula = (
        "max(bore_mm * share, radius_mm / tan(half_angle) - arc_mm)"
        if at.joint.access_deg < 180
        else "bore_mm * share"
    )
    said = (
        f"The cup's shoulder leaves {say.mm(needed)} in this corner."
        if needed >= bore_mm(number) * share
        else f"{percent(share)} of the bore {'with a lens' if lens else 'with a plain body'}."
    )
    return Reason(
        setting="stick_out_mm",
        rule="A share of the bore, and at least what the cup's shoulder leaves in the joint",
        formula=formula,
        numbers=numbers,
        source="Geometry of the cup in the angle",
        value=value,
        said=said,
    )


def flow(value: float, target: float, number: int, helium: float) -> Reason:
    numbers = {
        "reynolds": target,
        "bore_m": bore_mm(number) / 1000,
        "viscosity_m2_s": float(viscosity_m2_s(helium)),
        "pi": math.pi,
        "most_l_min": planned_flow_l_min(target, bore_mm(number), helium) if helium else 1000.0,
    }
    low, high = shop_rule_l_min(number)
    return Reason(
        setting="flow_l_min",
        rule="A constant Reynolds number keeps the stream smooth",
        formula="min(reynolds * pi * bore_m * viscosity_m2_s / 4 * 60000, most_l_min)",
        numbers=numbers,
        source="Pipe flow; kinematic viscosity of argon 1.34e-5 m²/s",
        value=value,
        said=f"Cup {number} at a Reynolds number of {target:.0f}, smooth. Shop rule: {say.l_min(low)} to {say.l_min(high)}.",
    )


def gas_times(
    pre: float, post: float, run: float, tungsten_mm: float, thin_mm: float, covered: float, flow_l_min: float
) -> tuple[Reason, Reason]:
    least = find_size(tungsten_mm).post_flow_least_s
    stop_l = gas_used_l(0.0, 1, pre, post, flow_l_min)
    before = Reason(
        setting="pre_flow_s",
        rule="0.5 s, 0.7 s on thin metal, more for a long hose",
        numbers={"thickness_mm": thin_mm},
        source=WORKSHOP,
        value=pre,
        said="The first flash of arc in air spoils thin metal."
        if thin_mm <= 1.6
        else "Air out of the cup before the arc.",
    )
    after = Reason(
        setting="post_flow_s",
        rule="A second for each 15 A under the foot, at least what the tungsten needs, 4 to 20 s; more with a long stick-out",
        formula="min(ceil(max(amps_run / 15, least_s, 4) * longer), 20)",
        numbers={"amps_run": run, "least_s": least, "longer": post_flow_factor(covered)},
        source=WORKSHOP,
        value=post,
        said=f"Hold the torch over the end until it stops; {say.size(tungsten_mm)} needs at least {least:.0f} s. Each stop costs {say.litres(stop_l, 1)} of gas.",
    )
    return before, after


def start_and_end(
    start: float,
    finish: float,
    up: float,
    down: float,
    full: float,
    start_share: float,
    finish_share: float,
    least: float,
    control: str,
) -> list[Reason]:
    foot = control == "pedal"
    numbers = {"amps_set": full, "least_a": least}
    return [
        Reason(
            setting="start_amps",
            rule="A share of full amps, and at least what the machine holds",
            numbers=numbers | {"share": start_share},
            source=WORKSHOP,
            value=start,
            said="The pedal's least: 10 to 30 A strike and show the joint."
            if foot
            else f"{percent(start_share)} of full amps.",
        ),
        Reason(
            setting="up_slope_s",
            rule="No slopes under a pedal; short on thick metal, longer at thin edges",
            source=WORKSHOP,
            value=up,
            said="Off: the foot does it." if foot else "From start amps to full.",
        ),
        Reason(
            setting="down_slope_s",
            rule="No slopes under a pedal; long enough to fill the crater",
            source=WORKSHOP,
            value=down,
            said="Off: the foot does it, with rod into the crater."
            if foot
            else "Feed rod into the crater while it falls.",
        ),
        Reason(
            setting="finish_amps",
            rule="A share of full amps, and at least what the machine holds",
            numbers=numbers | {"share": finish_share},
            source=WORKSHOP,
            value=finish,
            said="The foot goes to the bottom." if foot else f"{percent(finish_share)} of full amps.",
        ),
    ]


def pulse(value: Pulse, at: Situation, travel_mm_s: float, frequency_hz: float) -> list[Reason]:
    dab = at.job.school.pulse == "dab"
    numbers = {
        "travel_mm_s": travel_mm_s,
        "ripple_mm": ripple_wanted_mm(at),
        "frequency_hz": frequency_hz,
        "on": value.peak_share,
        "base": value.base_share,
    }
    rule = (
        "One dab a pulse: travel over ripple pitch, 0.8 to 2.5 a second"
        if dab
        else "As fast as two AC cycles in the shorter phase allow"
    )
    said = (
        f"A ripple each {say.mm(travel_mm_s / value.rate_hz)}."
        if dab
        else f"{frequency_hz:.0f} Hz AC allows {value.rate_hz:.0f} a second."
    )
    mean = value.peak_share + value.base_share * (1 - value.peak_share)
    school = f"pulse: {at.job.school.pulse}"
    return [
        Reason(
            setting="pulse_rate_hz",
            rule=rule,
            numbers=numbers,
            source=WORKSHOP,
            school=school,
            value=value.rate_hz,
            said=said,
        ),
        Reason(
            setting="pulse_peak_share",
            rule="35 to 50 % at peak for dabbing, 30 % on foil",
            source=WORKSHOP,
            school=school,
            value=value.peak_share,
            said="Time enough for one dab.",
        ),
        Reason(
            setting="pulse_base_share",
            rule="25 to 40 % of the peak; the mean heat stays",
            numbers={"mean_factor": mean},
            source=WORKSHOP,
            school=school,
            value=value.base_share,
            said=f"Mean {mean * 100:.0f} % of the peak: the amps are raised for it.",
        ),
    ]


def filler(best: Ranked, diameter: float, at: Situation, smaller: bool) -> list[Reason]:
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
        rule="Hard rules first, then ranked by what the weld must be",
        numbers={"score": best.score, "crack_sensitivity": best.sensitivity, "dilution": at.filler.dilution},
        source="AWS A5.10 / ISO 18273 classes; selection charts",
        value=best.filler,
        said=f"{why}: {best.good_for}.",
    )
    rule = (
        f"About the thinner side to {say.size(2.4)}; that size to {say.about_mm(4)}; {say.size(3.2)} to {say.about_mm(7)}; "
        f"{say.size(4.0)} over"
    )
    size = Reason(
        setting="filler_mm",
        rule=rule,
        numbers={"thickness_mm": job.thin_mm},
        source=WORKSHOP,
        value=diameter,
        said=f"For {say.sheet(job.thin_mm)}" + (", one size down." if smaller else "."),
    )
    return [kind, size]


def headroom_marks(run: float) -> list[tuple[str, float]]:
    """Where the pedal schools put full amps."""
    return [(school, run * HEADROOM[school]) for school in ("patient", "middle", "hot")]
