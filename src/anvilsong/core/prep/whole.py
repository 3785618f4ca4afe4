"""Everything about the metal and its preparation that a job's settings imply, in one value."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from pydantic import BaseModel, ConfigDict

from anvilsong.core.coefficients import Coefficients, nominal
from anvilsong.core.machine import Machine
from anvilsong.core.model import BOTH_THIN_MM, Consequences, Pass, Situation, needs_bridging
from anvilsong.core.prep.gap import GapStep, bridge_gap
from anvilsong.core.prep.pass_list import passes
from anvilsong.core.prep.preheat import Warming, warming
from anvilsong.core.prep.rod import RodUse, rod_use
from anvilsong.core.prep.short import Case, Short, as_planned, need_a, ways_to_reach
from anvilsong.core.prep.tacks import TackPlan, tack_plan
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.words import sentence

UNLIKE, THICK_FOR_MIX_MM = 1.25, 6.0


class Prep(BaseModel):
    """Passes, rod, preheat, gap, tacks, where to aim, and the ways to reach when the machine is short."""

    model_config = ConfigDict(frozen=True)

    passes: list[Pass]
    rod: RodUse | None
    warming: Warming
    gap: list[GapStep]
    tacks: TackPlan
    aim: Words
    mix: Words
    short: Short | None


def prepare(
    at: Situation,
    settings: Settings,
    seen: Consequences,
    machine: Machine,
    shop: Sequence[Machine] = (),
    c: Coefficients | None = None,
    may: Callable[[Case], bool] = lambda case: True,
) -> Prep:
    """Work the preparation of a job out.

    Parameters
    ----------
    may : whether a way to reach may be offered
    """
    c = c or nominal()
    is_short = need_a(as_planned(at.job, machine, settings.ep_share), c) > 1.01 * machine.most_a
    run = passes(at, settings, c, machine.most_a)
    return Prep(
        passes=run,
        rod=rod_use(at, settings, seen, c, run),
        warming=warming(at, settings),
        gap=bridge_gap(at, settings) if needs_bridging(at) else [],
        tacks=tack_plan(at.job.weld_length_mm, at.job.thin_mm),
        aim=aim_words(at),
        mix=mix_words(at),
        short=ways_to_reach(at.job, machine, settings.ep_share, shop, c, may) if is_short else None,
    )


def aim_words(at: Situation) -> Words:
    """Where to point the arc when the sides carry heat away unlike."""
    job, joint = at.job, at.joint
    pull_a = joint.paths_a * job.a.thickness_mm * job.a.metal.hot_conductivity_w_mk
    pull_b = joint.paths_b * job.b.thickness_mm * job.b.metal.hot_conductivity_w_mk
    strong, weak, letter = (pull_a, pull_b, "a") if pull_a >= pull_b else (pull_b, pull_a, "b")
    if strong < UNLIKE * weak:
        return ""
    share = strong / (strong + weak)
    return sentence("prep.side_carries_heat_away", letter=letter, share=share * 100)


def mix_words(at: Situation) -> Words:
    """When mixed AC and DC would be offered: 6 mm and up, or thick to thin; never when both sides are under
    3 mm.
    """
    job = at.job
    thick = max(job.a.thickness_mm, job.b.thickness_mm)
    if thick < BOTH_THIN_MM:
        return ""
    if thick >= THICK_FOR_MIX_MM or thick >= 2 * job.thin_mm:
        return sentence("prep.mixed_ac_dc_helps")
    return ""
