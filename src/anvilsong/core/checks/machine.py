"""The machine: amps, control, pedal, the shorter half, duty and torch."""

from __future__ import annotations

from collections.abc import Iterator

from anvilsong.core.heat.pedal import DUTY_CYCLE_S, NO_RESERVE, TOO_COARSE, allowed_duty
from anvilsong.core.machine import Machine
from anvilsong.core.model import Consequences, LimitWarning, Situation
from anvilsong.core.quantities import percent
from anvilsong.core.settings import Settings

# Panels round: a hundredth over or under is no shortage.
SHORT_OVER, ABOVE_LEAST = 1.01, 0.99


def _reach(at: Situation, settings: Settings, seen: Consequences, machine: Machine) -> Iterator[LimitWarning]:
    """What the joint wants at this speed against what the machine has: heat goes with the amps."""
    need = settings.amps_run * seen.heat_wanted_w / max(seen.work_heat_w, 1e-9)
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
    elif need < ABOVE_LEAST * machine.least_a:
        yield LimitWarning(
            code="machine_minimum",
            level="stop" if seen.melt_through >= 1 else "watch",
            setting="amps_set",
            message=(
                f"The joint wants {need:.0f} A and {machine.name} holds no less than "
                f"{machine.least_a:.0f} A: {percent(machine.least_a / need - 1)} too much heat. Travel "
                "fast, feed thin rod often, pulse."
            ),
            numbers={"need_a": need, "least_a": machine.least_a},
        )


def machine_warnings(
    at: Situation, settings: Settings, seen: Consequences, machine: Machine
) -> Iterator[LimitWarning]:
    """By the machine's amps, triggers, pedal, shortest half in ms, duty and torch."""
    job = at.job
    yield from _reach(at, settings, seen, machine)
    if settings.amps_set > machine.most_a + 0.5:
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
                message="Slopes are on under a pedal: the foot does them. Set both to zero.",
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
                f"{machine.least_half_ms:g} ms. Lower the frequency or move the balance."
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
    # Runs follow one another, so a short run allows no more than the rating itself.
    allowed = machine.torch_amps * min(1.0, (machine.torch_duty / max(duty, 1e-9)) ** 0.5)
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
                f"Pressed all the way, {seen.rms_set_a:.0f} A rms flow through the {cooling} torch, "
                f"which bears {allowed:.0f} A for a run this long: for moments only."
            ),
            numbers=numbers,
        )
