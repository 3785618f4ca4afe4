"""The run sheet: what to do for this job, in order, with the caution where it belongs."""

from __future__ import annotations

from collections.abc import Iterator

from anvilsong.core import say
from anvilsong.core.machine import Machine, by_hand
from anvilsong.core.model import Situation, Step
from anvilsong.core.prep.steps import prep_steps
from anvilsong.core.settings import Settings

MOSTLY_HELIUM = 0.5
HEAVY_GAS = (
    "Argon is heavier than air and has no smell: ventilate pits, tanks and small rooms, and never work there "
    "alone. Cylinder chained upright."
)
LIGHT_GAS = (
    "This gas is lighter than air and has no smell: it gathers under roofs and lids and takes the air there. "
    "Ventilate from above, and never work in a small room alone. Cylinder chained upright."
)
HF_START = (
    "High-frequency start: with a pacemaker or implant ask a doctor first. Dry gloves, work clamp on the "
    "part."
)
CONTINUOUS_HF = (
    "A sine machine leaves its high frequency on as long as the arc burns: with a pacemaker or implant stay "
    "away from it and ask a doctor first; it disturbs radios, telephones and electronics nearby. Dry gloves, "
    "work clamp on the part."
)


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
            f"grind lengthwise to {tungsten.angle_deg:.0f}° with a {say.size(tungsten.flat_mm or 0)} flat"
            if tungsten.tip == "point"
            else "ball on clean copper to at most 1.3 diameters"
        )
        yield Step(
            station="torch",
            key="tungsten",
            text=f"{tungsten.class_} {say.size(tungsten.diameter_mm)}, {point}.",
            why="The everyday size, or the nearest to it, that bears the load.",
            caution="Eye protection and extraction at the wheel.",
        )
    body = "gas lens" if cup.gas_lens else "plain collet body"
    yield Step(
        station="torch",
        key="cup",
        text=f"Cup {cup.number} with {body}, stick-out {say.near_mm(cup.stick_out_mm)}.",
        why="Covers pool and both borders.",
    )
    yield Step(
        station="torch",
        key="gas",
        text=(
            f"Set {say.l_min(settings.gas.flow_l_min)} of {settings.gas.kind} while the gas flows, "
            "ball's middle."
        ),
        why="With no gas flowing the reading means nothing.",
        caution=LIGHT_GAS if at.job.helium_share > MOSTLY_HELIUM else HEAVY_GAS,
    )
    if machine.water_cooled and settings.amps_set > machine.torch_amps / 2:
        yield Step(
            station="torch",
            key="cooler",
            text="Cooler on, not auto: see the return flow before the first arc.",
            why="Over half the torch's rating.",
        )


def _tune(at: Situation, settings: Settings, machine: Machine) -> Iterator[Step]:
    suggested, least = shade(settings.amps_set)
    yield Step(
        station="tune",
        key="set",
        text="Mode AC, start by high frequency; set the panel as the set line says.",
        why="One setting at a time between coupons.",
        caution=CONTINUOUS_HF if is_transformer(machine) else HF_START,
    )
    yield Step(
        station="tune",
        key="shade",
        text=f"Helmet shade {suggested} to start, lighter only while the pool is clear, never under {least}.",
        why="AWS F2.2 for this process.",
        caution="Aluminium reflects: cover neck, wrists and bystanders. Ventilate: the arc makes ozone.",
    )
    if hand := by_hand(settings, machine, at.job.control):
        yield Step(
            station="tune",
            key="by_hand",
            text=" ".join(hand),
            why=f"{machine.name} has no control for it.",
        )


def _coupon(at: Situation) -> Iterator[Step]:
    job = at.job
    names = " on ".join(dict.fromkeys((job.a.metal.name, job.b.metal.name)))
    yield Step(
        station="coupon",
        key="run",
        text=(
            f"Run a coupon of about {say.about_mm(100)} on scrap of {names}, the same thickness and "
            "joint. Time it."
        ),
        why="Settings are a start; the bead decides.",
        caution="Hot aluminium looks cold: mark the coupon HOT, use pliers.",
    )
    yield Step(
        station="coupon",
        key="measure",
        text="Measure bead width and the cleaned border left and right, in the middle of the run.",
        why="The border is compared with the aim, and the next change worked out.",
    )
