"""The planner: job + kit + machine + coefficients → settings, windows, reasons, warnings, run sheet. Deterministic."""

from __future__ import annotations

import math
from dataclasses import dataclass, field, replace

from anvilsong.core import say
from anvilsong.core.arc.frequency import frequency_band, school_factor
from anvilsong.core.arc.waveform import Shape, Wave, cycle_means, heat_per_amp_w
from anvilsong.core.coefficients import Coefficients, nominal
from anvilsong.core.heat.pedal import DUTY_CYCLE_S
from anvilsong.core.job import Job
from anvilsong.core.machine.model import IDEAL, Machine, with_torch
from anvilsong.core.machine.panel import Panel
from anvilsong.core.metal.fillers import find_filler, rod_diameter_mm
from anvilsong.core.plan import reasons
from anvilsong.core.plan.amps import Chosen, settle
from anvilsong.core.plan.checks import refusals
from anvilsong.core.plan.cleaning import (
    BALANCE_SHIFT,
    TRIM_WHEN_TRIMMED,
    school_share,
    share_limits,
    with_border,
)
from anvilsong.core.plan.consequences import consequences
from anvilsong.core.plan.pulse import planned_pulse
from anvilsong.core.plan.situation import Situation, situation
from anvilsong.core.plan.torch_fit import fitted_cup, fitted_flow_l_min
from anvilsong.core.plan.trade import need_a, travel_within
from anvilsong.core.plan.values import Consequences, FillerRows, Plan, Reason, Warning
from anvilsong.core.plan.warming import limit_for
from anvilsong.core.plan.worked_out import worked_out
from anvilsong.core.quantities import percent
from anvilsong.core.settings import Cup, Filler, Gas, Pulse, Settings, Tungsten
from anvilsong.core.torch.cooling import choose_torch
from anvilsong.core.torch.cup import (
    BORE_TOLERANCE_MM,
    bore_mm,
    choose_cup,
    covers,
    longest_stick_out_mm,
    stick_out_needed_mm,
    width_to_shield_mm,
)
from anvilsong.core.torch.gas import post_flow_s, pre_flow_s
from anvilsong.core.torch.kit import Kit, Torch
from anvilsong.core.torch.tungsten import (
    choose_tungsten,
    find_size,
    flat_mm,
    included_angle_deg,
    tungsten_sizes,
)

PEDAL_START_A = (10, 30)
MOST_USUAL_CUP = 10
# Of a short machine's amps, under a pedal; as long as a hand goes so slowly with ease.
IN_HAND, EASY_MM_S = 0.93, 2.0


@dataclass
class _Work:
    """What the planner carries from one decision to the next."""

    at: Situation
    machine: Machine
    kit: Kit
    c: Coefficients
    reasons: list[Reason] = field(default_factory=list)
    warnings: list[Warning] = field(default_factory=list)
    slowed_from: tuple[float, float] | None = None
    """The usual travel, mm/s, and the amps it wants, where the machine is short and goes slower."""

    @property
    def job(self) -> Job:
        return self.at.job

    def say(self, reason: Reason) -> None:
        self.reasons.append(reason)


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
    work = _Work(at, machine, kit or Kit(), c or nominal())
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
    settings = _settings(work)
    machine = with_torch(machine, torch_for(job, settings, work.kit))
    if work.slowed_from:
        seen = consequences(job, settings, machine, work.c)
        work.warnings.append(_slowed(work.slowed_from, settings, seen, machine))
    return worked_out(at, settings, machine, work.c, work.reasons, work.warnings, fillers)


def _slowed(was: tuple[float, float], settings: Settings, seen: Consequences, machine: Machine) -> Warning:
    """The machine is short at the usual speed, and reaches at a slower one: what that does."""
    usual, need = was
    per_mm = seen.work_heat_w / settings.travel_mm_s / 1000
    text = (
        f"At the usual {say.mm_s(usual)} the joint wants {need:.0f} A and {machine.name} stops at {machine.most_a:.0f} A: "
        f"planned at {say.mm_s(settings.travel_mm_s)}, where {settings.amps_run:.0f} A do. The border is then {say.mm(seen.border_mm)}, "
        f"and {say.per_mm(per_mm, 'kJ', 2)} go into the part: let it cool between runs."
    )
    return Warning(
        code="machine_slow",
        level="watch",
        setting="travel_mm_s",
        message=text,
        numbers={"need_a": need, "most_a": machine.most_a, "usual_mm_s": usual, "kj_per_mm": per_mm},
    )


def torch_for(job: Job, settings: Settings, kit: Kit) -> Torch | None:
    """The kit's torch for these settings: the lightest that bears the running current at the run's duty."""
    duty = min(1.0, job.weld_length_mm / settings.travel_mm_s / DUTY_CYCLE_S)
    return choose_torch(kit.torches, float(cycle_means(settings.wave()).rms), duty)


def _settings(work: _Work) -> Settings:
    at, job = work.at, work.job
    preheat = _preheat_c(work)
    frequency = _frequency_hz(work)
    shape, trim, share = _shape(work), _trim(work), school_share(at, work.machine)
    travel = _travel_mm_s(work, Wave(1.0, share, frequency, trim, shape, shape), preheat)
    heat = at.wanted_pool_heat_w(travel, preheat)
    pulse = _pulse(work, heat, travel, frequency, share, trim, shape)
    planned = Wave(
        1.0,
        share,
        frequency,
        trim,
        shape,
        shape,
        (pulse.rate_hz, pulse.peak_share, pulse.base_share) if pulse else None,
    )
    whole = heat + at.filler_heat_w(travel, work.c)
    wanted = with_border(at, work.machine, planned, whole, travel, work.c)
    chosen = _amps_and_tungsten(work, whole, travel, preheat, wanted)
    trim = float(chosen.wave.ep_trim)
    work.say(reasons.trim(trim, _trim_asked(job), work.machine.can_trim, job.school.amplitude))
    run, full, share = chosen.run_a, chosen.full_a, float(chosen.wave.ep_share)
    tungsten = _tungsten(work, chosen)
    cup = _cup(work, tungsten.diameter_mm)
    flow = _flow_l_min(work, cup)
    start, finish, up, down = _start_and_end(work, full)
    covered = cup.stick_out_mm / longest_stick_out_mm(cup.number, cup.gas_lens)
    pre = pre_flow_s(job.thin_mm, work.kit.hose_m)
    post = post_flow_s(run, find_size(tungsten.diameter_mm).post_flow_least_s, covered)
    work.reasons.extend(reasons.gas_times(pre, post, run, tungsten.diameter_mm, job.thin_mm, covered, flow))
    return Settings(
        amps_run=round(run, 1),
        amps_set=round(full, 1),
        ep_trim=trim,
        ep_share=share,
        frequency_hz=frequency,
        shape_en=shape,
        shape_ep=shape,
        pulse=pulse,
        start_amps=start,
        finish_amps=finish,
        up_slope_s=up,
        down_slope_s=down,
        pre_flow_s=pre,
        post_flow_s=post,
        tungsten=tungsten,
        cup=cup,
        gas=Gas(kind=_gas_kind(job), flow_l_min=flow),
        filler=_filler(work),
        preheat_c=preheat,
        travel_mm_s=travel,
    )


def _preheat_c(work: _Work) -> float | None:
    """Castings are preheated as far as is advised for them; the rest is the user's choice (``warming``)."""
    at = work.at
    limit = limit_for(at)
    if not at.is_casting or limit.advised_c <= at.job.part_temperature_c:
        return None
    work.say(reasons.preheat(limit.advised_c, limit.words))
    return limit.advised_c


def _travel_mm_s(work: _Work, wave: Wave, preheat: float | None) -> float:
    """The user's own speed, or the usual one for the thickness, whatever the position; slower where the machine is short."""
    at, job, machine = work.at, work.job, work.machine
    travel = round(job.travel_mm_s or at.usual_travel_mm_s, 2)
    per_amp = heat_per_amp_w(wave, work.c, job.arc_length_mm, job.helium_share)
    slow = None
    if job.travel_mm_s is None and need_a(at, per_amp, travel, preheat, work.c) > machine.most_a:
        slow = travel_within(at, per_amp, preheat, machine.most_a, travel, work.c)
        eased = travel_within(at, per_amp, preheat, IN_HAND * machine.most_a, travel, work.c)
        if job.control == "pedal" and eased and eased >= EASY_MM_S:
            slow = eased
    work.slowed_from = (travel, need_a(at, per_amp, travel, preheat, work.c)) if slow else None
    work.say(reasons.travel(slow or travel, at, job.travel_mm_s is not None, machine.name if slow else ""))
    return slow or travel


def _frequency_hz(work: _Work) -> float:
    job, machine = work.job, work.machine
    band = frequency_band(job.thin_mm, job.joint, work.at.is_casting, job.gap_mm)
    middle = (band.low_hz + band.high_hz) / 2
    wanted = middle * school_factor(job.school.frequency)
    value = min(
        max(5 * math.ceil(wanted / 5 - 0.5 - 1e-9), machine.least_frequency_hz), machine.most_frequency_hz
    )
    work.say(
        reasons.frequency(value, band, job.school.frequency, school_factor(job.school.frequency), machine)
    )
    return float(value)


def _shape(work: _Work) -> Shape:
    wanted, shapes = work.job.school.waveform, work.machine.shapes
    shape = wanted if wanted in shapes else shapes[0]
    work.say(reasons.waveform(shape, wanted, work.machine.name))
    return shape


def _trim(work: _Work) -> float:
    machine = work.machine
    return max(TRIM_WHEN_TRIMMED, machine.least_trim) if _trim_asked(work.job) and machine.can_trim else 0.0


def _trim_asked(job: Job) -> bool:
    return job.school.amplitude == "trimmed" or "appearance" in job.purposes


def _amps_and_tungsten(
    work: _Work, heat_w: float, travel: float, preheat: float | None, planned: Wave
) -> Chosen:
    """Amps, share and tungsten with their reasons; the biggest tungsten of the shelf, and a word, where none bears it."""
    at, job, machine = work.at, work.job, work.machine
    found = settle(at, machine, work.kit, work.c, heat_w, travel, preheat, planned)
    rod = at.filler_heat_w(travel, work.c)
    meter = float(cycle_means(replace(found.wave, amps=1.0)).rms)
    work.say(
        reasons.amps_run(
            found.run_a, found.need_a, heat_w - rod, rod, found.heat_per_amp_w, at, travel, machine, meter
        )
    )
    work.say(reasons.amps_set(found.full_a, found.run_a, found.headroom, found.hottest_a, at, machine))
    first, school, share = school_share(at, machine), job.school.balance, float(found.wave.ep_share)
    lowered = share < float(planned.ep_share)  # by tungsten or look; else by the border that was planned
    work.say(
        reasons.ep_share(share, first, at, BALANCE_SHIFT[school], school, share_limits(at, machine), lowered)
    )
    if found.tungsten is not None:
        return found
    biggest = max(work.kit.tungstens, key=lambda tungsten: tungsten.diameter_mm)
    every = [("WLa 20", size.diameter_mm) for size in tungsten_sizes()]
    waves = [replace(found.wave, amps=amps) for amps in (found.run_a, found.full_a)]
    wanted = choose_tungsten(waves[0], waves[1], every, job.school.tip)
    buy = (
        f"Buy {wanted[0]} {say.size(wanted[1])}"
        if wanted
        else "None made bears it: fewer amps, less positive share, or trim the positive half"
    )
    text = f"No tungsten on the shelf bears this; the biggest is {say.size(biggest.diameter_mm)}. {buy}."
    work.warnings.append(Warning(code="tungsten_short", level="watch", setting="tungsten_mm", message=text))
    return replace(found, tungsten=(biggest.class_, biggest.diameter_mm))


def _tungsten(work: _Work, chosen: Chosen) -> Tungsten:
    assert chosen.tungsten is not None
    wave = replace(chosen.wave, amps=chosen.run_a)
    ball = work.job.school.tip == "ball" or float(wave.ep_share) > 0.45
    name, diameter = chosen.tungsten
    work.say(reasons.tungsten(diameter, name, chosen.run_a, chosen.full_a, wave, ball))
    return Tungsten(
        class_=name,
        diameter_mm=diameter,
        tip="ball" if ball else "point",
        angle_deg=None if ball else included_angle_deg(chosen.run_a),
        flat_mm=None if ball else flat_mm(diameter),
    )


def _pulse(
    work: _Work, heat: float, travel: float, frequency: float, share: float, trim: float, shape: Shape
) -> Pulse | None:
    """The school's pulse, unless its peak, which keeps the mean heat, is past the machine."""
    at, machine, job = work.at, work.machine, work.job
    pulse = planned_pulse(at, machine, travel, frequency)
    if pulse is None:
        if job.school.pulse != "none":
            work.warnings.append(
                Warning(
                    code="no_pulse",
                    level="note",
                    setting="pulse_rate_hz",
                    message=f"{machine.name} has no pulse: planned steady.",
                )
            )
        return None
    wave = Wave(
        1.0, share, frequency, trim, shape, shape, (pulse.rate_hz, pulse.peak_share, pulse.base_share)
    )
    peak = (heat + at.filler_heat_w(travel, work.c)) / heat_per_amp_w(
        wave, work.c, job.arc_length_mm, job.helium_share
    )
    if peak > machine.most_a:
        text = f"A pulse wants peaks of {peak:.0f} A for the same heat and {machine.name} stops at {machine.most_a:.0f} A: planned steady."
        work.warnings.append(Warning(code="pulse_short", level="note", setting="pulse_rate_hz", message=text))
        return None
    work.reasons.extend(reasons.pulse(pulse, at, travel, frequency))
    return pulse


def _cup(work: _Work, tungsten_mm: float) -> Cup:
    at, kit = work.at, work.kit
    lens = (work.job.school.shielding == "lens" and bool(kit.lens_cups)) or not kit.cups
    stocked = kit.lens_cups if lens else kit.cups
    asked = width_to_shield_mm(at.wanted_width_mm, at.aim.aim_mm, tungsten_mm)
    # Wider cups are for reach, by choice: over the usual ones a pool is shielded in passes and by the hand's angle.
    width = min(asked, bore_mm(MOST_USUAL_CUP) + BORE_TOLERANCE_MM)
    cup = fitted_cup(at, choose_cup(width, stocked, lens), lens)
    if not covers(cup.number, width):
        text = f"The widest cup on the shelf, {cup.number}, shields {say.near_mm(bore_mm(cup.number))}; {say.mm(width)} is wanted. Buy number {math.ceil((width - BORE_TOLERANCE_MM) / bore_mm(1))}."
        work.warnings.append(Warning(code="cup_short", level="watch", setting="cup_number", message=text))
    needed = stick_out_needed_mm(cup.number, at.joint.access_deg, work.job.arc_length_mm)
    work.say(reasons.cup(cup.number, lens, width, at, tungsten_mm))
    work.say(reasons.stick_out(cup.stick_out_mm, needed, cup.number, lens, at))
    return cup


def _flow_l_min(work: _Work, cup: Cup) -> float:
    flow, target = fitted_flow_l_min(work.at, cup)
    work.say(reasons.flow(flow, target, cup.number, work.job.helium_share))
    return flow


def _gas_kind(job: Job) -> str:
    return f"argon with {percent(job.helium_share)} helium" if job.helium_share else "argon"


def _start_and_end(work: _Work, full: float) -> tuple[float, float, float, float]:
    """Start and finish amps, up- and down-slope, by control: with a pedal the foot does the slopes."""
    job, machine = work.job, work.machine
    thin = job.thin_mm <= 2.0
    if job.control == "pedal":
        start_share, finish_share, up, down = 0.08, 0.08, 0.0, 0.0
    else:
        start_share, finish_share = (0.20, 0.15) if thin else (0.40, 0.25)
        up, down = (1.0, 2.0) if thin else (0.3, 3.0 if job.thin_mm < 6 else 5.0)
    start, finish = (round(max(machine.least_a, share * full)) for share in (start_share, finish_share))
    if job.control == "pedal":
        # Enough to strike a ground point, and little enough to look where the joint is.
        start = round(max(machine.least_a, min(max(start, PEDAL_START_A[0]), PEDAL_START_A[1], full)))
    for reason in reasons.start_and_end(
        start, finish, up, down, full, start_share, finish_share, machine.least_a, job.control
    ):
        work.say(reason)
    return float(start), float(finish), up, down


def _filler(work: _Work) -> Filler | None:
    at, job = work.at, work.job
    best = at.filler.best
    if job.filler_wanted == "none" or best is None:
        return None
    stocked = work.kit.fillers
    if stocked is not None and best.filler not in stocked:
        on_shelf = next((row for row in at.filler.ranked if row.filler in stocked), None)
        text = f"{best.filler} is the rod for this and is not on the shelf: " + (
            f"planned with {on_shelf.filler}, which is; or buy {best.filler}."
            if on_shelf
            else f"buy {best.filler}."
        )
        work.warnings.append(
            Warning(code="filler_short", level="watch", setting="filler_class", message=text)
        )
        best = on_shelf or best
    smaller = job.position in ("vertical", "overhead") or job.joint == "edge"
    diameter = rod_diameter_mm(job.thin_mm, work.kit.rods_mm, smaller)
    for reason in reasons.filler(best, diameter, at, smaller):
        work.say(reason)
    return Filler(class_=best.filler, diameter_mm=diameter)
