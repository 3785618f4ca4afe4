"""The table of what a panel proposes, as a form and back."""

from __future__ import annotations

from typing import Any

from anvilsong.core.complaints import validated
from anvilsong.core.errors import BadInput, Problem
from anvilsong.core.machine import Control, Machine, shown_text
from anvilsong.core.quantities import parse
from anvilsong.core.registry import BY_KEY
from anvilsong.core.shown import to_shown
from anvilsong.core.torch.tungsten import find_size
from anvilsong.core.trials import MOST_PROPOSALS, Proposal, Proposals
from anvilsong.core.units import Dimension, UnitSystem
from anvilsong.core.words import sentence
from anvilsong.web.panel_fields import panel_values

BESIDE_DIMENSIONS: dict[str, Dimension] = {
    "thickness_mm": "length", "tungsten_mm": "length", "cup": "number", "flow_l_min": "flow",
    "rod_mm": "length", "travel_mm_s": "speed",
}  # fmt: skip
DIGITS = 4  # behind the point of what is read, so that a table typed in one unit system stays in the other


def columns(machine: Machine) -> list[Control]:
    """The controls that can be turned, without pulse and mix, which no such table has."""
    return [
        control
        for control in machine.controls
        if not control.scale.is_fixed and BY_KEY[control.setting].group is None
    ]


def form_of(table: Proposals, machine: Machine, system: UnitSystem) -> dict[str, str]:
    """The table as its fields show it."""
    form: dict[str, str] = {}
    for number, row in enumerate(table.rows, 1):
        start = f"r{number}_"
        form |= {f"{start}joint": row.joint or "", f"{start}position": row.position or ""}
        for name, dimension in BESIDE_DIMENSIONS.items():
            value = getattr(row, name)
            if value is not None:
                form[start + name] = f"{to_shown(value, dimension, system):.5g}"
        for control in columns(machine):
            if control.setting in row.panel:
                form[start + control.setting] = shown_text(control.scale, row.panel[control.setting])
    return form


def table_of(form: dict[str, str], machine: Machine, system: UnitSystem) -> Proposals:
    """The rows that say something.

    Raises
    ------
    BadInput : a figure that cannot be read, or half a row; the field is that of its cell
    """
    rows, problems = [], list[Problem]()
    for number in range(1, MOST_PROPOSALS + 1):
        start = f"r{number}_"
        typed = {name[len(start) :]: text.strip() for name, text in form.items() if name.startswith(start)}
        if not any(text for name, text in typed.items() if name not in ("joint", "position")):
            continue
        try:
            rows.append(_row_of(typed, machine, system))
        except BadInput as trouble:
            problems += [_in_row(problem, start, machine) for problem in trouble.problems]
    if problems:
        raise BadInput(*problems)
    return validated(Proposals, {"rows": [row.model_dump() for row in rows]})


def _row_of(typed: dict[str, str], machine: Machine, system: UnitSystem) -> Proposal:
    if not typed.get("thickness_mm"):
        raise BadInput.one("thickness_mm", "", sentence("web.proposal_wants_thickness"))
    given: dict[str, Any] = {
        name: round(parse(typed[name], dimension, name, system), DIGITS)
        for name, dimension in BESIDE_DIMENSIONS.items()
        if typed.get(name) and name != "cup"
    }
    if "tungsten_mm" in given:  # 3/32 is the size that is sold as 2.4 mm
        given["tungsten_mm"] = find_size(given["tungsten_mm"]).diameter_mm
    given["cup"] = typed.get("cup") or None
    given |= {name: typed.get(name) or None for name in ("joint", "position")}
    return validated(Proposal, given | {"panel": panel_values(typed, machine)})


def _in_row(problem: Problem, start: str, machine: Machine) -> Problem:
    """The complaint under the name of its cell."""
    keys = {control.label: control.setting for control in machine.controls} | {"panel": "thickness_mm"}
    name = keys.get(problem.field, problem.field.partition(".")[0])
    return Problem(start + name, problem.given, problem.allowed)
