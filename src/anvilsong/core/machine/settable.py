"""Whether a machine can be set to a change."""

from __future__ import annotations

from anvilsong.core.machine.model import Machine
from anvilsong.core.machine.panel import show_on_panel
from anvilsong.core.machine.panel_reading import within_machine
from anvilsong.core.registry import SETTINGS, get_value
from anvilsong.core.settings import Settings

NEAR = 1e-6


def cannot_set(before: Settings, after: Settings, machine: Machine) -> list[str]:
    """The settings, by key, that a change moves to where this machine cannot stand: past its amps or its
    ranges, past the end of a control, or on a control that it does not have.

    What is switched off can always be switched off. One shape for both halves moves both.
    """
    moved = [entry for entry in SETTINGS if get_value(before, entry.key) != get_value(after, entry.key)]
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


def _has(key: str, after: Settings, machine: Machine) -> bool:
    follows = key == "shape_ep" and after.shape_ep == after.shape_en
    return follows or machine.sets(key) or get_value(after, key) == 0


def _past(key: str, after: Settings, inside: Settings, machine: Machine) -> bool:
    value = get_value(after, key)
    if key in ("amps_run", "amps_set"):
        return not machine.least_a - NEAR <= value <= machine.most_a + NEAR
    if key == "pulse_rate_hz" and value > machine.most_pulse_hz + NEAR:
        return True
    within = get_value(inside, key)
    both = isinstance(value, float) and isinstance(within, float)
    return bool(abs(value - within) > NEAR if both else value != within)
