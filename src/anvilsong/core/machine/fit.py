"""Can this machine do this job? One machine, or the shop ranked, with reasons."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from pydantic import BaseModel, ConfigDict

from anvilsong.core import say
from anvilsong.core.heat.pedal import NO_RESERVE
from anvilsong.core.machine.model import TRIGGER_WORDS, Machine
from anvilsong.core.said import Words
from anvilsong.core.words import sentence


class Need(BaseModel):
    """What a job asks of a machine. Currents A (canonical), times s."""

    model_config = ConfigDict(frozen=True)

    run_a: float
    set_a: float
    arc_s: float
    frequency_hz: float
    wants_trim: bool
    wants_pulse: bool
    ep_share: float
    control: str
    slow_mm_s: float | None = None
    """The travel at which the machine just reaches, where it is short at the usual one."""


class Fit(BaseModel):
    """How a machine fits: does it, just, or not; the score ranks within that."""

    model_config = ConfigDict(frozen=True)

    machine: str
    verdict: Literal["does it", "just", "no"]
    score: float
    reasons: list[Words]


def machine_fit(machine: Machine, need: Need, duty_allowed: float) -> Fit:
    """Judge one machine.

    score = 1 − |reach − 0.65| (reach = set amps/top amps), less 0.15 for each wish it cannot grant, less
    what duty is over
    """
    no: list[Words] = []
    just: list[Words] = []
    good: list[Words] = []
    reach = need.set_a / machine.most_a
    if need.run_a > machine.most_a:
        no.append(sentence("machine.stops_needed_while_welding", most_a=machine.most_a, run_a=need.run_a))
    elif need.slow_mm_s is not None:
        just.append(
            say.joined(
                "Reaches only at ", say.mm_s(need.slow_mm_s), f": {need.run_a:.0f} of {machine.most_a:.0f} A."
            )
        )
    elif need.run_a > NO_RESERVE * machine.most_a and need.control == "pedal":
        just.append(f"No headroom: {need.run_a:.0f} of {machine.most_a:.0f} A.")
    else:
        good.append(f"{need.set_a:.0f} of {machine.most_a:.0f} A.")
    if need.run_a < machine.least_a:
        no.append(sentence("machine.goes_no_lower_than", least_a=machine.least_a, run_a=need.run_a))
    over = max(0.0, need.arc_s / 600 - duty_allowed)
    if over > 0:
        just.append(
            sentence("machine.duty_may_weld_ten", duty_allowed=duty_allowed * 10, arc_s=need.arc_s / 60)
        )
    if not machine.least_frequency_hz <= need.frequency_hz <= machine.most_frequency_hz:
        just.append(
            sentence(
                "machine.hz_wanted_ac_frequency",
                frequency_hz=need.frequency_hz,
                least_frequency_hz=_from_to(machine.least_frequency_hz, machine.most_frequency_hz, "Hz"),
            )
        )
    if not machine.least_ep_share <= need.ep_share <= machine.most_ep_share:
        just.append(
            sentence(
                "machine.ep_wanted_ac_balance",
                ep_share=need.ep_share * 100,
                reach=_from_to(100 * machine.least_ep_share, 100 * machine.most_ep_share, "% EP"),
            )
        )
    if need.wants_trim and not machine.can_trim:
        just.append(sentence("machine.cannot_set_ep_amplitude"))
    if need.wants_pulse and not machine.can_pulse:
        just.append("Has no pulse.")
    if need.control not in machine.triggers:
        just.append(
            "Takes no pedal." if need.control == "pedal" else f"Has no {TRIGGER_WORDS[need.control]}."
        )
    score = 1 - abs(reach - 0.65) - 0.15 * len(just) - over
    verdict: Literal["does it", "just", "no"] = "no" if no else "just" if just else "does it"
    return Fit(machine=machine.name, verdict=verdict, score=score, reasons=no + just + good)


def ranked(fits: Sequence[Fit]) -> list[Fit]:
    """Those that do it first, then those that just do, then the others; the best score first within each."""
    order = {"does it": 0, "just": 1, "no": 2}
    return sorted(fits, key=lambda fit: (order[fit.verdict], -fit.score, fit.machine))


def _from_to(low: float, high: float, unit: str) -> str:
    """What a machine's control reaches, in words."""
    return f"is fixed at {low:.0f} {unit}" if low == high else f"goes from {low:.0f} to {high:.0f} {unit}"
