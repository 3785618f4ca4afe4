"""Lanes that fight just now, and over what."""

from __future__ import annotations

from collections.abc import Iterator

from pydantic import BaseModel, ConfigDict

from anvilsong.core.arc.sampling import ac_cycles_in_shorter_phase
from anvilsong.core.machine import Machine
from anvilsong.core.model import Consequences
from anvilsong.core.quantities import percent
from anvilsong.core.settings import Settings
from anvilsong.core.torch.tungsten import LOAD_AT_RUN, LOAD_AT_SET

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
    words: str


def ties(settings: Settings, seen: Consequences, machine: Machine) -> list[Tie]:
    """Every pair of lanes that is in conflict or near it, in words."""
    return [
        Tie(a=a, b=b, words=words)
        for a, b, words in (*_of_wave(settings, seen, machine), *_of_run_and_torch(settings, seen))
    ]


def _of_wave(settings: Settings, seen: Consequences, machine: Machine) -> Iterator[tuple[str, str, str]]:
    load, at_full = seen.tungsten_load, seen.tungsten_load_set
    if max(load / LOAD_AT_RUN, at_full / LOAD_AT_SET) > NEAR_LOAD:
        heats = f"EP heats the tungsten: {percent(load)} while welding, "
        yield "ep_share", "tungsten_mm", f"{heats}{percent(at_full)} with the pedal fully down."
    if seen.shortest_half_ms < NEAR_HALF * machine.least_half_ms:
        half = f"The shorter half lasts {seen.shortest_half_ms:.2f} ms; this machine needs "
        yield "ep_share", "frequency_hz", f"{half}{machine.least_half_ms:g} ms."
    cycles = float(ac_cycles_in_shorter_phase(settings.wave()))
    if cycles < LEAST_CYCLES:
        fit = f"Only {cycles:.1f} AC cycles fit the pulse's shorter phase: pulse and AC interfere. "
        yield "pulse_rate_hz", "frequency_hz", f"{fit}Two are wanted."


def _of_run_and_torch(settings: Settings, seen: Consequences) -> Iterator[tuple[str, str, str]]:
    if seen.duty_used > NEAR_DUTY:
        run = (
            f"The run takes {percent(seen.duty_used)} of the duty this machine has with the pedal fully down."
        )
        yield "amps_set", "travel_mm_s", run
    if settings.ep_trim < DEEP_TRIM and settings.ep_share > LONG_SHARE:
        yield "ep_share", "ep_trim", "Much EP at a low EP amplitude: the two undo one another."
    if seen.shield_used > NEAR_SHIELD:
        out = f"Stick-out takes {percent(seen.shield_used)} of what this cup covers."
        yield "cup_number", "stick_out_mm", out
    if seen.reynolds > NEAR_TURBULENT:
        flow = f"Reynolds number {seen.reynolds:.0f}: this flow is near turbulent in this cup."
        yield "cup_number", "flow_l_min", flow
    if seen.filler_heat_share > NEAR_CHILL:
        rod = f"The filler rod takes {percent(seen.filler_heat_share)} of the heat at this speed."
        yield "travel_mm_s", "filler_mm", rod
