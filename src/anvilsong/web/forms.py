"""Plain form fields to the data of a model and back: the model says which fields there are.

``bevel.angle_deg`` is the field ``bevel_angle_deg``; a set of words is one tick a word
(``purposes_strength``), a table of words one field a word (``judged_bright``). An empty field is left out,
so that defaults hold. What is typed is read by the model itself (`core.typed`), in the reader's units.
"""

from __future__ import annotations

from collections.abc import Mapping
from functools import cache
from types import NoneType, UnionType
from typing import Any, Literal, TypeVar, Union, get_args, get_origin

from pydantic import BaseModel

from anvilsong.core.errors import Problem
from anvilsong.core.quantities import exact
from anvilsong.core.typed import dimensions, is_bare
from anvilsong.core.units import SHOWN, Dimension, UnitSystem

Model = TypeVar("Model", bound=BaseModel)
Kind = Literal["model", "ticks", "words", "plain"]


@cache
def _fields(model: type[BaseModel]) -> tuple[tuple[str, Kind, Any], ...]:
    """Name, kind and what is inside, for each field of a model."""
    return tuple((name, *_kind(field.annotation)) for name, field in model.model_fields.items())


def _kind(annotation: Any) -> tuple[Kind, Any]:
    if get_origin(annotation) in (Union, UnionType):
        inner = [each for each in get_args(annotation) if each is not NoneType]
        return _kind(inner[0]) if len(inner) == 1 else ("plain", None)
    if isinstance(annotation, type) and issubclass(annotation, BaseModel):
        return "model", annotation
    inside = get_args(annotation)
    if get_origin(annotation) is tuple and get_origin(inside[0]) is Literal:
        return "ticks", get_args(inside[0])
    if get_origin(annotation) is dict and get_origin(inside[0]) is Literal:
        return "words", get_args(inside[0])
    return "plain", None


def given_from(model: type[BaseModel], form: Mapping[str, Any], prefix: str = "") -> dict[str, Any]:
    """The data that a form gives for a model, as typed."""
    given: dict[str, Any] = {}
    for name, kind, inside in _fields(model):
        field = prefix + name
        if kind == "model":
            if inner := given_from(inside, form, f"{field}_"):
                given[name] = inner
        elif kind == "ticks":
            if ticked := [word for word in inside if form.get(f"{field}_{word}")]:
                given[name] = ticked
        elif kind == "words":
            if table := {word: form[f"{field}_{word}"] for word in inside if form.get(f"{field}_{word}")}:
                given[name] = table
        elif text := str(form.get(field, "") or "").strip():
            given[name] = text
    return given


def form_of(value: BaseModel, system: UnitSystem, prefix: str = "") -> dict[str, str]:
    """A value as its form shows it, in the reader's units, with all its digits."""
    form: dict[str, str] = {}
    typed = dimensions(type(value))
    for name, kind, _ in _fields(type(value)):
        field, inner = prefix + name, getattr(value, name)
        if inner is None:
            form |= {} if kind == "model" else {field: ""}
        elif kind == "model":
            form |= form_of(inner, system, f"{field}_")
        elif kind == "ticks":
            form |= {f"{field}_{word}": "on" for word in inner}
        elif kind == "words":
            form |= {f"{field}_{word}": str(said) for word, said in inner.items()}
        else:
            form[field] = _words(inner, typed.get(name), system)
    return form


def _words(value: Any, dimension: Dimension | None, system: UnitSystem) -> str:
    if dimension is None:
        return str(value)
    if isinstance(value, str):  # kept as typed, where a bare number was millimetres
        return f"{value} mm" if system == "inch" and is_bare(value) else value
    return exact(value, dimension, system)


def units_of_fields(model: type[BaseModel], system: UnitSystem, prefix: str = "") -> dict[str, str]:
    """The unit that a bare number has in each field of a model's form that is a quantity."""
    found = {prefix + name: SHOWN[dimension][system][0] for name, dimension in dimensions(model).items()}
    for name, kind, inside in _fields(model):
        if kind == "model":
            found |= units_of_fields(inside, system, f"{prefix}{name}_")
    return {field: unit for field, unit in found.items() if unit}


def field_of(problem: Problem) -> str:
    """The form field that a problem belongs to."""
    return problem.field.replace(".", "_")
