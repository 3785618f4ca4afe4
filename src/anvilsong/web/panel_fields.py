"""A panel's figures as people type them: digits, clock hours, or a place among names."""

from __future__ import annotations

from collections.abc import Mapping

from anvilsong.core.errors import BadInput
from anvilsong.core.machine import Machine
from anvilsong.core.words import sentence
from anvilsong.web.scale_text import clock_place


def panel_values(typed: Mapping[str, str], machine: Machine) -> dict[str, float]:
    """Panel value by setting, from text by setting; what is left empty is not in it.

    Raises
    ------
    BadInput : a figure that this panel cannot show; the field is the control's label
    """
    values: dict[str, float] = {}
    for control in machine.controls:
        text = typed.get(control.setting, "").strip()
        if not text or text == "off":
            continue
        if control.scale.names:
            if text not in control.scale.names:
                raise BadInput.one(control.label, text, f"it has {', '.join(control.scale.names)}")
            values[control.setting] = float(control.scale.names.index(text))
            continue
        value = clock_place(text.replace(" o’clock", "").replace("+", ""), control.label)
        low, high = control.scale.points[0][0], control.scale.points[-1][0]
        if control.scale.shown_as == "clock" and value < low - 1e-9:
            value += 12
        if not low - 1e-9 <= value <= high + 1e-9:
            raise BadInput.one(
                control.label,
                text,
                sentence(
                    "web.runs_from",
                    name=machine.name,
                    low=low,
                    high=high,
                    unit=f" {control.scale.unit}".rstrip(),
                ),
            )
        values[control.setting] = value
    return values
