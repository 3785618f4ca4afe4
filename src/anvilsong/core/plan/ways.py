"""The gate that the ways to reach go through: each is worked out whole before it is offered."""

from __future__ import annotations

from collections.abc import Callable

from anvilsong.core.checks import newly_broken
from anvilsong.core.coefficients import Coefficients
from anvilsong.core.job import Job
from anvilsong.core.machine import Machine
from anvilsong.core.plan.planner import decide
from anvilsong.core.prep import Case, as_planned, case_need_a
from anvilsong.core.settings import Mix, Settings


def may_be_offered(job: Job, settings: Settings, machine: Machine, c: Coefficients) -> Callable[[Case], bool]:
    """Whether a case of ``ways_to_reach`` breaks nothing that is whole at the speed that the ways start from:
    the plan itself may have gone slower already, so that the machine reaches.
    """
    before, _ = settings_of(as_planned(job, machine, settings.ep_share), job, settings, machine, c)

    def whole(case: Case) -> bool:
        after, way_job = settings_of(case, job, settings, machine, c)
        return not newly_broken(job, before, after, machine, c=c, job_after=way_job)

    return whole


def settings_of(
    case: Case, job: Job, settings: Settings, machine: Machine, c: Coefficients
) -> tuple[Settings, Job]:
    """The settings as they would stand with a way, at the amps that it wants, as far as the machine goes; and
    the job, for what of a way is of the job.
    """
    way_job = case.job.model_copy(update={"part_temperature_c": job.part_temperature_c})
    if way_job != job:  # another edge, leg or gas: rod, torch and wave are chosen for it
        decided = decide(way_job, machine, None, c)
        settings = decided.settings if decided else settings
    wave = case.wave
    mix = None
    if wave.mix is not None:
        ac_share, cycle_s, dc_level = wave.mix
        mix = Mix(ac_share=float(ac_share), cycle_s=float(cycle_s), dc_level=float(dc_level))
    run = round(min(max(case_need_a(case, c), machine.least_a), machine.most_a), 1)
    warmed = case.job.part_temperature_c > job.part_temperature_c
    made = settings.model_copy(
        update={
            "amps_run": run,
            "amps_set": max(run, min(settings.amps_set, machine.most_a)) if job.control == "pedal" else run,
            "ep_share": float(wave.ep_share),
            "ep_trim": float(wave.ep_trim),
            "shape_en": wave.shape_en,
            "shape_ep": wave.shape_ep,
            "pulse": None,
            "mix": mix,
            "travel_mm_s": case.travel_mm_s,
            "preheat_c": case.job.part_temperature_c if warmed else settings.preheat_c,
        }
    )
    return made, way_job
