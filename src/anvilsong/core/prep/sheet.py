"""The run sheet: what to do for this job, in order, with the caution where it belongs."""

from __future__ import annotations

from collections.abc import Iterator

from anvilsong.core import say
from anvilsong.core.machine import Machine, by_hand
from anvilsong.core.model import Situation, Step
from anvilsong.core.prep.steps import prep_steps
from anvilsong.core.prep.trigger_times import second_level, spot_times
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.words import sentence

MOSTLY_HELIUM = 0.5
HEAVY_GAS = sentence("prep.argon_heavier_than_air")
LIGHT_GAS = sentence("prep.gas_lighter_than_air")
HF_START = sentence("prep.high_frequency_start_with")
TOUCH_START = sentence("prep.touch_start")
CONTINUOUS_HF = sentence("prep.sine_machine_leaves_high")


def is_transformer(machine: Machine) -> bool:
    """Whether a machine has nothing but a sine at the mains' frequency: its arc goes out at every zero, and
    the high frequency that lights it again runs all the time.
    """
    fixed = machine.least_frequency_hz == machine.most_frequency_hz
    return set(machine.shapes) == {"sine"} and fixed


def shade(amps: float) -> tuple[int, int]:
    """Suggested and least helmet shade by AWS F2.2: under 50 A 10 (8), to 150 A 12 (8), to 500 A 14 (10)."""
    if amps < 50:
        return 10, 8
    return (12, 8) if amps <= 150 else (14, 10)


def run_sheet(at: Situation, settings: Settings, machine: Machine) -> list[Step]:
    """Steps of prep, torch, tune and coupon for these settings."""
    return [
        *prep_steps(at, settings),
        *_torch(at, settings, machine),
        *_tune(at, settings, machine),
        *_coupon(at),
    ]


def _torch(at: Situation, settings: Settings, machine: Machine) -> Iterator[Step]:
    tungsten, cup = settings.tungsten, settings.cup
    if tungsten is not None:
        point = (
            sentence(
                "prep.grind_lengthwise_with_flat", angle_deg=tungsten.angle_deg, flat_mm=tungsten.flat_mm or 0
            )
            if tungsten.tip == "point"
            else sentence("prep.ball_clean_copper_most")
        )
        yield Step(
            station="torch",
            key="tungsten",
            text=say.joined(f"{tungsten.class_} ", say.size(tungsten.diameter_mm), ", ", point, "."),
            why=sentence("prep.tungsten_why"),
            caution=sentence("prep.tungsten_caution"),
        )
    body = "gas lens" if cup.gas_lens else "plain collet body"
    yield Step(
        station="torch",
        key="cup",
        text=say.joined(f"Cup {cup.number} with {body}, stick-out ", say.near_mm(cup.stick_out_mm), "."),
        why=sentence("prep.cup_why"),
    )
    yield Step(
        station="torch",
        key="gas",
        text=sentence("prep.gas", flow_l_min=settings.gas.flow_l_min, kind=settings.gas.kind),
        why=sentence("prep.gas_why"),
        caution=LIGHT_GAS if at.job.helium_share > MOSTLY_HELIUM else HEAVY_GAS,
    )
    if machine.water_cooled and settings.amps_set > machine.torch_amps / 2:
        yield Step(
            station="torch",
            key="cooler",
            text=sentence("prep.cooler"),
            why=sentence("prep.cooler_why"),
        )


def _start_caution(machine: Machine) -> Words:
    """High frequency harms electronics and implants; a touch leaves tungsten where it struck."""
    if machine.start_mode == "touch":
        return TOUCH_START
    return CONTINUOUS_HF if is_transformer(machine) else HF_START


def _tune(at: Situation, settings: Settings, machine: Machine) -> Iterator[Step]:
    suggested, least = shade(settings.amps_set)
    yield Step(
        station="tune",
        key="set",
        text=sentence("prep.set") if machine.start_mode != "touch" else sentence("prep.set_touch"),
        why=sentence("prep.set_why"),
        caution=_start_caution(machine),
    )
    yield Step(
        station="tune",
        key="shade",
        text=sentence("prep.shade", suggested=suggested, least=least),
        why="AWS F2.2 for this process.",
        caution=sentence("prep.shade_caution"),
    )
    if at.job.control in ("switch_4_two_levels", "spot"):
        yield _trigger(at, settings, machine)
    if hand := by_hand(settings, machine, at.job.control):
        yield Step(
            station="tune",
            key="by_hand",
            text=say.joined(*hand, by=" "),
            why=sentence("prep.by_hand_why", name=machine.name),
        )


def _trigger(at: Situation, settings: Settings, machine: Machine) -> Step:
    """What a trigger wants that stands among no settings: the second level, or a spot's seconds and pause."""
    if at.job.control == "spot":
        spot = spot_times(at, settings, machine.most_a)
        text = sentence("prep.trigger_spots", amps=spot.amps, spot_s=spot.spot_s, pause_s=spot.pause_s)
        if not spot.melts:
            text = sentence("prep.trigger_no_spots", amps=spot.amps)
        return Step(station="tune", key="trigger", text=text, why=sentence("prep.trigger_spots_why"))
    level = second_level(at, settings, at.job.weld_length_mm / settings.travel_mm_s)
    text = sentence("prep.trigger_level", amps=level.amps, after_s=level.after_s)
    return Step(station="tune", key="trigger", text=text, why=level.why)


def _coupon(at: Situation) -> Iterator[Step]:
    job = at.job
    names = " on ".join(dict.fromkeys((job.a.metal.name, job.b.metal.name)))
    yield Step(
        station="coupon",
        key="run",
        text=sentence("prep.run", length_mm=100, names=names),
        why=sentence("prep.run_why"),
        caution=sentence("prep.run_caution"),
    )
    yield Step(
        station="coupon",
        key="measure",
        text=sentence("prep.measure"),
        why=sentence("prep.measure_why"),
    )
