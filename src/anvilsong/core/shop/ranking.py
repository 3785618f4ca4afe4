"""Rank the shop's machines for a job."""

from __future__ import annotations

from collections.abc import Sequence

from anvilsong.core.checks import outcome
from anvilsong.core.heat.pedal import allowed_duty
from anvilsong.core.job import Job
from anvilsong.core.machine import Fit, Machine, Need, machine_fit, ranked
from anvilsong.core.plan import decide
from anvilsong.core.settings import Settings
from anvilsong.core.torch.kit import Kit


def rank_shop(job: Job, machines: Sequence[Machine], kit: Kit | None = None) -> list[Fit]:
    """Every machine judged for a job, best first; empty when the job is refused.

    Machines that differ by name and note alone are judged once.
    """
    ideal = decide(job, kit=kit)
    if ideal is None:
        return []
    judged, fits = dict[str, Fit](), []
    for machine in machines:
        alike = machine.model_dump_json(exclude={"name", "note"})
        if alike not in judged:
            judged[alike] = _fit(job, machine, kit, ideal.settings)
        fits.append(judged[alike].model_copy(update={"machine": machine.name}))
    return ranked(fits)


def _fit(job: Job, machine: Machine, kit: Kit | None, asked: Settings) -> Fit:
    """How a machine fits, by the need that the plan on it says; where the plan says that it cannot be done,
    by what would be needed without its end of amps. ``asked`` are the settings on the ideal machine.
    """
    planned = decide(job, machine, kit)
    assert planned is not None  # what is refused is so on every machine
    what = outcome(job, planned.settings, planned.machine)
    codes = {warning.code for warning in (*planned.said, *what.warnings)}
    if codes & {"machine_short", "machine_minimum"}:
        endless = machine.model_copy(update={"least_a": 0.5, "most_a": 1000.0})
        planned = decide(job, endless, kit) or planned
    settings = planned.settings
    need = Need(
        run_a=settings.amps_run,
        set_a=settings.amps_set,
        arc_s=job.weld_length_mm / settings.travel_mm_s,
        frequency_hz=asked.frequency_hz,
        wants_trim="appearance" in job.purposes or job.school.amplitude == "trimmed",
        wants_pulse=job.school.pulse != "none",
        ep_share=asked.ep_share,
        control=job.control,
        slow_mm_s=settings.travel_mm_s if "machine_slow" in codes else None,
    )
    duty = float(allowed_duty(settings.amps_run, machine.duty.amps, machine.duty.share))
    return machine_fit(machine, need, duty)
