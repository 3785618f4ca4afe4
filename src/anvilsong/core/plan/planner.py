"""The planner: job + kit + machine + coefficients → settings, windows, reasons, warnings, run sheet.
Deterministic.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

from anvilsong.core.arc.waveform import Wave, heat_per_amp_w
from anvilsong.core.checks import refusals
from anvilsong.core.coefficients import Coefficients, nominal
from anvilsong.core.job import Job
from anvilsong.core.machine import IDEAL, Machine, Panel
from anvilsong.core.metal.fillers import find_filler
from anvilsong.core.model import (
    Consequences,
    FillerRows,
    LimitWarning,
    Plan,
    consequences,
    equipped,
    situation,
)
from anvilsong.core.plan import reasons
from anvilsong.core.plan.cleaning import (
    school_share,
    with_border,
)
from anvilsong.core.plan.follow import Said, follow
from anvilsong.core.plan.pulse import coolest_a
from anvilsong.core.plan.torch_choice import cup_of, filler_of, flow_l_min, gas_kind, tungsten_of
from anvilsong.core.plan.wave_choice import (
    amps_and_tungsten,
    ends_of,
    frequency_hz,
    pulse_of,
    shape_of,
    trim_asked,
    trim_of,
)
from anvilsong.core.plan.work import Course, Work
from anvilsong.core.prep import limit_for, need_a, travel_up_to, travel_within
from anvilsong.core.settings import Gas, Settings
from anvilsong.core.torch.cup import (
    longest_stick_out_mm,
)
from anvilsong.core.torch.gas import post_flow_s, pre_flow_s
from anvilsong.core.torch.kit import Kit
from anvilsong.core.torch.tungsten import (
    find_size,
)
from anvilsong.core.words import sentence

# Of a short machine's amps, under a pedal; as long as a hand goes so slowly with ease.
IN_HAND, EASY_MM_S = 0.93, 2.0


def make_plan(
    job: Job, machine: Machine = IDEAL, kit: Kit | None = None, c: Coefficients | None = None
) -> Plan:
    """Work a job out.

    Parameters
    ----------
    job : what is to be welded
    machine : limits and panel; the ideal machine when none is chosen
    kit : what is on the shelf; every usual size when left out
    c : the model's coefficients; nominal when left out

    Returns
    -------
    Plan : with ``settings`` None and ``stop`` warnings when the job is refused
    """
    if job.filler_wanted and job.filler_wanted != "none":
        find_filler(job.filler_wanted)
    at = situation(job)
    work = Work(at, machine, kit or Kit(), c or nominal())
    fillers = FillerRows(
        ranked=list(at.filler.ranked), refused=list(at.filler.refused), dilution=at.filler.dilution
    )
    if stops := refusals(at):
        nothing = Panel(machine=machine.name, lines=[])
        return Plan(
            job=job,
            settings=None,
            windows={},
            consequences=None,
            reasons=[],
            warnings=stops,
            panel=nothing,
            run_sheet=[],
            fillers=fillers,
        )
    chosen = _decided(work)
    said = Said(work.reasons, work.warnings, fillers)
    return follow(at, chosen.settings, chosen.machine, work.c, said)


@dataclass(frozen=True)
class Decision:
    """The planner's settings, the machine with its torch, and what the planner itself had to say of them."""

    settings: Settings
    machine: Machine
    said: list[LimitWarning]


def decide(
    job: Job, machine: Machine = IDEAL, kit: Kit | None = None, c: Coefficients | None = None
) -> Decision | None:
    """The settings alone, without windows, reasons and run sheet, for who compares many machines; None for
    a refused job.
    """
    at = situation(job)
    return None if refusals(at) else _decided(Work(at, machine, kit or Kit(), c or nominal()))


def _decided(work: Work) -> Decision:
    settings = _settings(work)
    machine = equipped(work.machine, work.job, settings, work.kit)
    if work.slowed_from:
        seen = consequences(work.at.job_as_asked, settings, machine, work.c)
        work.warnings.append(_slowed(work.slowed_from, settings, seen, machine))
    return Decision(settings, machine, work.warnings)


def _slowed(
    was: tuple[float, float], settings: Settings, seen: Consequences, machine: Machine
) -> LimitWarning:
    """The machine is short at the usual speed, and reaches at a slower one: what that does."""
    usual, need = was
    per_mm = seen.work_heat_w / settings.travel_mm_s / 1000
    text = sentence(
        "plan.usual_joint_wants_stops",
        usual=usual,
        need=need,
        name=machine.name,
        most_a=machine.most_a,
        travel_mm_s=settings.travel_mm_s,
        amps_run=settings.amps_run,
        border_mm=seen.border_mm,
        per_mm=per_mm,
    )
    return LimitWarning(
        code="machine_slow",
        level="watch",
        setting="travel_mm_s",
        message=text,
        numbers={"need_a": need, "most_a": machine.most_a, "usual_mm_s": usual, "kj_per_mm": per_mm},
    )


def _settings(work: Work) -> Settings:
    at, job = work.at, work.job
    preheat = _preheat_c(work)
    frequency = frequency_hz(work)
    shape, trim, share = shape_of(work), trim_of(work), school_share(at, work.machine)
    steady = Wave(1.0, share, frequency, trim, shape, shape)
    travel = _travel_mm_s(work, steady, preheat)
    heat = at.wanted_pool_heat_w(travel, preheat)
    rod = at.filler_heat_w(travel, work.c)
    course = Course(heat + rod, rod, travel, preheat)
    pulse = pulse_of(work, course, steady)
    pulses = (pulse.rate_hz, pulse.peak_share, pulse.base_share) if pulse else None
    wanted = with_border(at, work.machine, replace(steady, pulse=pulses), course, work.c)
    chosen = amps_and_tungsten(work, course, wanted)
    trim = float(chosen.wave.ep_trim)
    work.say(reasons.trim(trim, trim_asked(job), work.machine.can_trim, job.school.amplitude))
    run, full, share = chosen.run_a, chosen.full_a, float(chosen.wave.ep_share)
    tungsten = tungsten_of(work, chosen)
    cup = cup_of(work, tungsten.diameter_mm)
    flow = flow_l_min(work, cup)
    ends = ends_of(work, full, tungsten.diameter_mm)
    covered = cup.stick_out_mm / longest_stick_out_mm(cup.number, cup.gas_lens)
    pre = pre_flow_s(job.thin_mm, work.kit.hose_m)
    post = post_flow_s(run, find_size(tungsten.diameter_mm).post_flow_least_s, covered)
    work.reasons.extend(reasons.gas_times((pre, post), run, tungsten.diameter_mm, job.thin_mm, covered, flow))
    return Settings(
        amps_run=round(run, 1),
        amps_set=round(full, 1),
        ep_trim=trim,
        ep_share=share,
        frequency_hz=frequency,
        shape_en=shape,
        shape_ep=shape,
        pulse=pulse,
        start_amps=ends.start_a,
        finish_amps=ends.finish_a,
        up_slope_s=ends.up_s,
        down_slope_s=ends.down_s,
        pre_flow_s=pre,
        post_flow_s=post,
        tungsten=tungsten,
        cup=cup,
        gas=Gas(kind=gas_kind(job), flow_l_min=flow),
        filler=filler_of(work),
        preheat_c=preheat,
        travel_mm_s=travel,
    )


def _preheat_c(work: Work) -> float | None:
    """Castings are preheated as far as is advised for them; the rest is the user's choice (``warming``)."""
    at = work.at
    limit = limit_for(at)
    if not at.is_casting or limit.advised_c <= at.job.part_temperature_c:
        return None
    work.say(reasons.preheat(limit.advised_c, limit.words))
    return limit.advised_c


def _travel_mm_s(work: Work, wave: Wave, preheat: float | None) -> float:
    """The user's own speed, or the usual one for the thickness, whatever the position; slower where the
    machine is short.
    """
    at, job, machine = work.at, work.job, work.machine
    travel = round(job.travel_mm_s or at.usual_travel_mm_s, 2)
    per_amp = heat_per_amp_w(wave, work.c, job.arc_length_mm, job.helium_share)
    slow = None
    if job.travel_mm_s is None and need_a(at, per_amp, travel, preheat, work.c) > machine.most_a:
        slow = travel_within(at, per_amp, preheat, machine.most_a, travel, work.c)
        eased = travel_within(at, per_amp, preheat, IN_HAND * machine.most_a, travel, work.c)
        if job.control == "pedal" and eased and eased >= EASY_MM_S:
            slow = eased
    least = coolest_a(machine)
    if job.travel_mm_s is None and need_a(at, per_amp, travel, preheat, work.c) < least:
        fast = travel_up_to(at, per_amp, preheat, least, travel, work.c)
        work.say(reasons.travel(fast, at, False, fast_for=machine.name))
        return fast
    work.slowed_from = (travel, need_a(at, per_amp, travel, preheat, work.c)) if slow else None
    work.say(reasons.travel(slow or travel, at, job.travel_mm_s is not None, machine.name if slow else ""))
    return slow or travel
