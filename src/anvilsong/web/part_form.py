"""The form of a part: rows of shapes, runs and marks to a drawing, and back."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from anvilsong.core.complaints import validated
from anvilsong.core.errors import BadInput, Problem
from anvilsong.core.units import MM_PER_INCH, UnitSystem
from anvilsong.core.warming import Mark, PartDrawing, Run, Shape
from anvilsong.web.forms import field_of, form_of, given_from

KINDS: dict[str, tuple[str, type[Shape] | type[Run] | type[Mark]]] = {
    "shapes": ("s", Shape),
    "runs": ("r", Run),
    "marks": ("m", Mark),
}
WHOLE = ("thickness_mm", "start_c", "start", "cell_mm")
MOST_ROWS = 80
_UNIT: dict[UnitSystem, tuple[float, int]] = {"mm": (1.0, 3), "inch": (MM_PER_INCH, 5)}


def part_from_form(form: Mapping[str, str], system: UnitSystem) -> PartDrawing:
    """The drawing that a form gives.

    Raises
    ------
    BadInput : each problem's field is the form's own, such as ``s0_width_mm``
    """
    given: dict[str, Any] = {name: text for name in WHOLE if (text := form.get(name, "").strip())}
    places: dict[str, list[int]] = {}
    for kind, (letter, model) in KINDS.items():
        rows, places[kind] = [], []
        for number in range(MOST_ROWS):
            row = given_from(model, form, f"{letter}{number}_")
            if not row:
                continue
            if kind == "shapes":
                row.pop("corners", None)
                if corners := form.get(f"{letter}{number}_corners", "").strip():
                    row["corners"] = _corners(corners, f"{letter}{number}_corners", system)
            rows.append(row)
            places[kind].append(number)
        given[kind] = rows
    try:
        return validated(PartDrawing, given, system)
    except BadInput as trouble:
        raise BadInput(*(_named(problem, places) for problem in trouble.problems)) from None


def _named(problem: Problem, places: dict[str, list[int]]) -> Problem:
    """The form's name of a field such as ``shapes.0.width_mm``."""
    kind, *rest = problem.field.split(".")
    if kind in KINDS and rest and rest[0].isdecimal() and int(rest[0]) < len(places[kind]):
        number = places[kind][int(rest[0])]
        return replace(problem, field="_".join([f"{KINDS[kind][0]}{number}", *rest[1:]]))
    return replace(problem, field=field_of(problem))


def form_of_part(part: PartDrawing, system: UnitSystem) -> dict[str, str]:
    """A drawing as its form shows it."""
    whole = form_of(part, system)
    form = {name: whole.get(name, "") for name in WHOLE}
    for kind, (letter, _) in KINDS.items():
        for number, row in enumerate(getattr(part, kind)):
            form |= form_of(row, system, f"{letter}{number}_")
            if kind == "shapes":
                form[f"{letter}{number}_corners"] = corners_text(row.corners, system)
    return form


def rows_of(form: Mapping[str, str]) -> dict[str, list[int]]:
    """The numbers of the rows that a form has, by kind."""
    found: dict[str, list[int]] = {}
    for kind, (letter, _) in KINDS.items():
        heads = {name.split("_")[0] for name in form}
        found[kind] = [number for number in range(MOST_ROWS) if f"{letter}{number}" in heads]
    return found


def corners_text(corners: Sequence[tuple[float, float]], system: UnitSystem) -> str:
    """Corners as the form shows them, in the reader's units."""
    unit, digits = _UNIT[system]
    return " ".join(f"{round(x / unit, digits):g},{round(y / unit, digits):g}" for x, y in corners)


def _corners(text: str, field: str, system: UnitSystem) -> list[list[float]]:
    """Corners as ``0,0 60,0 60,20``, in the reader's units."""
    unit, _ = _UNIT[system]
    try:
        return [[float(each) * unit for each in pair.split(",")] for pair in text.split()][:5000]
    except ValueError:
        raise BadInput.one(field, text[:40], "pairs such as 0,0 60,0 60,20") from None
