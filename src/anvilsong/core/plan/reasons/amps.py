"""Why these amps, under the foot and of the machine, and how the run starts and ends."""

from __future__ import annotations

from dataclasses import replace

from anvilsong.core import say
from anvilsong.core.arc.waveform import cycle_means
from anvilsong.core.job import PART_SIZE_WORDS
from anvilsong.core.joint import handbook_band_a, shop_rule_a
from anvilsong.core.machine import Machine
from anvilsong.core.model import Reason, Situation, needs_bridging
from anvilsong.core.plan.amps import AMPS_RUN, AMPS_SET, Chosen, worked_run_a
from anvilsong.core.plan.reasons.source import WORKSHOP
from anvilsong.core.plan.work import Course, Ends
from anvilsong.core.prep import FIRST_SHARE
from anvilsong.core.quantities import percent

ROSENTHAL = "Moving point source with mirror images (Rosenthal 1946); joint factors are estimates"


def preheat(value: float, words: str) -> Reason:
    """Why a casting is preheated."""
    said = (
        "Castings are preheated: it drives out moisture and oil, and lowers the amps. "
        f"{words[0].upper()}{words[1:]}."
    )
    return Reason(
        setting="preheat_c",
        rule="Preheat of castings, within the alloy's limit",
        source=WORKSHOP,
        value=value,
        said=said,
    )


def travel(value: float, at: Situation, chosen: bool, short: str = "", fast_for: str = "") -> Reason:
    """``short`` names a machine that reaches the pool only more slowly than usual, ``fast_for`` one that
    gives no fewer amps than the metal takes when the torch goes faster.
    """
    said = "Your own speed." if chosen else f"Usual by hand for {say.sheet(round(at.thickness_mm, 2))}."
    if short:
        said = f"Slower than the usual {say.mm_s(at.usual_travel_mm_s)}, so that {short} reaches the pool."
    if fast_for:
        said = (
            f"Faster than the usual {say.mm_s(at.usual_travel_mm_s)}, at which this metal takes fewer amps "
            f"than {fast_for} can go down to."
        )
    return Reason(
        setting="travel_mm_s",
        rule="Hand travel by thickness",
        numbers={"thickness_mm": at.thickness_mm},
        source=WORKSHOP,
        value=value,
        said=said,
    )


def amps_run(found: Chosen, at: Situation, course: Course, machine: Machine) -> Reason:
    """Handbooks print what a meter shows, which is the rms of the wave."""
    value, need, per_amp = found.run_a, found.need_a, found.heat_per_amp_w
    rod, travel_mm_s = course.rod_w, course.travel_mm_s
    pool_heat = course.heat_w - rod
    meter_per_a = float(cycle_means(replace(found.wave, amps=1.0)).rms)
    _, worked = worked_run_a(course, per_amp, found.wave, machine)
    numbers = worked | {
        "pool_width_mm": at.wanted_width_mm,
        "thickness_mm": at.thickness_mm,
        "travel_mm_s": travel_mm_s,
        "joint_factor": at.heat_factor,
        "position_factor": at.position_factor,
        "shop_rule_a": shop_rule_a(at.thickness_mm),
    }
    beside = f"Rule of thumb of {say.per_mm(40, 'A', 0)}: {shop_rule_a(at.thickness_mm):.0f} A."
    band = handbook_band_a(at.thickness_mm, at.job.joint, at.job.position)
    if band and at.job.bevel is None:
        meter = need * meter_per_a
        numbers |= {"handbook_low_a": band[0], "handbook_high_a": band[1], "meter_a": meter}
        where = "inside" if band[0] <= meter <= band[1] else "below" if meter < band[0] else "above"
        beside = (
            f"Handbooks give {band[0]:.0f} to {band[1]:.0f} A ({where}); {say.per_mm(40, 'A', 0)} gives "
            f"{shop_rule_a(at.thickness_mm):.0f} A."
        )
    return Reason(
        setting="amps_run",
        rule="Heat for the wanted pool and the filler rod, over the heat of each ampere",
        value=value,
        numbers=numbers,
        source=ROSENTHAL,
        formula=AMPS_RUN.text,
        said=f"{_pool_words(at)} wants {pool_heat:.0f} W. {beside}{_size_words(at)}{_gap_words(at)}",
    )


def _size_words(at: Situation) -> str:
    """That a small part warms as it is welded, and what that takes off."""
    if at.job.part_size == "large":
        return ""
    size = PART_SIZE_WORDS[at.job.part_size]
    return (
        f" A part {size} warms as it is welded: {percent(1 - at.cold_share)} less than a large one in the "
        "middle of the weld. Begin with more, and come off."
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
    if at.weld.takes_bevel and at.job.bevel is not None:
        return (
            f"{pool} at the root of the groove, on a root face of {say.near_mm(at.job.bevel.root_face_mm)},"
        )
    return f"{pool} on {say.sheet(at.thickness_mm)}"


def amps_set(
    value: float, run: float, headroom: float, hottest: float, at: Situation, machine: Machine
) -> Reason:
    """Why the machine is set so: the foot's headroom, the hottest pass, the machine's end."""
    job = at.job
    numbers = {"amps_run": run, "headroom": headroom, "hottest_pass_a": hottest, "most_a": machine.most_a}
    pedal = job.control == "pedal"
    if not pedal:
        said = f"Torch switch: set to the need, {run:.0f} A."
    elif hottest > run * headroom:
        said = f"{run:.0f} A while welding at the root; the passes over it want up to {hottest:.0f} A."
        if band := handbook_band_a(at.mean_thickness_mm, job.joint, job.position):
            said += f" Handbooks give {band[0]:.0f} to {band[1]:.0f} A for this plate."
    else:
        said = f"{run:.0f} A while welding; headroom {headroom:.3g}."
    if max(run * headroom, hottest) > machine.most_a + 0.5:
        said = f"{said} Cut at the machine's {machine.most_a:.0f} A."
    return Reason(
        setting="amps_set",
        rule="Welding amps times the headroom of your way with the pedal, and enough for the hottest pass"
        if pedal
        else "With a torch switch the machine is set to the need",
        formula=AMPS_SET.text,
        numbers=numbers,
        source=WORKSHOP,
        school=f"pedal: {job.school.pedal}" if pedal else None,
        value=value,
        said=said,
    )


def _foot_start_words(start_a: float) -> str:
    if start_a < 10:
        return "The pedal's least: metal this thin would be gone before the pedal moves at more."
    return "The pedal's least: 10 to 30 A strike and show the joint."


def start_and_end(ends: Ends, least: float, control: str) -> list[Reason]:
    """Why the run starts and ends so, with a foot or with slopes."""
    foot = control == "pedal"
    start_share, finish_share, up, down = ends.start_share, ends.finish_share, ends.up_s, ends.down_s
    start, finish = ends.start_a, ends.finish_a
    numbers = {"amps_set": ends.full_a, "least_a": least}
    return [
        Reason(
            setting="start_amps",
            rule="A share of full amps, and at least what the machine gives",
            numbers=numbers | {"share": start_share},
            source=WORKSHOP,
            value=start,
            said=_foot_start_words(start) if foot else f"{percent(start_share)} of full amps.",
        ),
        Reason(
            setting="up_slope_s",
            rule="No slopes under a pedal; short on thick metal, longer at thin edges",
            source=WORKSHOP,
            value=up,
            said="Off: the pedal does it." if foot else "From start amps to full.",
        ),
        Reason(
            setting="down_slope_s",
            rule="No slopes under a pedal; long enough to fill the crater",
            source=WORKSHOP,
            value=down,
            said="Off: the pedal does it, with filler rod into the crater."
            if foot
            else "Feed filler rod into the crater while it falls.",
        ),
        Reason(
            setting="finish_amps",
            rule="A share of full amps, and at least what the machine gives",
            numbers=numbers | {"share": finish_share},
            source=WORKSHOP,
            value=finish,
            said="The pedal goes to the bottom." if foot else f"{percent(finish_share)} of full amps.",
        ),
    ]
