"""The panel editor's form: limits and a table of controls to a machine's data, and back."""

from __future__ import annotations

import math
import re
from typing import Any

from anvilsong.core.arc.waveform import SHAPES
from anvilsong.core.complaints import validated
from anvilsong.core.errors import BadInput, Problem
from anvilsong.core.machine import BASES, BASIS_WORDS, Control, Machine, Scale
from anvilsong.core.registry import BY_KEY, PANEL

ROWS = 24
# How a quantity is shown, in the owner's words, and what that means for the scale.
KINDS: dict[str, str] = {
    "digits": "digits, the value itself",
    "percent": "percent",
    "reversed": "percent of the other half",
    "signed": "signed scale",
    "clock": "knob, read as a clock",
    "travel": "knob, per cent of its travel",
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
SHARES = ("least_ep_share", "most_ep_share", "least_trim", "most_trim", "torch_duty")
SWITCHES = ("can_trim", "can_pulse", "can_mix", "water_cooled", "can_name_memory", "automatic")
_PLAIN = re.compile(r"^[+-]?(\d{1,9}(\.\d{0,9})?|\.\d{1,9})$", re.ASCII)
_SHAPE_BY_WORD: dict[str, float] = {name: float(place) for place, name in enumerate(SHAPES)}


def factor_of(setting: str, basis: str) -> float:
    """Shares are typed in per cent."""
    entry = BY_KEY[setting]
    in_percent = entry.dimension == "share" and basis not in ("ep_amps", "amps")
    return 0.01 if in_percent or basis == "share_of_set" else 1.0


def machine_from_form(form: dict[str, str]) -> Machine:
    """The machine that was typed.

    Raises
    ------
    BadInput : one problem a field; a control's fields are named by its row, such as ``control 2, meaning``
    """
    given: dict[str, Any] = {"name": form.get("name", "").strip(), "note": form.get("note", "").strip()}
    problems: list[Problem] = []

    def number(field: str, factor: float = 1.0) -> float | None:
        typed = form.get(field, "").strip()
        try:
            return round(plain_number(typed, field) * factor, 6) if typed else None
        except BadInput as trouble:
            problems.extend(trouble.problems)
            return None

    for field in NUMBERS:
        if (value := number(field)) is not None:
            given[field] = round(value) if field == "memory_slots" else value
    for field in SHARES:
        if (value := number(field, 0.01)) is not None:
            given[field] = value
    given |= {field: field in form for field in SWITCHES}
    duty = {
        "amps": number("duty_amps") or given.get("most_a", 400),
        "share": number("duty_share", 0.01) or 1.0,
    }
    given["duty"] = duty
    given["shapes"] = [shape for shape in SHAPES if f"shape_{shape}" in form] or ["square"]
    given["triggers"] = [
        name
        for name in ("pedal", "switch_2", "switch_4", "switch_4_two_levels", "spot")
        if f"trigger_{name}" in form
    ] or ["pedal"]
    controls = []
    for row in range(ROWS):
        if not form.get(f"c{row}_setting"):
            continue
        try:
            controls.append(_control(form, row))
        except BadInput as trouble:
            problems.extend(trouble.problems)
    if problems:
        raise BadInput(*problems)
    return validated(Machine, given | {"controls": controls})


def _control(form: dict[str, str], row: int) -> dict[str, Any]:
    setting, kind, basis = (
        form[f"c{row}_setting"],
        form.get(f"c{row}_kind", "digits"),
        form.get(f"c{row}_basis", "value") or "value",
    )
    label = form.get(f"c{row}_label", "").strip()
    where = f"control {row + 1}"
    if setting not in BY_KEY:
        raise BadInput.one(f"{where}, quantity", setting, "choose one of the list")
    factor = factor_of(setting, basis)
    text = form.get(f"c{row}_meaning", "").strip()
    step = plain_number(form.get(f"c{row}_step", "") or "1", f"{where}, step")
    scale: dict[str, Any] = {
        "step": step,
        "unit": form.get(f"c{row}_unit", "").strip(),
        "decimals": _decimals(step),
    }
    if kind == "names":
        pairs = [part.partition("=") for part in re.split(r"[;,]", text) if part.strip()]
        shapes = [meaning.strip().lower() or name.strip().lower() for name, _, meaning in pairs]
        unknown = [shape for shape in shapes if shape not in _SHAPE_BY_WORD]
        if not pairs or unknown:
            raise BadInput.one(
                f"{where}, meaning", text, f"name the places as Word = shape, shapes are {', '.join(SHAPES)}"
            )
        ordered = sorted(range(len(pairs)), key=lambda place: _SHAPE_BY_WORD[shapes[place]])
        scale |= {
            "shown_as": "names",
            "names": [pairs[place][0].strip() for place in ordered],
            "points": [[float(at), _SHAPE_BY_WORD[shapes[place]]] for at, place in enumerate(ordered)],
        }
    else:
        points = _points(text, f"{where}, meaning")
        scale["points"] = [[panel, round(meaning * factor, 6)] for panel, meaning in points]
        scale["shown_as"] = {"clock": "clock", "travel": "percent"}.get(kind, "digits")
        scale["signed"] = kind == "signed"
    control = {"setting": setting, "label": label, "basis": basis, "scale": scale}
    try:
        validated(Control, control)
    except BadInput as trouble:
        raise BadInput(
            *(
                Problem(
                    f"{where}, {problem.field.removeprefix('scale.') or 'meaning'}",
                    problem.given,
                    problem.allowed,
                )
                for problem in trouble.problems
            )
        ) from None
    return control


def plain_number(text: str, field: str) -> float:
    """A finite number with or without its unit (A, Hz, %, s, ms).

    Raises
    ------
    BadInput : anything else, also what is too large for any panel
    """
    bare = text.replace("−", "-").replace(",", ".").strip().rstrip("%AHzms ")
    if not _PLAIN.match(bare):
        raise BadInput.one(field, text, "type a number")
    return float(bare)


def clock_place(text: str, field: str) -> float:
    """``7:30`` is 7.5; a plain number stays; per cent signs fall away."""
    hours, colon, minutes = text.partition(":")
    return plain_number(hours, field) + (plain_number(minutes, field) / 60 if colon and minutes else 0)


def _points(text: str, field: str) -> list[tuple[float, float]]:
    """``15 = 15, 50 = 50``: panel value = what it means, from one end to the other; one alone is fixed."""
    points = []
    for part in re.split(r"[;,](?!\d*=)", text.replace("−", "-")):
        if not part.strip():
            continue
        panel, equals, meaning = part.partition("=")
        points.append((clock_place(panel, field), plain_number(meaning if equals else panel, field)))
    if not points:
        raise BadInput.one(field, text, "write what the ends mean, such as 15 = 15, 50 = 50")
    # A clock that runs past twelve goes on counting.
    clocked = [points[0]]
    for panel, meaning in points[1:]:
        if panel < clocked[-1][0] and ":" in text:
            panel += 12 * math.ceil((clocked[-1][0] - panel) / 12)
        clocked.append((panel, meaning))
    return clocked


def _decimals(step: float) -> int:
    return (
        0 if step >= 1 and step == int(step) else 1 if round(step * 10, 6) == int(round(step * 10, 6)) else 2
    )


def form_from_machine(machine: Machine) -> dict[str, str]:
    """A machine as its form shows it."""
    form = {
        "name": machine.name,
        "note": machine.note,
        "duty_amps": f"{machine.duty.amps:g}",
        "duty_share": f"{machine.duty.share * 100:g}",
    }
    form |= {field: f"{getattr(machine, field):g}" for field in NUMBERS}
    form |= {field: f"{getattr(machine, field) * 100:g}" for field in SHARES}
    form |= {field: "on" for field in SWITCHES if getattr(machine, field)}
    form |= {f"shape_{shape}": "on" for shape in machine.shapes} | {
        f"trigger_{name}": "on" for name in machine.triggers
    }
    for row, control in enumerate(machine.controls):
        scale = control.scale
        factor = factor_of(control.setting, control.basis)
        form |= {
            f"c{row}_setting": control.setting,
            f"c{row}_label": control.label,
            f"c{row}_basis": control.basis,
            f"c{row}_step": f"{scale.step:g}",
            f"c{row}_unit": scale.unit,
            f"c{row}_kind": _kind(scale),
        }
        if scale.names:
            form[f"c{row}_meaning"] = ", ".join(
                f"{scale.names[int(panel)]} = {SHAPES[int(meaning)]}" for panel, meaning in scale.points
            )
        else:
            form[f"c{row}_meaning"] = ", ".join(
                f"{_shown_place(scale, panel)} = {meaning / factor:.6g}" for panel, meaning in scale.points
            )
    return form


def _shown_place(scale: Scale, value: float) -> str:
    return clock_words(value) if scale.shown_as == "clock" else f"{value:g}"


def clock_words(value: float) -> str:
    """7.5 is 7:30."""
    hours, minutes = divmod(round(value * 60), 60)
    return f"{hours}:{minutes:02d}"


def _kind(scale: Scale) -> str:
    if scale.names:
        return "names"
    if scale.is_fixed:
        return "fixed"
    if scale.shown_as in ("clock", "percent"):
        return "clock" if scale.shown_as == "clock" else "travel"
    if scale.signed:
        return "signed"
    return "reversed" if scale.points[0][1] > scale.points[-1][1] else "digits"


QUANTITIES = [(entry.key, entry.words) for entry in PANEL]
BASIS_CHOICES = {key: [(basis, BASIS_WORDS[basis]) for basis in bases] for key, bases in BASES.items()}
