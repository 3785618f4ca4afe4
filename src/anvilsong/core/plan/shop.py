"""Rank the shop's machines for a job."""

from __future__ import annotations

from collections.abc import Sequence

from anvilsong.core.heat.pedal import allowed_duty
from anvilsong.core.job import Job
from anvilsong.core.machine.fit import Fit, Need, machine_fit, ranked
from anvilsong.core.machine.model import Machine
from anvilsong.core.plan.planner import make_plan
from anvilsong.core.torch.kit import Kit


def rank_shop(job: Job, machines: Sequence[Machine], kit: Kit | None = None) -> list[Fit]:
    """Every machine judged for a job, best first; empty when the job is refused.

    The need is planned for each machine with its own waveforms and share but without its end of amps, so that the figure says
    what would be needed there.
    """
    asked = make_plan(job, kit=kit).settings
    if asked is None:
        return []
    fits = []
    for machine in machines:
        open_ended = machine.model_copy(update={"least_a": 0.5, "most_a": 1000.0})
        settings = make_plan(job, open_ended, kit).settings
        if settings is None:
            return []
        need = Need(
            run_a=settings.amps_run,
            set_a=settings.amps_set,
            arc_s=job.weld_length_mm / settings.travel_mm_s,
            frequency_hz=asked.frequency_hz,
            wants_trim="appearance" in job.purposes or job.school.amplitude == "trimmed",
            wants_pulse=job.school.pulse != "none",
            ep_share=asked.ep_share,
            control=job.control,
        )
        fits.append(
            machine_fit(
                machine, need, float(allowed_duty(settings.amps_run, machine.duty.amps, machine.duty.share))
            )
        )
    return ranked(fits)
