"""Series that welders run again and again, made for a job and a machine."""

from __future__ import annotations

from typing import NamedTuple

from anvilsong.core.job import Job
from anvilsong.core.machine import Machine
from anvilsong.core.settings import Settings
from anvilsong.core.trials.series import Axis, Kept, SteppedKey

BALANCE_STEP = 0.10
AMPLITUDES = (0.0, -0.1, -0.2, -0.3)
FREQUENCIES_HZ = (60.0, 90.0, 130.0, 190.0)
PULSES_HZ = (1.0, 2.0, 10.0, 50.0)
MIX_SHARES, MIX_CYCLES_S, MIX_LEVELS = (0.8, 0.6, 0.4), (0.1, 0.4, 0.8), (0.5, 0.65, 0.8)
MOST_WAVES = 4


class ReadyMade(NamedTuple):
    """A series by name: what is stepped, what is kept."""

    key: str
    title: str
    axes: tuple[Axis, ...]
    kept: Kept


def ready_made(job: Job, settings: Settings, machine: Machine) -> list[ReadyMade]:
    """The ready-made series that this machine can be set to, around these settings."""
    made = [
        ReadyMade("balance", "Three balances", _axis("ep_share", _balances(settings, machine)), "heat"),
        ReadyMade("waves", "Waveforms at equal amps", _axis("shape_en", machine.shapes[:MOST_WAVES]), "amps"),
        ReadyMade("amplitude", "EP amplitudes", _axis("ep_trim", _amplitudes(machine)), "heat"),
        ReadyMade("frequency", "AC frequencies", _axis("frequency_hz", _frequencies(machine)), "heat"),
    ]
    if machine.can_pulse and settings.mix is None:
        rates = tuple(rate for rate in PULSES_HZ if rate <= machine.most_pulse_hz)
        made.append(ReadyMade("pulse", "Pulses per second", _axis("pulse_rate_hz", rates), "heat"))
    if machine.can_mix and settings.pulse is None:
        made += [
            ReadyMade("mix_share", "Mix: part of AC", _axis("mix_ac_share", MIX_SHARES), "heat"),
            ReadyMade("mix_cycle", "Mix: cycle", _axis("mix_cycle_s", MIX_CYCLES_S), "heat"),
            ReadyMade("mix_level", "Mix: level of DC", _axis("mix_dc_level", MIX_LEVELS), "heat"),
        ]
    return [one for one in made if one.axes and _may_be_set(one, machine)]


def _axis(key: SteppedKey, values: tuple[float | str, ...]) -> tuple[Axis, ...]:
    """The axis; none where there are not two values to step through."""
    return (Axis(key=key, values=values),) if len(values) > 1 else ()


def _may_be_set(one: ReadyMade, machine: Machine) -> bool:
    return all(axis.key == "shape_en" or machine.sets(axis.key) for axis in one.axes)


def _balances(settings: Settings, machine: Machine) -> tuple[float, ...]:
    """Three balances round the plan's, shifted as a whole where the machine ends."""
    low, high = machine.least_ep_share, machine.most_ep_share
    step = min(BALANCE_STEP, (high - low) / 2)
    if step <= 0:
        return ()
    middle = min(max(settings.ep_share, low + step), high - step)
    return tuple(round(middle + side * step, 4) for side in (-1, 0, 1))


def _amplitudes(machine: Machine) -> tuple[float, ...]:
    if not machine.can_trim:
        return ()
    return tuple(trim for trim in AMPLITUDES if machine.least_trim <= trim <= machine.most_trim)


def _frequencies(machine: Machine) -> tuple[float, ...]:
    low, high = machine.least_frequency_hz, machine.most_frequency_hz
    return tuple(hz for hz in FREQUENCIES_HZ if low <= hz <= high)
