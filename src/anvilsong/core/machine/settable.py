"""Whether a machine can be set to a change."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

import numpy as np

from anvilsong.core.arc.waveform import Numbers, Wave
from anvilsong.core.machine.model import Control, Machine
from anvilsong.core.machine.panel import show_on_panel
from anvilsong.core.machine.panel_reading import within_machine
from anvilsong.core.machine.scales import amps_on_basis, past_end
from anvilsong.core.registry import SETTINGS, get_value
from anvilsong.core.settings import Settings

NEAR = 1e-6


def cannot_set(before: Settings, after: Settings, machine: Machine) -> list[str]:
    """The settings, by key, that a change moves to where this machine cannot stand: past its amps or its
    ranges, past the end of a control, or on a control that it does not have.

    What is switched off can always be switched off. One shape for both halves moves both.
    """
    moved = [
        entry for entry in SETTINGS if _differs(get_value(before, entry.key), get_value(after, entry.key))
    ]
    if not moved:
        return []
    inside = within_machine(after, machine)
    clipped = {line.setting for line in show_on_panel(after, machine).lines if line.clipped}
    return [
        entry.key
        for entry in moved
        if get_value(after, entry.key) is not None
        and (
            not _has(entry.key, after, machine)
            or entry.key in clipped
            or _past(entry.key, after, inside, machine)
        )
    ]


def least_run_a(wave: Wave, machine: Machine) -> float:
    """The fewest amps, A, at which a wave stands on a machine: under a pulse its base has to."""
    base = float(wave.pulse[2]) if wave.pulse else 1.0
    return machine.least_a / (base or 1.0)


def past_controls(wave: Wave, keys: Iterable[str], machine: Machine) -> Numbers:
    """Over 1 where a control of the panel ends before what is asked of it. What does not move is not asked.

    ``wave`` has the machine's amps; its members are numbers or arrays.
    """
    most: Numbers = 0.0
    asks = {key: _ASKED_OF[key] for key in keys if key in _ASKED_OF}
    for control in machine.controls:
        if not any(control.setting in asked for asked in asks.values()):
            continue
        figure, ends = np.asarray(_figure(wave, control)), [meaning for _, meaning in control.scale.points]
        slack = past_end(control.scale) if not control.scale.is_fixed else NEAR
        over = np.maximum(min(ends) - figure, figure - max(ends)) - slack
        most = np.maximum(most, 1 + over / max(1e-3, *(abs(end) for end in ends)))
    return most


# Controls whose figure a setting moves.
_ASKED_OF = {
    "amps_run": ("amps_set", "ep_trim"),
    "ep_share": ("ep_share",),
    "frequency_hz": ("frequency_hz",),
    "ep_trim": ("ep_trim", "amps_set"),
}


def _figure(wave: Wave, control: Control) -> Numbers:
    """What a control's scale speaks of, as ``scales.figure_on_panel`` has it."""
    match control.setting, control.basis:
        case "amps_set", basis:
            return amps_on_basis(wave, basis)
        case "ep_trim", "ep_amps":
            return wave.ep_amps
        case "ep_trim", _:
            return wave.ep_trim
        case "ep_share", _:
            return wave.ep_share
    return wave.frequency_hz


def _has(key: str, after: Settings, machine: Machine) -> bool:
    follows = key == "shape_ep" and after.shape_ep == after.shape_en
    value = get_value(after, key)
    none = isinstance(value, float) and abs(value) < NEAR
    return follows or machine.sets(key) or none


def _past(key: str, after: Settings, inside: Settings, machine: Machine) -> bool:
    value = get_value(after, key)
    if key in ("amps_run", "amps_set"):
        return not machine.least_a - NEAR <= value <= machine.most_a + NEAR
    if key == "pulse_rate_hz" and value > machine.most_pulse_hz + NEAR:
        return True
    within = get_value(inside, key)
    return _differs(value, within)


def _differs(one: Any, other: Any) -> bool:
    both = isinstance(one, float) and isinstance(other, float)
    return bool(abs(one - other) > NEAR if both else one != other)
