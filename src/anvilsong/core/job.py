"""The job: what is to be welded, on which machine, the way its welder likes to work."""

from __future__ import annotations

import math
from functools import cached_property
from typing import Any, Literal, TypeVar

from pydantic import BaseModel, ConfigDict, Field, ValidationError, field_validator, model_validator

from anvilsong.core.errors import BadInput, Problem, describe
from anvilsong.core.metal.alloys import Alloy, find_alloy
from anvilsong.core.quantities import parse

JointName = Literal["butt", "lap", "tee", "outside_corner", "inside_corner", "edge", "build_up", "tube_tube", "tube_plate"]
Position = Literal["flat", "horizontal", "vertical", "overhead"]
SurfaceName = Literal["brushed", "mill", "stored", "blasted", "machined", "cast", "anodised", "painted"]
Purpose = Literal["ease", "strength", "ductility", "corrosion", "warm_service", "colour", "appearance", "tight"]
Control = Literal["pedal", "switch_2", "switch_4"]

Model = TypeVar("Model", bound=BaseModel)

LEAST_THICKNESS_MM, MOST_THICKNESS_MM = 0.3, 50.0


class _Given(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


def _length_mm(given: Any, field: str) -> Any:
    return parse(given, "length", field) if isinstance(given, str) else given


class Side(_Given):
    """One side of the joint. ``thickness`` stays as it was typed; ``thickness_mm`` is what it means."""

    alloy: str
    thickness: str | float
    outside_diameter_mm: float | None = Field(None, gt=0, le=2000)

    @field_validator("alloy")
    @classmethod
    def _known_alloy(cls, name: str) -> str:
        try:
            find_alloy(name)
        except BadInput as problem:
            raise ValueError(problem.problems[0].allowed) from None
        return name

    @field_validator("thickness", mode="before")
    @classmethod
    def _no_switch(cls, given: Any) -> Any:
        if isinstance(given, bool):
            raise ValueError("type a length such as 3.2 mm, 1/8 or 11ga")
        return given

    @field_validator("thickness")
    @classmethod
    def _sensible_thickness(cls, given: str | float) -> str | float:
        try:
            mm = parse(given, "length", "thickness")
        except BadInput as problem:
            raise ValueError(problem.problems[0].allowed) from None
        if not LEAST_THICKNESS_MM <= mm <= MOST_THICKNESS_MM:
            raise ValueError(f"allowed is {LEAST_THICKNESS_MM} mm to {MOST_THICKNESS_MM:.0f} mm, such as 3.2 mm, 1/8 or 11ga")
        return given

    @cached_property
    def thickness_mm(self) -> float:
        return parse(self.thickness, "length", "thickness")

    @cached_property
    def metal(self) -> Alloy:
        return find_alloy(self.alloy)


class Bevel(_Given):
    angle_deg: float = Field(60, ge=30, le=120)
    root_face_mm: float = Field(1.6, ge=0, le=10)


class Part(_Given):
    """The part's size, as far as it is known."""

    kind: Literal["plate", "tube", "casting"] = "plate"
    width_mm: float | None = Field(None, ge=0, le=20_000)
    length_mm: float | None = Field(None, ge=0, le=20_000)


class School(_Given):
    """How this welder likes to work; each choice changes numbers."""

    pedal: Literal["hot", "middle", "patient"] = "middle"
    balance: Literal["lean", "middle", "cleaning"] = "middle"
    frequency: Literal["wide", "middle", "tight"] = "middle"
    amplitude: Literal["symmetrical", "trimmed"] = "symmetrical"
    pulse: Literal["none", "dab", "fast"] = "none"
    shielding: Literal["lens", "plain"] = "lens"
    tip: Literal["point", "ball"] = "point"
    waveform: Literal["square", "soft", "trapezoid", "sine", "triangle"] = "square"


class Job(_Given):
    """What is to be welded. Only ``a`` and ``joint`` must be given; ``b`` left out means as ``a``."""

    a: Side
    b: Side = Field(default=None)  # type: ignore[assignment]  # filled from a, below
    joint: JointName
    gap_mm: float = Field(0, ge=0, le=20)
    position: Position = "flat"
    surface: SurfaceName = "brushed"
    purposes: tuple[Purpose, ...] = ()
    filler_wanted: str | None = None
    weld_length_mm: float = Field(300, gt=0, le=100_000)
    part_temperature_c: float = Field(20, ge=-40)
    control: Control = "pedal"
    machine: str | None = None
    kit: str | None = None
    temper: str | None = Field(None, max_length=20)
    bevel: Bevel | None = None
    leg_mm: float | None = Field(None, gt=0, le=50)
    corner: Literal["open", "half", "closed"] = "open"
    penetration: Literal["full", "partial"] | None = None
    travel_mm_s: float | None = Field(None, ge=0.3, le=20)
    arc_length_mm: float = Field(3, ge=1, le=10)
    helium_share: float = Field(0, ge=0, le=0.75)
    draught_m_s: float = Field(0, ge=0, le=10)
    part: Part | None = None
    school: School = School()

    @model_validator(mode="before")
    @classmethod
    def _b_as_a(cls, given: Any) -> Any:
        if isinstance(given, dict) and "a" in given and given.get("b") is None:
            given = {**given, "b": given["a"]}
        return given

    @model_validator(mode="before")
    @classmethod
    def _round_the_tube(cls, given: Any) -> Any:
        """A tube's joint is as long as the way round it, unless a length is given."""
        if not isinstance(given, dict) or given.get("weld_length_mm") is not None or given.get("joint") not in ("tube_tube", "tube_plate"):
            return given
        sides = [given.get(letter) for letter in ("b", "a")]
        diameters = [side.get("outside_diameter_mm") if isinstance(side, dict) else getattr(side, "outside_diameter_mm", None) for side in sides]
        found = next((d for d in diameters if isinstance(d, int | float) and not isinstance(d, bool) and d > 0), None)
        return given if found is None else {**given, "weld_length_mm": math.pi * found}

    @field_validator("gap_mm", "weld_length_mm", "leg_mm", mode="before")
    @classmethod
    def _typed_length(cls, given: Any) -> Any:
        try:
            return _length_mm(given, "length")
        except BadInput as problem:
            raise ValueError(problem.problems[0].allowed) from None

    @model_validator(mode="after")
    def _solid_metal(self) -> Job:
        melts = min(self.a.metal.solidus_c, self.b.metal.solidus_c)
        if self.part_temperature_c >= melts:
            raise ValueError(f"part_temperature_c|allowed is under {melts:.0f} C, where this metal begins to melt")
        if self.bevel and self.bevel.root_face_mm >= min(self.a.thickness_mm, self.b.thickness_mm):
            raise ValueError("bevel.root_face_mm|allowed is less than the thinner side")
        return self

    @property
    def thin_mm(self) -> float:
        return min(self.a.thickness_mm, self.b.thickness_mm)


def read_job(given: Any) -> Job:
    """A checked job from plain data.

    Raises
    ------
    BadInput : one problem for each field that cannot be used
    """
    if not isinstance(given, dict):
        raise BadInput.one("job", given, "a job is a JSON object with at least “a” and “joint”")
    return validated(Job, given)


def validated(model: type[Model], given: Any) -> Model:
    """A pydantic value, with its complaints turned into this product's one sentence a field."""
    try:
        return model.model_validate(given)
    except ValidationError as trouble:
        problems = _problems(trouble)
        if isinstance(given, dict) and given.get("b") is None:
            # Side b was filled from a: a's complaint says it all.
            problems = [problem for problem in problems if problem.field.partition(".")[0] != "b"]
        raise BadInput(*problems) from None


def _problems(trouble: ValidationError) -> list[Problem]:
    found: list[Problem] = []
    for error in trouble.errors(include_url=False):
        field = ".".join(str(part) for part in error["loc"] if part not in ("str", "float"))
        given, context = error["input"], error.get("ctx", {})
        words = error["msg"].removeprefix("Value error, ")
        if "|" in words:
            field, words = words.split("|", 1)
            given = _dig(given, field)
        match error["type"]:
            case "missing":
                words = "it must be given"
            case "literal_error":
                words = f"allowed is {context['expected']}".replace("'", "")
            case "extra_forbidden":
                words = "this is not a field of a job"
            case "greater_than" | "greater_than_equal" | "less_than" | "less_than_equal":
                words = words.replace("Input should be", "allowed is")
            case "model_type" | "dict_type" | "model_attributes_type":
                words = "allowed is an object, such as {“alloy”: “6061”, “thickness”: “3 mm”}" if field in ("a", "b") else "allowed is an object"
            case "tuple_type" | "list_type":
                words = "allowed is a list in brackets"
            case "string_type":
                words = "allowed is text in quotes"
            case "float_parsing" | "float_type" | "int_parsing" | "int_type" | "int_from_float" | "finite_number":
                words = "allowed is a number"
            case _:
                words = words.replace("Input should be", "allowed is").rstrip(".")
        problem = Problem(field or "job", "nothing" if error["type"] == "missing" else describe(given), words)
        if all(seen.field != problem.field for seen in found):
            found.append(problem)
    return found


def _dig(given: Any, path: str) -> Any:
    for part in path.split("."):
        given = given.get(part, "this value") if isinstance(given, dict) else getattr(given, part, "this value")
    return given
