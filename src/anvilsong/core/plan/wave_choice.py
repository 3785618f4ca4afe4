"""The planner's choices for the wave: frequency, shape, trim, pulse, amps and share, start and end."""

from __future__ import annotations

import math
from dataclasses import replace

from anvilsong.core import say
from anvilsong.core.arc.frequency import frequency_band, school_factor
from anvilsong.core.arc.waveform import Shape, Wave, heat_per_amp_w
from anvilsong.core.job import Job
from anvilsong.core.model import (
    LimitWarning,
    later_within,
)
from anvilsong.core.plan import reasons
from anvilsong.core.plan.amps import Chosen, settle
from anvilsong.core.plan.cleaning import (
    TRIM_WHEN_TRIMMED,
    school_share,
    share_limits,
)
from anvilsong.core.plan.pulse import can_stock_pulse, held_up, planned_pulse, softer
from anvilsong.core.plan.work import Course, Ends, Work
from anvilsong.core.settings import Pulse
from anvilsong.core.torch.tungsten import (
    choose_tungsten,
    tungsten_sizes,
)
from anvilsong.core.words import sentence

PEDAL_START_A, CAN_START = (10, 30), 0.4  # under it can stock would be gone before the foot moves
RESERVE = 1.1  # of the amps at the peak, that the machine has beside a pulse out of position


def frequency_hz(work: Work) -> float:
    """The middle of the metal's band × the school, to 5 Hz, within the machine."""
    job, machine = work.job, work.machine
    band = frequency_band(job.thin_mm, work.at.joint.band, work.at.is_casting, job.gap_mm)
    reason = reasons.frequency(band, job.school.frequency, school_factor(job.school.frequency), machine)
    work.say(reason)
    assert isinstance(reason.value, float)
    return reason.value


def shape_of(work: Work) -> Shape:
    """The school's shape, or the first that the machine has."""
    wanted, shapes = work.job.school.waveform, work.machine.shapes
    shape = wanted if wanted in shapes else shapes[0]
    work.say(reasons.waveform(shape, wanted, work.machine.name))
    return shape


def trim_of(work: Work) -> float:
    """The school's trim, within the machine."""
    machine = work.machine
    return max(TRIM_WHEN_TRIMMED, machine.least_trim) if trim_asked(work.job) and machine.can_trim else 0.0


def trim_asked(job: Job) -> bool:
    """Whether school or look ask for a trimmed positive half."""
    return job.school.amplitude == "trimmed" or "appearance" in job.purposes


def amps_and_tungsten(work: Work, course: Course, planned: Wave) -> Chosen:
    """Amps, share and tungsten with their reasons; the biggest tungsten of the shelf, and a word, where none
    bears it.
    """
    at, job, machine = work.at, work.job, work.machine
    found = settle(at, machine, work.kit, work.c, course, planned)
    work.say(reasons.amps_run(found, at, course, machine))
    work.say(reasons.amps_set(found.full_a, found.run_a, found.headroom, found.hottest_a, at, machine))
    first, share = school_share(at, machine), float(found.wave.ep_share)
    lowered = share < float(planned.ep_share)  # by tungsten or look; else by the border that was planned
    work.say(reasons.ep_share(share, first, at, share_limits(at, machine), lowered))
    if found.tungsten is not None:
        return found
    biggest = max(work.kit.tungstens, key=lambda tungsten: tungsten.diameter_mm)
    every = [("WLa 20", size.diameter_mm) for size in tungsten_sizes()]
    waves = [replace(found.wave, amps=amps) for amps in (found.run_a, found.full_a)]
    wanted = choose_tungsten(waves[0], waves[1], every, job.school.tip, work.c.tungsten_limit)
    buy = (
        say.joined(f"Buy {wanted[0]} ", say.size(wanted[1]))
        if wanted
        else sentence("plan.none_made_bears_fewer")
    )
    text = sentence("plan.no_tungsten_shelf_bears", diameter_mm=biggest.diameter_mm, buy=buy)
    work.warnings.append(
        LimitWarning(code="tungsten_short", level="watch", setting="tungsten_mm", message=text)
    )
    return replace(found, tungsten=(biggest.class_, biggest.diameter_mm))


def pulse_of(work: Work, course: Course, steady: Wave) -> Pulse | None:
    """The school's pulse, unless its peak, which keeps the mean heat, is past the machine."""
    at, machine, job = work.at, work.machine, work.job
    frequency, travel = float(steady.frequency_hz), course.travel_mm_s
    steady_a = course.heat_w / heat_per_amp_w(steady, work.c, job.arc_length_mm, job.helium_share)
    asked = planned_pulse(at, machine, travel, frequency)
    if asked and job.position != "flat":
        asked = _soft_enough(work, asked, course, steady)
    pulse = held_up(asked, steady_a, machine) if asked else can_stock_pulse(machine, steady_a, frequency)
    if pulse is None:
        if job.school.pulse != "none":
            lacks = sentence("plan.goes_no_lower_than", least_a=machine.least_a) if asked else ""
            work.warnings.append(
                LimitWarning(
                    code="no_pulse",
                    level="note",
                    setting="pulse_rate_hz",
                    message=say.joined(f"{machine.name} ", lacks or "has no pulse", ": planned steady."),
                )
            )
        return None
    wave = replace(steady, pulse=(pulse.rate_hz, pulse.peak_share, pulse.base_share))
    peak = max(course.heat_w, _later_heat_w(work, course, steady)) / heat_per_amp_w(
        wave, work.c, job.arc_length_mm, job.helium_share
    )
    if peak > machine.most_a:
        text = sentence("plan.pulse_wants_peaks_same", peak=peak, name=machine.name, most_a=machine.most_a)
        work.warnings.append(
            LimitWarning(code="pulse_short", level="note", setting="pulse_rate_hz", message=text)
        )
        return None
    work.reasons.extend(reasons.pulse(pulse, at, travel, frequency))
    return pulse


def _later_heat_w(work: Work, course: Course, steady: Wave) -> float:
    """The hottest later pass, W, as it is run without a pulse: a pulse is no reason for more passes."""
    at, job = work.at, work.job
    per_amp = heat_per_amp_w(steady, work.c, job.arc_length_mm, job.helium_share)
    later = later_within(at, per_amp, work.machine.most_a, course.travel_mm_s, course.preheat_c, work.c)
    return later.hottest_w


def _soft_enough(work: Work, pulse: Pulse, course: Course, steady: Wave) -> Pulse:
    """Out of position: the first pulse whose peaks want no bigger tungsten than the same heat without a
    pulse, and leave the pedal something; the softest where none does.

    The mean stays the position's own amps: a pulse there steadies the pool, and is no reason for a bigger
    arc.
    """
    kit, machine = work.kit, work.machine
    without = settle(work.at, machine, kit, work.c, course, steady).tungsten
    choices = softer(pulse)
    for each in choices:
        wave = replace(steady, pulse=(each.rate_hz, each.peak_share, each.base_share))
        found = settle(work.at, machine, kit, work.c, course, wave)
        fits = found.tungsten is not None and (without is None or found.tungsten[1] <= without[1])
        if fits and RESERVE * found.need_a <= machine.most_a:
            return each
    return choices[-1]


def ends_of(work: Work, full: float, tungsten_mm: float) -> Ends:
    """Start and finish amps, up- and down-slope, by control: with a pedal the foot does the slopes.

    A machine without the control has none of it: with a switch it comes on and goes out at full amps. Where
    somebody tried how few amps light this tungsten, it starts there at least, as far as full amps go.
    """
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
        least, most = min(PEDAL_START_A[0], CAN_START * full), PEDAL_START_A[1]
        start = round(max(machine.least_a, min(max(start, least), most, full)))
    tried = machine.least_start_a(tungsten_mm)
    start = start if tried is None else max(start, min(math.ceil(tried), math.floor(full)))
    if job.control == "spot":
        up = down = 0.0
    up, down = (s if machine.sets(key) else 0.0 for key, s in (("up_slope_s", up), ("down_slope_s", down)))
    held = round(full, 1) if job.control != "pedal" else machine.least_a
    ends = Ends(
        full,
        float(start if machine.sets("start_amps") else held),
        float(finish if machine.sets("finish_amps") else held),
        start_share,
        finish_share,
        up,
        down,
    )
    work.reasons.extend(
        reason
        for reason in reasons.start_and_end(ends, machine.least_a, job.control)
        if machine.sets(reason.setting) and not (job.control == "spot" and reason.setting.endswith("slope_s"))
    )
    return ends
