"""Quantities as people type them, as fields of a value: text with a unit is read, a number stays a number.

A field says its dimension once, ``gap_mm: Annotated[float, LENGTH] = Field(0, ge=0, le=20)``; with that one
line the JSON, the form, the published schema and the page know its unit, its limits and its sentences.
What a bare number in text means is in the context: ``Job.model_validate(given, context={"units": "inch"})``.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Any

from pydantic import BaseModel, GetCoreSchemaHandler, GetJsonSchemaHandler, ValidationInfo
from pydantic.json_schema import JsonSchemaValue
from pydantic_core import CoreSchema, core_schema

from anvilsong.core.errors import BadInput, Unfit
from anvilsong.core.quantities import parse
from anvilsong.core.units import SHOWN, Dimension, UnitSystem
from anvilsong.core.words import sentence

_BARE = re.compile(r"^[\d.,]+$", re.ASCII)


def units_of(info: ValidationInfo) -> UnitSystem:
    """The units that a bare number is in, as the one who reads has said."""
    return "inch" if (info.context or {}).get("units") == "inch" else "mm"


@dataclass(frozen=True)
class Typed:
    """Marks a field as a quantity of a dimension that people may type with a unit."""

    dimension: Dimension

    def __get_pydantic_core_schema__(self, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        number = handler(source)
        return core_schema.with_info_before_validator_function(
            self.read,
            number,
            json_schema_input_schema=core_schema.union_schema(
                [number, core_schema.str_schema(max_length=40)]
            ),
        )

    def read(self, given: Any, info: ValidationInfo) -> Any:
        """What was given, text as the number it means."""
        if isinstance(given, bool):
            raise ValueError("allowed is a number")
        if not isinstance(given, str):
            return given
        try:
            return round(parse(given, self.dimension, str(info.field_name), units_of(info)), 6)
        except BadInput as problem:
            raise Unfit(problem.problems[0].allowed) from None

    def __get_pydantic_json_schema__(
        self, schema: CoreSchema, handler: GetJsonSchemaHandler
    ) -> JsonSchemaValue:
        """The published schema names the unit of a plain number."""
        return handler(schema) | {"unit": SHOWN[self.dimension]["mm"][0]}


class Kept(Typed):
    """A quantity that stays as it was typed, 1/8 or 11ga; what a bare number meant is written to it."""

    def read(self, given: Any, info: ValidationInfo) -> Any:
        """What was given; a bare number in the reader's inches says so from now on."""
        if isinstance(given, bool):
            raise Unfit(sentence("typed.type_length"))
        if isinstance(given, str) and units_of(info) == "inch" and is_bare(given):
            return f"{given.strip()} in"
        return given


def is_bare(text: str) -> bool:
    """Whether it is a decimal number and nothing else; a bare fraction is always inches.

    >>> is_bare("3,2"), is_bare("1/8"), is_bare("11ga")
    (True, False, False)
    """
    return bool(_BARE.match(text.strip()))


LENGTH = Typed("length")
TEMPERATURE = Typed("temperature")
SPEED = Typed("speed")
FLOW = Typed("flow")
WIND = Typed("wind")
SHARE = Typed("share")
TIME = Typed("time")
CURRENT = Typed("current")
PRESSURE = Typed("pressure")
HOSE = Typed("hose")
NUMBER = Typed("number")
ANGLE = Typed("angle")


def dimensions(model: type[BaseModel]) -> dict[str, Dimension]:
    """The fields of a model that are quantities, and of what dimension.

    >>> from anvilsong.core.job import Job
    >>> dimensions(Job)["travel_mm_s"]
    'speed'
    """
    found = {}
    for name, field in model.model_fields.items():
        for mark in field.metadata:
            if isinstance(mark, Typed):
                found[name] = mark.dimension
    return found
