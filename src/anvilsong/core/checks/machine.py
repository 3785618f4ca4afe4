"""The machine: amps, control, pedal, the shorter half, duty and torch."""

from __future__ import annotations

import math
from collections.abc import Iterator

from anvilsong.core.arc.waveform import cycle_means, heat_per_amp_w
from anvilsong.core.coefficients import Coefficients, nominal
from anvilsong.core.heat.pedal import DUTY_CYCLE_S, NO_RESERVE, TOO_COARSE, allowed_duty
from anvilsong.core.machine import Machine, least_run_a
from anvilsong.core.model import Consequences, LimitWarning, Situation, later_within
from anvilsong.core.quantities import percent
from anvilsong.core.settings import Settings

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
        ways = (
            f"{'bevel and more passes' if bevel else 'more passes'}, preheat, "
            f"{'travel slower, ' if fast else ''}or take a bigger machine"
        )
        yield LimitWarning(
            code="machine_short",
            level="stop",
            setting="amps_set",
            message=(
                f"The joint wants {need:.0f} A and {machine.name} stops at {machine.most_a:.0f} A: {ways}."
            ),
            numbers={"need_a": need, "most_a": machine.most_a},
        )
    elif need < ABOVE_LEAST * least:
        yield LimitWarning(
            code="machine_minimum",
            level="stop" if seen.melt_through >= 1 else "watch",
            setting="amps_set",
            message=(
                f"The joint wants {need:.0f} A and {machine.name} goes no lower than "
                f"{least:.0f} A{' with this pulse' if settings.pulse else ''}: {percent(least / need - 1)} "
                "too much heat. Travel fast, feed thin filler rod often"
                f"{'' if settings.pulse else ', pulse'}."
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
            message=(
                f"A pass after the first wants {need:.0f} A, as small as it can be laid, and {machine.name} "
                f"stops at {machine.most_a:.0f} A: preheat, travel slower, or take a bigger machine."
            ),
            numbers={"need_a": need, "most_a": machine.most_a},
        )
        return
    if later.is_small:
        yield LimitWarning(
            code="pass_small",
            level="watch",
            setting="amps_set",
            message=(
                f"The passes after the first would want {usual:.0f} A and {machine.name} stops at "
                f"{machine.most_a:.0f} A: {len(later.passes)} smaller beads of {need:.0f} A instead, side by "
                "side at the top. Brush after each, and look that its toes wet."
            ),
            numbers={"usual_a": usual, "need_a": need, "most_a": machine.most_a},
        )
    rest = float(allowed_duty(need, machine.duty.amps, machine.duty.share))
    if duty > rest:
        yield LimitWarning(
            code="pass_duty",
            level="watch",
            setting="amps_set",
            message=(
                f"At the {need:.0f} A of a pass after the first this machine may weld {rest * 10:.1f} of ten "
                f"minutes, and the run takes {duty * DUTY_CYCLE_S / 60:.1f}."
            ),
            numbers={"amps": need, "allowed": rest},
        )
    allowed, rms = allowed_torch_a(machine, duty), float(cycle_means(settings.wave(need)).rms)
    if rms > allowed:
        yield LimitWarning(
            code="pass_torch",
            level="watch",
            setting="amps_set",
            message=(
                f"A pass after the first sends {rms:.0f} A rms through the torch, which bears "
                f"{allowed:.0f} A for a run this long: shorter runs, or a bigger torch."
            ),
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
        asked = "a pedal" if job.control == "pedal" else f"{job.control.removeprefix('switch_')}-step"
        yield LimitWarning(
            code="trigger",
            level="watch",
            message=f"{machine.name} does not take {asked}: choose another control for this job.",
        )
    if job.control == "pedal":
        if settings.up_slope_s > 0 or settings.down_slope_s > 0:
            yield LimitWarning(
                code="slopes_under_pedal",
                level="watch",
                setting="up_slope_s",
                message="Slopes are on under a pedal: the pedal does them. Set both to zero.",
            )
        if seen.pedal_used < TOO_COARSE:
            yield LimitWarning(
                code="pedal_coarse",
                level="watch",
                setting="amps_set",
                message=(
                    f"The whole job happens in the first {percent(max(seen.pedal_used, 0))} of the "
                    "pedal: set fewer amps."
                ),
            )
        elif seen.pedal_used > NO_RESERVE:
            yield LimitWarning(
                code="pedal_no_reserve",
                level="watch",
                setting="amps_set",
                message=f"The pedal is at {percent(seen.pedal_used)}: nothing left to push with.",
            )
    if seen.shortest_half_ms < machine.least_half_ms - 1e-9:
        yield LimitWarning(
            code="half_too_short",
            level="watch",
            setting="frequency_hz",
            message=(
                f"The shorter half lasts {seen.shortest_half_ms:.2f} ms; this machine needs "
                f"{machine.least_half_ms:g} ms. Lower the frequency or move the AC balance."
            ),
        )
    yield from _duty(settings, seen, machine)


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
                message=(
                    f"{where} this machine may weld {rest * 10:.1f} of ten minutes, and the run takes "
                    f"{seen.arc_time_s / 60:.1f}."
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
            message=(
                f"The {cooling} torch bears {allowed:.0f} A on AC for a run this long; {seen.rms_a:.0f} "
                "A rms flow through it. A hot handle means stop."
            ),
            numbers=numbers,
        )
    elif seen.rms_set_a > allowed:
        yield LimitWarning(
            code="torch_full_press",
            level="note",
            setting="amps_set",
            message=(
                f"With the pedal fully down {seen.rms_set_a:.0f} A rms flow through the {cooling} torch, "
                f"which bears {allowed:.0f} A for a run this long: for moments only."
            ),
            numbers=numbers,
        )
