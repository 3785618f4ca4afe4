"""Lanes that fight just now, and over what."""

from __future__ import annotations

from collections.abc import Iterator

from pydantic import BaseModel, ConfigDict

from anvilsong.core import say
from anvilsong.core.arc.sampling import ac_cycles_in_shorter_phase
from anvilsong.core.machine import Machine
from anvilsong.core.model import Consequences
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.torch.tungsten import LOAD_AT_RUN, LOAD_AT_SET
from anvilsong.core.words import sentence

# How near a limit two lanes pull at it: shares of the limit, but for what has a unit.
NEAR_LOAD, NEAR_HALF, NEAR_DUTY, NEAR_SHIELD = 0.97, 1.25, 0.9, 0.9
NEAR_TURBULENT, NEAR_CHILL = 1800.0, 0.15
DEEP_TRIM, LONG_SHARE = -0.30, 0.35
LEAST_CYCLES = 2


class Tie(BaseModel):
    """Two lanes that fight just now, and over what."""

    model_config = ConfigDict(frozen=True)

    a: str
    b: str
    words: Words


def ties(settings: Settings, seen: Consequences, machine: Machine) -> list[Tie]:
    """Every pair of lanes that is in conflict or near it, in words."""
    return [
        Tie(a=a, b=b, words=words)
        for a, b, words in (*_of_wave(settings, seen, machine), *_of_run_and_torch(settings, seen))
    ]


def _of_wave(settings: Settings, seen: Consequences, machine: Machine) -> Iterator[tuple[str, str, Words]]:
    load, at_full = seen.tungsten_load, seen.tungsten_load_set
    if max(load / LOAD_AT_RUN, at_full / LOAD_AT_SET) > NEAR_LOAD:
        heats = sentence("board.ep_heats_tungsten_while", load=load)
        yield "ep_share", "tungsten_mm", sentence("board.with_pedal_fully_down", heats=heats, at_full=at_full)
    if seen.shortest_half_ms < NEAR_HALF * machine.least_half_ms:
        half = sentence("board.shorter_half_lasts_ms", shortest_half_ms=seen.shortest_half_ms)
        yield "ep_share", "frequency_hz", say.joined(half, f"{machine.least_half_ms:g} ms.")
    cycles = float(ac_cycles_in_shorter_phase(settings.wave()))
    if cycles < LEAST_CYCLES:
        fit = sentence("board.only_ac_cycles_fit", cycles=cycles)
        yield "pulse_rate_hz", "frequency_hz", say.joined(fit, "Two are wanted.")


def _of_run_and_torch(settings: Settings, seen: Consequences) -> Iterator[tuple[str, str, Words]]:
    if seen.duty_used > NEAR_DUTY:
        run = sentence("board.run_takes_duty_machine", duty_used=seen.duty_used)
        yield "amps_set", "travel_mm_s", run
    if settings.ep_trim < DEEP_TRIM and settings.ep_share > LONG_SHARE:
        yield "ep_share", "ep_trim", sentence("board.much_ep_low_ep")
    if seen.shield_used > NEAR_SHIELD:
        out = sentence("board.stick_out_takes_what", shield_used=seen.shield_used)
        yield "cup_number", "stick_out_mm", out
    if seen.reynolds > NEAR_TURBULENT:
        flow = sentence("board.reynolds_number_flow_near", reynolds=seen.reynolds)
        yield "cup_number", "flow_l_min", flow
    if seen.filler_heat_share > NEAR_CHILL:
        rod = sentence("board.filler_rod_takes_heat", filler_heat_share=seen.filler_heat_share)
        yield "travel_mm_s", "filler_mm", rod
