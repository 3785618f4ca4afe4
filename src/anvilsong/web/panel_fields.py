"""A panel's figures as people type them: digits, clock hours, or a place among names."""

from __future__ import annotations

from collections.abc import Mapping

from anvilsong.core.errors import BadInput
from anvilsong.core.flow import ENDS
from anvilsong.core.machine import Control, Machine
from anvilsong.core.registry import BY_KEY
from anvilsong.core.words import sentence
from anvilsong.web.scale_text import clock_place, clock_words

FLOWING = ("amps_set", "ep_trim", "ep_share", "frequency_hz", "shape_en", "shape_ep", *ENDS)


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


def flowing_controls(machine: Machine) -> list[Control]:
    """The controls of which a trace or a sound can tell something, and that have more than one place."""
    return [
        control
        for control in machine.controls
        if (control.setting in FLOWING or BY_KEY[control.setting].group) and len(control.scale.points) > 1
    ]


def typed_panel(form: Mapping[str, str], machine: Machine) -> dict[str, float]:
    """What a form says that those controls showed, in the panel's own figures.

    Raises
    ------
    BadInput : a figure that this panel cannot show; the field is the control's setting
    """
    asked = {control.setting: form.get(control.setting, "") for control in flowing_controls(machine)}
    try:
        return panel_values(asked, machine)
    except BadInput as trouble:
        fields = {control.label: control.setting for control in machine.controls}
        problem = trouble.problems[0]
        raise BadInput.one(fields.get(problem.field, problem.field), problem.given, problem.allowed) from None


def panel_texts(panel: Mapping[str, float], machine: Machine) -> dict[str, str]:
    """What a panel showed, as it is typed: to be read back by `typed_panel`."""
    shown = {}
    for control in machine.controls:
        value = panel.get(control.setting)
        if value is not None:
            scale = control.scale
            place = clock_words(value) if scale.shown_as == "clock" else f"{value:.{scale.decimals}f}"
            shown[control.setting] = scale.names[round(value) % len(scale.names)] if scale.names else place
    return shown
