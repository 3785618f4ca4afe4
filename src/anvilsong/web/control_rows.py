"""Rows of the panel editor: how a scale is written in one, and the rows of trigger and pedal."""

from __future__ import annotations

from typing import Any

from anvilsong.core.complaints import validated
from anvilsong.core.errors import BadInput, Problem
from anvilsong.core.machine import TRIGGER_KEYS, Machine, Scale, TriggerControl
from anvilsong.core.said import Words
from anvilsong.core.words import sentence
from anvilsong.web.scale_text import Counting, clock_words, plain_number, points_of

TRIGGER = "trigger:"  # before the name of a control of trigger or pedal, among the quantities
TRIGGER_QUANTITIES: list[tuple[str, Words]] = [(TRIGGER + key, words) for key, words in TRIGGER_KEYS.items()]
PLAIN, PERCENT = Counting(), Counting(0.01)


def field_words(field: str) -> str:
    """A field of a control as the form calls it."""
    return field.removeprefix("scale.").replace("points", "meaning") or "meaning"


def decimals_of(step: float) -> int:
    return (
        0 if step >= 1 and step == int(step) else 1 if round(step * 10, 6) == int(round(step * 10, 6)) else 2
    )


def shown_place(scale: Scale, value: float) -> str:
    return clock_words(value) if scale.shown_as == "clock" else f"{value:g}"


def kind_of(scale: Scale) -> str:
    if scale.names:
        return "names"
    if scale.is_fixed:
        return "fixed"
    if scale.shown_as in ("clock", "percent"):
        return "clock" if scale.shown_as == "clock" else "travel"
    if scale.signed:
        return "signed"
    return "reversed" if scale.points[0][1] > scale.points[-1][1] else "digits"


def trigger_control(form: dict[str, str], row: int) -> dict[str, Any]:
    """A control of trigger or pedal, from its row."""
    what, where = form[f"c{row}_setting"].removeprefix(TRIGGER), f"control {row + 1}"
    if what not in TRIGGER_KEYS:
        raise BadInput.one(f"{where}, quantity", what, sentence("web.choose_one_list"))
    kind, step = form.get(f"c{row}_kind", "digits"), plain_number(form.get(f"c{row}_step", "") or "1", where)
    basis = "share_of_set" if form.get(f"c{row}_basis") == "share_of_set" else "value"
    count = _trigger_counting(what, basis)
    points = points_of(form.get(f"c{row}_meaning", "").strip(), f"{where}, meaning", kind == "clock")
    scale = {
        "points": [[panel, count.inside(meaning)] for panel, meaning in points],
        "step": step,
        "decimals": decimals_of(step),
        "unit": form.get(f"c{row}_unit", "").strip(),
        "shown_as": {"clock": "clock", "travel": "percent"}.get(kind, "digits"),
    }
    given = {"what": what, "label": form.get(f"c{row}_label", "").strip(), "scale": scale, "basis": basis}
    try:
        return validated(TriggerControl, given).model_dump()
    except BadInput as trouble:
        named = [Problem(f"{where}, {field_words(p.field)}", p.given, p.allowed) for p in trouble.problems]
        raise BadInput(*named) from None


def _trigger_counting(what: str, basis: str) -> Counting:
    """A pedal's knob counts in per cent of the machine's most amps, a level's share in per cent of the main
    ones.
    """
    return PERCENT if what == "limit_knob" or basis == "share_of_set" else PLAIN


def trigger_rows(machine: Machine) -> dict[str, str]:
    """The rows of trigger and pedal of a machine, after those of its panel."""
    form: dict[str, str] = {}
    for row, one in enumerate(machine.trigger_controls, len(machine.controls)):
        count = _trigger_counting(one.what, one.basis)
        places = (
            f"{shown_place(one.scale, at)} = {count.figure(meaning):.6g}" for at, meaning in one.scale.points
        )
        form |= {
            f"c{row}_setting": TRIGGER + one.what,
            f"c{row}_label": one.label,
            f"c{row}_basis": one.basis,
            f"c{row}_step": f"{one.scale.step:g}",
            f"c{row}_unit": one.scale.unit,
            f"c{row}_kind": kind_of(one.scale),
            f"c{row}_meaning": ", ".join(places),
        }
    return form
