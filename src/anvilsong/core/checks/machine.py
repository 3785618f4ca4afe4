"""The machine: amps, control, pedal, the shorter half, duty and torch."""

from __future__ import annotations

import math
from collections.abc import Iterator

from anvilsong.core.arc.waveform import cycle_means, heat_per_amp_w
from anvilsong.core.coefficients import Coefficients, nominal
from anvilsong.core.heat.pedal import DUTY_CYCLE_S, NO_RESERVE, TOO_COARSE, allowed_duty
from anvilsong.core.machine import TRIGGER_WORDS, Machine, least_run_a
from anvilsong.core.model import Consequences, LimitWarning, Situation, later_within
from anvilsong.core.settings import Settings
from anvilsong.core.words import sentence

# Panels round: a hundredth over or under is no shortage.
SHORT_OVER, ABOVE_LEAST = 1.01, 0.99
OVER_SET_A = 0.5


def _reach(at: Situation, settings: Settings, seen: Consequences, machine: Machine) -> Iterator[LimitWarning]:
    """What the joint wants at this speed against what the machine has: heat goes with the amps."""
    need = settings.amps_run * seen.heat_wanted_w / max(seen.work_heat_w, 1e-9)
    # Under a pulse its base has to stand.
    least = least_run_a(settings.wave(), machine)
    if need > SHORT_OVER * machine.most_a:
        bevel = at.weld.takes_bevel and at.job.bevel is None
        # Without a speed of one's own the plan has already tried as slowly as a hand goes.
        fast = at.job.travel_mm_s is not None or settings.travel_mm_s > at.usual_travel_mm_s
        ways = sentence(
            "checks.preheat_take_bigger_machine",
            bevel_and_more="bevel and more passes" if bevel else "more passes",
            travel_slower="travel slower, " if fast else "",
        )
        yield LimitWarning(
            code="machine_short",
            level="stop",
            setting="amps_set",
            message=sentence(
                "checks.machine_short", need=need, name=machine.name, most_a=machine.most_a, ways=ways
            ),
            numbers={"need_a": need, "most_a": machine.most_a},
        )
    elif need < ABOVE_LEAST * least:
        yield LimitWarning(
            code="machine_minimum",
            level="stop" if seen.melt_through >= 1 else "watch",
            setting="amps_set",
            message=sentence(
                "checks.machine_minimum",
                need=need,
                name=machine.name,
                least_a=least,
                with_this_pulse=" with this pulse" if settings.pulse else "",
                too_much=least / need - 1,
                or_pulse="" if settings.pulse else ", pulse",
            ),
            numbers={"need_a": need, "least_a": least},
        )


def _later(at: Situation, settings: Settings, machine: Machine, c: Coefficients) -> Iterator[LimitWarning]:
    """The hottest of the passes after the first, against machine, torch and duty."""
    per_amp = heat_per_amp_w(settings.wave(), c, at.job.arc_length_mm, at.job.helium_share)
    later = later_within(at, per_amp, machine.most_a, settings.travel_mm_s, settings.preheat_c, c)
    if not later.passes:
        return
    need, usual = later.hottest_w / per_amp, later.usual_w / per_amp
    duty = min(1.0, at.job.weld_length_mm / settings.travel_mm_s / DUTY_CYCLE_S)
    if need > SHORT_OVER * machine.most_a:
        yield LimitWarning(
            code="pass_short",
            level="stop",
            setting="amps_set",
            message=sentence("checks.pass_short", need=need, name=machine.name, most_a=machine.most_a),
            numbers={"need_a": need, "most_a": machine.most_a},
        )
        return
    if later.is_small:
        yield LimitWarning(
            code="pass_small",
            level="watch",
            setting="amps_set",
            message=sentence(
                "checks.pass_small",
                usual=usual,
                name=machine.name,
                most_a=machine.most_a,
                passes=len(later.passes),
                need=need,
            ),
            numbers={"usual_a": usual, "need_a": need, "most_a": machine.most_a},
        )
    rest = float(allowed_duty(need, machine.duty.amps, machine.duty.share))
    if duty > rest:
        yield LimitWarning(
            code="pass_duty",
            level="watch",
            setting="amps_set",
            message=sentence("checks.pass_duty", need=need, rest=rest * 10, duty=duty * DUTY_CYCLE_S / 60),
            numbers={"amps": need, "allowed": rest},
        )
    allowed, rms = allowed_torch_a(machine, duty), float(cycle_means(settings.wave(need)).rms)
    if rms > allowed:
        yield LimitWarning(
            code="pass_torch",
            level="watch",
            setting="amps_set",
            message=sentence("checks.pass_torch", rms=rms, allowed=allowed),
            numbers={"rms_a": rms, "allowed_a": allowed},
        )


def allowed_torch_a(machine: Machine, duty: float) -> float:
    """Amps rms that the torch bears; runs follow one another, so a short one allows the rating at most."""
    return machine.torch_amps * min(1.0, math.sqrt(machine.torch_duty / max(duty, 1e-9)))


def machine_warnings(
    at: Situation, settings: Settings, seen: Consequences, machine: Machine, c: Coefficients | None = None
) -> Iterator[LimitWarning]:
    """By the machine's amps, those of later passes too, triggers, pedal, shortest half in ms, duty, torch."""
    job = at.job
    yield from _reach(at, settings, seen, machine)
    yield from _later(at, settings, machine, c or nominal())
    if settings.amps_set > machine.most_a + OVER_SET_A:
        yield LimitWarning(
            code="over_machine",
            level="stop",
            setting="amps_set",
            message=f"{machine.name} stops at {machine.most_a:.0f} A; {settings.amps_set:.0f} A is set.",
        )
    if job.control not in machine.triggers:
        asked = TRIGGER_WORDS[job.control]
        yield LimitWarning(
            code="trigger",
            level="watch",
            message=sentence("checks.trigger", name=machine.name, asked=asked),
        )
    yield from _start(settings, machine)
    if job.control == "pedal":
        if settings.up_slope_s > 0 or settings.down_slope_s > 0:
            yield LimitWarning(
                code="slopes_under_pedal",
                level="watch",
                setting="up_slope_s",
                message=sentence("checks.slopes_under_pedal"),
            )
        if seen.pedal_used < TOO_COARSE:
            yield LimitWarning(
                code="pedal_coarse",
                level="watch",
                setting="amps_set",
                message=sentence("checks.pedal_coarse", pedal_used=max(seen.pedal_used, 0)),
            )
        elif seen.pedal_used > NO_RESERVE:
            yield LimitWarning(
                code="pedal_no_reserve",
                level="watch",
                setting="amps_set",
                message=sentence("checks.pedal_no_reserve", pedal_used=seen.pedal_used),
            )
    if seen.shortest_half_ms < machine.least_half_ms - 1e-9:
        yield LimitWarning(
            code="half_too_short",
            level="watch",
            setting="frequency_hz",
            message=sentence(
                "checks.half_too_short",
                shortest_half_ms=seen.shortest_half_ms,
                least_half_ms=machine.least_half_ms,
            ),
        )
    yield from _duty(settings, seen, machine)


def _start(settings: Settings, machine: Machine) -> Iterator[LimitWarning]:
    """Start amps against what lit this tungsten on scrap."""
    tungsten = settings.tungsten
    least = machine.least_start_a(tungsten.diameter_mm) if tungsten is not None else None
    if least is not None and settings.start_amps < least - OVER_SET_A:
        yield LimitWarning(
            code="start_low",
            level="note",
            setting="start_amps",
            message=sentence("checks.start_low", start_amps=settings.start_amps, least=least),
            numbers={"least_a": least},
        )


def _duty(settings: Settings, seen: Consequences, machine: Machine) -> Iterator[LimitWarning]:
    """Duty and torch at the foot, and as a note at full press, where the foot may go for moments but not for
    a run.
    """
    duty = min(1.0, seen.arc_time_s / DUTY_CYCLE_S)
    for amps, level, where in (
        (settings.amps_run, "watch", f"At {settings.amps_run:.0f} A"),
        (settings.amps_set, "note", f"Pressed to {settings.amps_set:.0f} A"),
    ):
        rest = float(allowed_duty(amps, machine.duty.amps, machine.duty.share))
        if duty > rest:
            yield LimitWarning(
                code="duty" if level == "watch" else "duty_full_press",
                level=level,
                setting="amps_set",
                message=sentence(
                    "checks.amps_set", where=where, rest=rest * 10, arc_time_s=seen.arc_time_s / 60
                ),
                numbers={"amps": amps, "allowed": rest},
            )
            break
    allowed = allowed_torch_a(machine, duty)
    cooling = "water-cooled" if machine.water_cooled else "air-cooled"
    numbers = {"allowed_a": allowed, "rms_a": seen.rms_a, "rms_set_a": seen.rms_set_a}
    if seen.rms_a > allowed:
        yield LimitWarning(
            code="torch_rating",
            level="watch",
            setting="amps_set",
            message=sentence("checks.torch_rating", cooling=cooling, allowed=allowed, rms_a=seen.rms_a),
            numbers=numbers,
        )
    elif seen.rms_set_a > allowed:
        yield LimitWarning(
            code="torch_full_press",
            level="note",
            setting="amps_set",
            message=sentence(
                "checks.torch_full_press", rms_set_a=seen.rms_set_a, cooling=cooling, allowed=allowed
            ),
            numbers=numbers,
        )
