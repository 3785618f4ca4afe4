"""A bead too wide or too narrow: the amps that bring it to its width, on foot or machine."""

from __future__ import annotations

import numpy as np

from anvilsong.core import say
from anvilsong.core.bead.levers import panel_step
from anvilsong.core.bead.next import NextChange
from anvilsong.core.bead.ran import Ran, changed
from anvilsong.core.bead.travel_lever import WORTH_SHARE, speed_for_width
from anvilsong.core.bead.verdict import as_run
from anvilsong.core.heat.pedal import HEADROOM, NO_RESERVE, pedal_used
from anvilsong.core.job import Job
from anvilsong.core.machine import Machine
from anvilsong.core.model import Situation, situation
from anvilsong.core.registry import with_value
from anvilsong.core.settings import Settings
from anvilsong.core.words import sentence

PART_WAYS = (0.75, 0.5, 0.25)  # of the change of heat, where the whole of it would break a limit


def amps_change(ran: Ran) -> NextChange:
    """The amps for the wanted width; the hand's speed, where that went elsewhere or the machine ends."""
    job, settings, readings, verdict = ran.job, ran.settings, ran.readings, ran.verdict
    hand = readings.travel_mm_s / settings.travel_mm_s
    if hand < 0.8 or hand > 1.25:
        way = "faster" if hand < 1 else "slower"
        return NextChange(
            kind="hand",
            settings=settings,
            said=sentence("bead.leave_settings_travel_near", way=way, travel_mm_s=settings.travel_mm_s),
            why=sentence(
                "bead.bead_your_hand_went",
                narrow="wide" if verdict.width_miss > 0 else "narrow",
                travel_mm_s=readings.travel_mm_s,
            ),
            otherwise=sentence("bead.if_speed_suits_you"),
        )
    at, run = situation(job), as_run(settings, readings)
    heats = (
        at.wanted_pool_heat_w(run.travel_mm_s, run.preheat_c)
        / at.heat_factor
        / _pool_heat_w(at, run, readings.bead_width_mm)
    )
    factor = float(np.clip(heats, 0.8, 1.25))
    why = sentence(
        "bead.bead_wide_wanted_heat",
        bead_width_mm=readings.bead_width_mm,
        wanted_width_mm=verdict.wanted_width_mm,
        less="less" if factor < 1 else "more",
    )
    ways = [_with_heat(job, settings, 1 + (factor - 1) * share, ran.machine) for share in (1.0, *PART_WAYS)]
    after = ways[0][1]
    ends = not ran.machine.least_a <= settings.amps_run * factor <= ran.machine.most_a
    if after == settings or (ends and abs(after.amps_run / settings.amps_run - 1) < WORTH_SHARE):
        # The machine ends here, or two amperes further.
        end = f"goes no lower than {ran.machine.least_a:.0f} A"
        if factor > 1:
            end = f"ends at {ran.machine.most_a:.0f} A"
        return speed_for_width(ran, say.joined(why, f" The machine {end}."), why)
    # As far as nothing breaks: a part of the way is better than none.
    whole, held = ran.first_whole(
        each for _, each in ways if abs(each.amps_run / settings.amps_run - 1) >= WORTH_SHARE
    )
    if whole is None:
        broken = say.joined(" With these amps: ", held.message) if held else ""
        return speed_for_width(ran, say.joined(why, broken), why)
    return changed(ran, whole, next(key for key, each in ways if each is whole), why)


def _with_heat(job: Job, settings: Settings, factor: float, machine: Machine) -> tuple[str, Settings]:
    """Which amps give ``factor`` times the heat: the foot's as far as the ceiling lets it, else the
    machine's with it.
    """
    step = max(1.0, panel_step(machine, "amps_set"))

    def stepped(from_a: float, to_a: float) -> float:
        wanted = min(max(to_a, machine.least_a), machine.most_a)
        return from_a + step * round((wanted - from_a) / step)

    if job.control != "pedal":
        full = stepped(settings.amps_set, settings.amps_set * factor)
        return "amps_set", with_value(settings, "amps_set", full, job.control)
    run = min(max(round(settings.amps_run * factor), machine.least_a), machine.most_a)
    if pedal_used(run, settings.start_amps, settings.amps_set) <= NO_RESERVE:
        return "amps_run", with_value(settings, "amps_run", run)
    full = stepped(settings.amps_set, run * HEADROOM[job.school.pedal])
    return "amps_set", with_value(with_value(settings, "amps_set", full), "amps_run", min(run, full))


def _pool_heat_w(at: Situation, run: Settings, width_mm: float) -> float:
    """Heat, W, of a pool of this width in the effective plate alone."""
    return float(at.heat_model.heat_w(at.plate(run.travel_mm_s), width_mm, at.contour_k(run.preheat_c)))
