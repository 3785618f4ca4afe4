"""Machines: limits, panels and their translation, ranking figures, calibrating a knob."""

from anvilsong.core.machine.fit import Fit, Need, machine_fit, ranked
from anvilsong.core.machine.knob import Knob, KnobPoint, calibrate
from anvilsong.core.machine.lacking import by_hand, crater_end, not_on_panel
from anvilsong.core.machine.meanings import impossible
from anvilsong.core.machine.message import Understood, read_message
from anvilsong.core.machine.model import (
    BASES,
    BASIS_WORDS,
    IDEAL,
    TRIGGER_KEYS,
    TRIGGER_WORDS,
    Control,
    Duty,
    LowSupply,
    Machine,
    Scale,
    Start,
    TriggerControl,
    at_supply,
    with_torch,
)
from anvilsong.core.machine.panel import Panel, PanelLine, amps_on_panel, show_on_panel
from anvilsong.core.machine.panel_reading import on_panel, read_panel, within_machine
from anvilsong.core.machine.power import (
    DutyUse,
    SupplyUse,
    arc_energy_kj_mm,
    duty_use,
    heat_input_kj_mm,
    load_voltage_v,
    supply_use,
)
from anvilsong.core.machine.scales import (
    SHAPE_WORDS,
    amps_on_basis,
    figure_on_panel,
    shown_text,
    to_canonical,
    to_panel_value,
)
from anvilsong.core.machine.settable import cannot_set, least_run_a, past_controls

__all__ = [
    "BASES",
    "BASIS_WORDS",
    "IDEAL",
    "SHAPE_WORDS",
    "TRIGGER_KEYS",
    "TRIGGER_WORDS",
    "Control",
    "Duty",
    "DutyUse",
    "Fit",
    "Knob",
    "KnobPoint",
    "LowSupply",
    "Machine",
    "Need",
    "Panel",
    "PanelLine",
    "Scale",
    "Start",
    "SupplyUse",
    "TriggerControl",
    "Understood",
    "amps_on_basis",
    "amps_on_panel",
    "arc_energy_kj_mm",
    "at_supply",
    "by_hand",
    "calibrate",
    "cannot_set",
    "crater_end",
    "duty_use",
    "figure_on_panel",
    "heat_input_kj_mm",
    "impossible",
    "least_run_a",
    "load_voltage_v",
    "machine_fit",
    "not_on_panel",
    "on_panel",
    "past_controls",
    "ranked",
    "read_message",
    "read_panel",
    "show_on_panel",
    "shown_text",
    "supply_use",
    "to_canonical",
    "to_panel_value",
    "with_torch",
    "within_machine",
]
