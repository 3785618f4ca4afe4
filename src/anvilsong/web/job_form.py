"""The job form: plain form fields to a job's data and back, losing nothing that was typed."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, get_args

from anvilsong.core.errors import BadInput, Problem
from anvilsong.core.job import TYPED, Job, Purpose, School
from anvilsong.core.quantities import exact, parse
from anvilsong.core.units import UnitSystem

PURPOSES: tuple[str, ...] = get_args(Purpose)
SCHOOLS: dict[str, tuple[str, ...]] = {
    name: get_args(field.annotation) for name, field in School.model_fields.items()
}
PLAIN = (
    "joint",
    "position",
    "surface",
    "control",
    "machine",
    "kit",
    "filler_wanted",
    "penetration",
    "edge_prep",
    "corner",
    "temper",
)


def job_from_form(form: Mapping[str, Any], system: UnitSystem) -> dict[str, Any]:
    """Form fields to the data of a job. Empty fields are left out, so that defaults hold.

    Raises
    ------
    BadInput : for every length, temperature or speed that cannot be read, at once
    """
    given: dict[str, Any] = {}
    problems: list[Problem] = []
    for letter in ("a", "b"):
        alloy, thickness = (
            str(form.get(f"{letter}_alloy", "")).strip(),
            str(form.get(f"{letter}_thickness", "")).strip(),
        )
        if letter == "a" or alloy or thickness:
            # Side b with one field left empty takes that one from a.
            side: dict[str, Any] = {
                "alloy": alloy or str(form.get("a_alloy", "")).strip(),
                "thickness": _thickness(thickness or str(form.get("a_thickness", "")), system),
            }
            if diameter := _parsed(form, f"{letter}_diameter", system, 0.0):
                side["outside_diameter_mm"] = diameter
            given[letter] = side
    for name in PLAIN:
        if value := str(form.get(name, "")).strip():
            given[name] = value
    for name, dimension in TYPED.items():
        if typed := str(form.get(name, "")).strip():
            try:
                given[name] = round(parse(typed, dimension, name, system), 6)
            except BadInput as trouble:
                problems.extend(trouble.problems)
    given["purposes"] = [purpose for purpose in PURPOSES if form.get(f"purpose_{purpose}")]
    given["school"] = {name: str(form[f"school_{name}"]) for name in SCHOOLS if form.get(f"school_{name}")}
    if form.get("bevel_angle_deg"):
        given["bevel"] = {
            "angle_deg": form["bevel_angle_deg"],
            "root_face_mm": _parsed(form, "bevel_root_face_mm", system, 1.6),
        }
    width, length = (_parsed(form, f"part_{name}", system, 0.0) for name in ("width", "length"))
    if width or length:
        given["part"] = {"width_mm": width, "length_mm": length}
    if problems:
        raise BadInput(*problems)
    return given


def _thickness(typed: str, system: UnitSystem) -> str:
    """A bare decimal under the inch switch is inches; say so in what is kept."""
    bare = typed.strip()
    return (
        f"{bare} in"
        if system == "inch" and bare and all(letter in "0123456789.," for letter in bare)
        else bare
    )


def _parsed(form: Mapping[str, Any], name: str, system: UnitSystem, default: float) -> float:
    typed = str(form.get(name, "")).strip()
    return round(parse(typed, "length", name, system), 6) if typed else default


def form_from_job(job: Job, title: str, welder_id: int | None, system: UnitSystem) -> dict[str, str]:
    """A job's data as the form shows it."""
    form = {"title": title, "welder": str(welder_id or "")}
    for letter, side in (("a", job.a), ("b", job.b)):
        form[f"{letter}_alloy"] = side.alloy
        form[f"{letter}_thickness"] = (
            side.thickness if isinstance(side.thickness, str) else exact(side.thickness, "length", system)
        )
        form[f"{letter}_diameter"] = (
            exact(side.outside_diameter_mm, "length", system) if side.outside_diameter_mm else ""
        )
    for name in PLAIN:
        form[name] = str(getattr(job, name) or "")
    for name, dimension in TYPED.items():
        value = getattr(job, name)
        form[name] = "" if value is None else exact(value, dimension, system)
    if job.bevel:
        form["bevel_angle_deg"], form["bevel_root_face_mm"] = (
            f"{job.bevel.angle_deg:g}",
            exact(job.bevel.root_face_mm, "length", system),
        )
    if job.part:
        form |= {
            f"part_{name}": exact(value, "length", system)
            for name, value in (("width", job.part.width_mm), ("length", job.part.length_mm))
            if value
        }
    form |= {f"purpose_{purpose}": "on" for purpose in job.purposes}
    return form | {f"school_{name}": str(getattr(job.school, name)) for name in SCHOOLS}


def field_of(problem: Problem) -> str:
    """The form field that a problem belongs to."""
    return problem.field.replace(".", "_")
