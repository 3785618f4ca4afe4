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
from anvilsong.core.said import Words
from anvilsong.core.shown import percent
from anvilsong.core.words import sentence

ROSENTHAL = sentence("plan.moving_point_source_with")


def preheat(value: float, words: Words) -> Reason:
    """Why a casting is preheated."""
    said = sentence("plan.castings_are_preheated_drives", words=say.capital(words))
    return Reason(
        setting="preheat_c",
        rule=sentence("plan.preheat_c_rule"),
        source=WORKSHOP,
        value=value,
        said=said,
    )


def travel(value: float, at: Situation, chosen: bool, short: str = "", fast_for: str = "") -> Reason:
    """``short`` names a machine that reaches the pool only more slowly than usual, ``fast_for`` one that
    gives no fewer amps than the metal takes when the torch goes faster.
    """
    said: Words = (
        "Your own speed."
        if chosen
        else say.joined("Usual by hand for ", say.sheet(round(at.thickness_mm, 2)), ".")
    )
    if short:
        said = sentence("plan.slower_than_usual_reaches", usual_travel_mm_s=at.usual_travel_mm_s, short=short)
    if fast_for:
        said = sentence(
            "plan.faster_than_usual_which", usual_travel_mm_s=at.usual_travel_mm_s, fast_for=fast_for
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
    beside = say.joined(
        "Rule of thumb of ", say.per_mm(40, "A", 0), f": {shop_rule_a(at.thickness_mm):.0f} A."
    )
    band = handbook_band_a(at.thickness_mm, at.job.joint, at.job.position)
    if band and at.job.bevel is None:
        meter = need * meter_per_a
        numbers |= {"handbook_low_a": band[0], "handbook_high_a": band[1], "meter_a": meter}
        where = "inside" if band[0] <= meter <= band[1] else "below" if meter < band[0] else "above"
        beside = say.joined(
            f"Handbooks give {band[0]:.0f} to {band[1]:.0f} A ({where}); ",
            say.per_mm(40, "A", 0),
            f" gives {shop_rule_a(at.thickness_mm):.0f} A.",
        )
    return Reason(
        setting="amps_run",
        rule=sentence("plan.amps_run_rule"),
        value=value,
        numbers=numbers,
        source=ROSENTHAL,
        formula=AMPS_RUN.text,
        said=say.joined(
            _pool_words(at),
            f" wants {pool_heat:.0f} W. ",
            beside,
            _size_words(at),
            _gap_words(at),
        ),
    )


def _size_words(at: Situation) -> Words:
    """That a small part warms as it is welded, and what that takes off."""
    if at.job.part_size == "large":
        return ""
    size = PART_SIZE_WORDS[at.job.part_size]
    return sentence("plan.part_warms_welded_less", size=size, less=1 - at.cold_share)


def _gap_words(at: Situation) -> Words:
    """That a bridged gap starts lower."""
    return sentence("plan.gap_closed_first_with", first_share=FIRST_SHARE) if needs_bridging(at) else ""


def _pool_words(at: Situation) -> Words:
    """What the pool is made in: the sheet, or the root of a groove."""
    pool = say.joined("A pool of ", say.mm(at.wanted_width_mm))
    if at.weld.takes_bevel and at.job.bevel is not None:
        return sentence("plan.root_groove_root_face", pool=pool, root_face_mm=at.job.bevel.root_face_mm)
    return say.joined(pool, " on ", say.sheet(at.thickness_mm))


def amps_set(
    value: float, run: float, headroom: float, hottest: float, at: Situation, machine: Machine
) -> Reason:
    """Why the machine is set so: the foot's headroom, the hottest pass, the machine's end."""
    job = at.job
    numbers = {"amps_run": run, "headroom": headroom, "hottest_pass_a": hottest, "most_a": machine.most_a}
    pedal = job.control == "pedal"
    if not pedal:
        said: Words = sentence("plan.torch_switch_set_need", run=run)
    elif hottest > run * headroom:
        said = sentence("plan.while_welding_root_passes", run=run, hottest=hottest)
        if band := handbook_band_a(at.mean_thickness_mm, job.joint, job.position):
            said += sentence("plan.handbooks_give_plate", low=band[0], high=band[1])
    else:
        said = f"{run:.0f} A while welding; headroom {headroom:.3g}."
    if max(run * headroom, hottest) > machine.most_a + 0.5:
        said = say.joined(said, f" Cut at the machine's {machine.most_a:.0f} A.")
    return Reason(
        setting="amps_set",
        rule=sentence("plan.amps_set_rule") if pedal else sentence("plan.amps_set_rule_2"),
        formula=AMPS_SET.text,
        numbers=numbers,
        source=WORKSHOP,
        school=f"pedal: {job.school.pedal}" if pedal else None,
        value=value,
        said=said,
    )


def _foot_start_words(start_a: float) -> Words:
    if start_a < 10:
        return sentence("plan.pedals_least_metal_thin")
    return sentence("plan.pedals_least_strike_show")


def start_and_end(ends: Ends, least: float, control: str) -> list[Reason]:
    """Why the run starts and ends so, with a foot or with slopes."""
    foot = control == "pedal"
    start_share, finish_share, up, down = ends.start_share, ends.finish_share, ends.up_s, ends.down_s
    start, finish = ends.start_a, ends.finish_a
    numbers = {"amps_set": ends.full_a, "least_a": least}
    return [
        Reason(
            setting="start_amps",
            rule=sentence("plan.start_amps_rule"),
            numbers=numbers | {"share": start_share},
            source=WORKSHOP,
            value=start,
            said=_foot_start_words(start) if foot else f"{percent(start_share)} of full amps.",
        ),
        Reason(
            setting="up_slope_s",
            rule=sentence("plan.up_slope_s_rule"),
            source=WORKSHOP,
            value=up,
            said=sentence("plan.up_slope_s_said") if foot else sentence("plan.up_slope_s_said_2"),
        ),
        Reason(
            setting="down_slope_s",
            rule=sentence("plan.down_slope_s_rule"),
            source=WORKSHOP,
            value=down,
            said=sentence("plan.down_slope_s_said") if foot else sentence("plan.down_slope_s_said_2"),
        ),
        Reason(
            setting="finish_amps",
            rule=sentence("plan.finish_amps_rule"),
            numbers=numbers | {"share": finish_share},
            source=WORKSHOP,
            value=finish,
            said=sentence("plan.finish_amps_said") if foot else f"{percent(finish_share)} of full amps.",
        ),
    ]
