"""The panel editor's form: limits and a table of controls to a machine's data, and back."""

from __future__ import annotations

from typing import Any

from anvilsong.core.arc.waveform import SHAPES
from anvilsong.core.complaints import validated
from anvilsong.core.errors import BadInput, Problem
from anvilsong.core.machine import (
    BASES,
    BASIS_WORDS,
    Control,
    Machine,
    impossible,
)
from anvilsong.core.registry import BY_KEY, PANEL
from anvilsong.core.said import Words
from anvilsong.core.words import sentence
from anvilsong.web.control_rows import (
    PERCENT,
    PLAIN,
    TRIGGER,
    TRIGGER_QUANTITIES,
    decimals_of,
    field_words,
    kind_of,
    shown_place,
    trigger_control,
    trigger_rows,
)
from anvilsong.web.scale_text import Counting, counting, named_places, plain_number, points_of

ROWS = 30
# How a quantity is shown, in the owner's words, and what that means for the scale.
KINDS: dict[str, Words] = {
    "digits": "digits, the value itself",
    "percent": "percent",
    "reversed": sentence("web.percent_other_half"),
    "signed": "signed scale",
    "clock": "knob, as a clock",
    "travel": sentence("web.knob_per_cent_travel"),
    "names": "named places",
    "fixed": "fixed",
}
NUMBERS = (
    "least_a",
    "most_a",
    "least_frequency_hz",
    "most_frequency_hz",
    "torch_amps",
    "least_half_ms",
    "memory_slots",
    "most_pulse_hz",
)
AMPLITUDE = counting("ep_trim", "value")
SHARES = {
    "least_ep_share": PERCENT,
    "most_ep_share": PERCENT,
    "least_trim": AMPLITUDE,
    "most_trim": AMPLITUDE,
    "torch_duty": PERCENT,
}
SWITCHES = ("can_trim", "can_pulse", "can_mix", "water_cooled", "can_name_memory", "automatic")


def machine_from_form(form: dict[str, str]) -> Machine:
    """The machine that was typed.

    Raises
    ------
    BadInput : one problem a field; a control's fields are named by its row, such as ``control 2, meaning``
    """
    given: dict[str, Any] = {"name": form.get("name", "").strip(), "note": form.get("note", "").strip()}
    problems: list[Problem] = []

    def number(field: str, count: Counting = PLAIN) -> float | None:
        typed = form.get(field, "").strip()
        try:
            return count.inside(plain_number(typed, field)) if typed else None
        except BadInput as trouble:
            problems.extend(trouble.problems)
            return None

    for field in NUMBERS:
        if (value := number(field)) is not None:
            given[field] = round(value) if field == "memory_slots" else value
    for field, count in SHARES.items():
        if (value := number(field, count)) is not None:
            given[field] = value
    given |= {field: field in form for field in SWITCHES}
    duty = {
        "amps": number("duty_amps") or given.get("most_a", 400),
        "share": number("duty_share", PERCENT) or 1.0,
    }
    given["duty"] = duty
    given["shapes"] = [shape for shape in SHAPES if f"shape_{shape}" in form] or ["square"]
    given["triggers"] = [
        name
        for name in ("pedal", "switch_2", "switch_4", "switch_4_two_levels", "spot")
        if f"trigger_{name}" in form
    ] or ["pedal"]
    given["start_mode"] = form.get("start_mode") or "high_frequency"
    if form.get("low_volts", "").strip():
        low = {name: number(f"low_{name}") for name in ("volts", "most_a", "duty_amps")}
        low_duty = {"amps": low["duty_amps"] or low["most_a"], "share": number("low_duty_share", PERCENT)}
        given["low_supply"] = {"volts": low["volts"], "most_a": low["most_a"], "duty": low_duty}
    controls, own = list[dict[str, Any]](), list[dict[str, Any]]()
    for row in range(ROWS):
        setting = form.get(f"c{row}_setting", "")
        if not setting:
            continue
        try:
            if setting.startswith(TRIGGER):
                own.append(trigger_control(form, row))
            else:
                controls.append(_control(form, row))
        except BadInput as trouble:
            problems.extend(trouble.problems)
    if problems:
        raise BadInput(*problems)
    return validated(Machine, given | {"controls": controls, "trigger_controls": own})


def _control(form: dict[str, str], row: int) -> dict[str, Any]:
    setting, kind, basis = (
        form[f"c{row}_setting"],
        form.get(f"c{row}_kind", "digits"),
        form.get(f"c{row}_basis", "value") or "value",
    )
    label = form.get(f"c{row}_label", "").strip()
    where = f"control {row + 1}"
    if setting not in BY_KEY:
        raise BadInput.one(f"{where}, quantity", setting, sentence("web.choose_one_list"))
    count = counting(setting, basis)
    text = form.get(f"c{row}_meaning", "").strip()
    step = plain_number(form.get(f"c{row}_step", "") or "1", f"{where}, step")
    scale: dict[str, Any] = {
        "step": step,
        "unit": form.get(f"c{row}_unit", "").strip(),
        "decimals": decimals_of(step),
    }
    if kind == "names":
        places = named_places(text, setting, count, f"{where}, meaning")
        scale |= {
            "shown_as": "names",
            "names": [name for name, _ in places],
            "points": [[float(at), meaning] for at, (_, meaning) in enumerate(places)],
            "step": 1.0,
            "decimals": 0,
            "unit": "",
        }
    else:
        points = points_of(text, f"{where}, meaning", kind == "clock")
        scale["points"] = [[panel, count.inside(meaning)] for panel, meaning in points]
        scale["shown_as"] = {"clock": "clock", "travel": "percent"}.get(kind, "digits")
        scale["signed"] = kind == "signed"
    control = {"setting": setting, "label": label, "basis": basis, "scale": scale}
    try:
        if said := impossible(validated(Control, control)):
            raise BadInput.one("scale.points", text, said)
    except BadInput as trouble:
        raise BadInput(
            *(
                Problem(f"{where}, {field_words(problem.field)}", problem.given, problem.allowed)
                for problem in trouble.problems
            )
        ) from None
    return control


def form_from_machine(machine: Machine) -> dict[str, str]:
    """A machine as its form shows it."""
    form = {
        "name": machine.name,
        "note": machine.note,
        "duty_amps": f"{machine.duty.amps:g}",
        "duty_share": f"{machine.duty.share * 100:g}",
    }
    form |= {field: f"{getattr(machine, field):g}" for field in NUMBERS}
    form |= {field: f"{count.figure(getattr(machine, field)):g}" for field, count in SHARES.items()}
    form |= {field: "on" for field in SWITCHES if getattr(machine, field)}
    form |= {f"shape_{shape}": "on" for shape in machine.shapes} | {
        f"trigger_{name}": "on" for name in machine.triggers
    }
    form["start_mode"] = machine.start_mode
    if machine.low_supply is not None:
        low = machine.low_supply
        form |= {"low_volts": f"{low.volts:g}", "low_most_a": f"{low.most_a:g}"}
        form |= {"low_duty_amps": f"{low.duty.amps:g}", "low_duty_share": f"{100 * low.duty.share:g}"}
    form |= trigger_rows(machine)
    for row, control in enumerate(machine.controls):
        scale = control.scale
        count = counting(control.setting, control.basis)
        form |= {
            f"c{row}_setting": control.setting,
            f"c{row}_label": control.label,
            f"c{row}_basis": control.basis,
            f"c{row}_step": f"{scale.step:g}",
            f"c{row}_unit": scale.unit,
            f"c{row}_kind": kind_of(scale),
        }
        if scale.names:
            form[f"c{row}_meaning"] = ", ".join(
                f"{scale.names[int(panel)]} = {_place_meaning(control, meaning, count)}"
                for panel, meaning in scale.points
            )
        else:
            form[f"c{row}_meaning"] = ", ".join(
                f"{shown_place(scale, panel)} = {count.figure(meaning):.6g}"
                for panel, meaning in scale.points
            )
    return form


def _place_meaning(control: Control, meaning: float, count: Counting) -> str:
    """What a named place means: a shape, or a number."""
    is_shape = BY_KEY[control.setting].dimension is None
    return SHAPES[int(meaning)] if is_shape else f"{count.figure(meaning):.6g}"


QUANTITIES: list[tuple[str, Words]] = [
    *((entry.key, entry.words) for entry in PANEL),
    *TRIGGER_QUANTITIES,
]
START_MODES: dict[str, Words] = {
    "high_frequency": "high frequency",
    "touch": "touch",
    "either": "either",
}
BASIS_CHOICES = {key: [(basis, BASIS_WORDS[basis]) for basis in bases] for key, bases in BASES.items()}
