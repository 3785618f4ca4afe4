"""The job: what is to be welded, on which machine, the way its welder likes to work."""

from __future__ import annotations

import math
import re
from contextlib import suppress
from functools import cached_property
from typing import Annotated, Any, Literal

from pydantic import Field, ValidationInfo, field_validator, model_validator

from anvilsong.core.complaints import validated
from anvilsong.core.errors import BadInput, Unfit
from anvilsong.core.metal.alloys import Alloy, find_alloy
from anvilsong.core.quantities import parse
from anvilsong.core.said import Words
from anvilsong.core.typed import ANGLE, LENGTH, SHARE, SPEED, TEMPERATURE, WIND, Kept, units_of
from anvilsong.core.units import UnitSystem
from anvilsong.core.value import (
    LEAST_THICKNESS_MM,
    MOST_THICKNESS_MM,
    Name,
    RunLengthMm,
    TravelMmS,
    Value,
    Word,
)
from anvilsong.core.words import sentence

JointName = Literal[
    "butt", "lap", "tee", "outside_corner", "inside_corner", "edge", "build_up", "tube_tube", "tube_plate"
]
TUBES: tuple[JointName, ...] = ("tube_tube", "tube_plate")
Position = Literal["flat", "horizontal", "vertical", "overhead"]
SurfaceName = Literal[
    "brushed", "mill", "stored", "blasted", "machined", "cast", "anodised_ground", "coated_ground",
    "anodised", "painted",
]  # fmt: skip
Purpose = Literal[
    "ease", "strength", "ductility", "corrosion", "warm_service", "colour", "appearance", "tight"
]
Control = Literal["pedal", "switch_2", "switch_4", "switch_4_two_levels", "spot"]
LEAST_PART_MM = 3.0
# A bare number under these that makes sense in inches is inches: can stock is typed with its unit.
BARE_SHEET_MM = (0.3, MOST_THICKNESS_MM)
_TEMPER = re.compile(r"^(.*\d[A-Za-z]?)[\s-]*(T\d{1,3}|H\d{2,3}|O|F)$", re.IGNORECASE | re.ASCII)


class Side(Value):
    """One side of the joint. ``thickness`` stays as it was typed; ``thickness_mm`` is what it means."""

    alloy: Word
    thickness: Annotated[Annotated[str, Field(max_length=40)] | float, Kept("length")]
    outside_diameter_mm: Annotated[float | None, LENGTH] = Field(None, ge=3, le=2000)

    @field_validator("alloy")
    @classmethod
    def _known_alloy(cls, name: str) -> str:
        try:
            find_alloy(name)
        except BadInput as problem:
            raise Unfit(problem.problems[0].allowed) from None
        return name

    @field_validator("thickness")
    @classmethod
    def _sensible_thickness(cls, given: str | float) -> str | float:
        try:
            mm = parse(given, "length", "thickness", within=BARE_SHEET_MM)
        except BadInput as problem:
            raise Unfit(problem.problems[0].allowed) from None
        if not LEAST_THICKNESS_MM <= mm <= MOST_THICKNESS_MM:
            raise Unfit(
                sentence(
                    "job.allowed_such_mm_ga",
                    least_thickness_mm=LEAST_THICKNESS_MM,
                    most_thickness_mm=MOST_THICKNESS_MM,
                )
            )
        return given

    @cached_property
    def thickness_mm(self) -> float:
        return parse(self.thickness, "length", "thickness", within=BARE_SHEET_MM)

    @cached_property
    def metal(self) -> Alloy:
        return find_alloy(self.alloy)


class Bevel(Value):
    angle_deg: Annotated[float, ANGLE] = Field(60, ge=30, le=120)
    root_face_mm: Annotated[float, LENGTH] = Field(1.6, ge=0, le=10)


class Part(Value):
    """The part's size, as far as it is known."""

    kind: Literal["plate", "tube", "casting"] = "plate"
    width_mm: Annotated[float | None, LENGTH] = Field(None, ge=0, le=20_000)
    length_mm: Annotated[float | None, LENGTH] = Field(None, ge=0, le=20_000)

    @field_validator("width_mm", "length_mm")
    @classmethod
    def _of_a_part(cls, given: float | None) -> float | None:
        if given and given < LEAST_PART_MM:  # 0 stands for unknown
            raise Unfit(sentence("job.allowed_more_nothing", least_part_mm=LEAST_PART_MM))
        return given


PartSize = Literal["large", "hand", "fist"]
PART_SIZE_WORDS: dict[PartSize, Words] = {
    "large": "larger than that",
    "hand": sentence("job.about_big_hand"),
    "fist": "smaller than a fist",
}


class School(Value):
    """How this welder likes to work; each choice changes numbers."""

    pedal: Literal["hot", "middle", "patient"] = "middle"
    balance: Literal["lean", "middle", "cleaning"] = "middle"
    frequency: Literal["wide", "middle", "tight"] = "middle"
    amplitude: Literal["symmetrical", "trimmed"] = "symmetrical"
    pulse: Literal["none", "dab", "fast"] = "none"
    shielding: Literal["lens", "plain"] = "lens"
    tip: Literal["point", "ball"] = "point"
    waveform: Literal["square", "soft", "trapezoid", "sine", "triangle"] = "square"


class Job(Value):
    """What is to be welded. Only ``a`` and ``joint`` must be given; ``b`` left out means as ``a``."""

    a: Side
    b: Side = Field(default=None)  # type: ignore[assignment]  # filled from a, below
    joint: JointName
    gap_mm: Annotated[float, LENGTH] = Field(0, ge=0, le=20)
    position: Position = "flat"
    surface: SurfaceName = "brushed"
    purposes: tuple[Purpose, ...] = Field((), max_length=8)
    filler_wanted: Word | None = None
    weld_length_mm: Annotated[RunLengthMm, LENGTH] = 300
    part_temperature_c: Annotated[float, TEMPERATURE] = Field(20, ge=-40)
    control: Control = "pedal"
    machine: Name | None = None
    kit: Name | None = None
    temper: Annotated[Word, Field(max_length=20)] | None = None
    bevel: Bevel | None = None
    edge_prep: Literal["square"] | None = None
    """Square: the edge is left so however thick; else a butt over 4.8 mm that is to be welded through gets a
    bevel.
    """
    leg_mm: Annotated[float | None, LENGTH] = Field(None, ge=0.5, le=50)
    corner: Literal["open", "half", "closed"] = "open"
    penetration: Literal["full", "partial"] | None = None
    travel_mm_s: Annotated[TravelMmS | None, SPEED] = None
    arc_length_mm: Annotated[float, LENGTH] = Field(3, ge=1, le=10)
    helium_share: Annotated[float, SHARE] = Field(0, ge=0, le=0.75)
    draught_m_s: Annotated[float, WIND] = Field(0, ge=0, le=10)
    part: Part | None = None
    part_size: PartSize = "large"
    """How big the part is that warms while it is welded."""
    school: School = School()

    @model_validator(mode="before")
    @classmethod
    def _b_as_a(cls, given: Any) -> Any:
        """Side b is as a where nothing is said of it; one of its two left out is as a's."""
        if not isinstance(given, dict) or "a" not in given:
            return given
        a, b = given["a"], given.get("b")
        if b is None:
            return {**given, "b": a}
        if isinstance(a, dict) and isinstance(b, dict):
            known = {name: a[name] for name in ("alloy", "thickness") if name in a}
            return {**given, "b": known | b}
        return given

    @model_validator(mode="before")
    @classmethod
    def _temper_with_the_alloy(cls, given: Any) -> Any:
        """6061 T6 and 6061t6 name the alloy and its temper."""
        if not isinstance(given, dict):
            return given
        found = dict(given)
        for letter in ("a", "b"):
            side = found.get(letter)
            if not isinstance(side, dict):
                continue
            name = side.get("alloy")
            together = _TEMPER.match(name.strip()) if isinstance(name, str) else None
            if together and _is_known(together[1]):
                found[letter] = {**side, "alloy": together[1].strip()}
                found["temper"] = found.get("temper") or together[2].upper()
        return found

    @model_validator(mode="before")
    @classmethod
    def _round_the_tube(cls, given: Any, info: ValidationInfo) -> Any:
        """A tube's joint is as long as the way round it, unless a length is given."""
        if (
            not isinstance(given, dict)
            or given.get("weld_length_mm") is not None
            or given.get("joint") not in TUBES
        ):
            return given
        diameters = (_diameter_mm(given.get(letter), units_of(info)) for letter in ("b", "a"))
        found = next((diameter for diameter in diameters if diameter and diameter > 0), None)
        return given if found is None else {**given, "weld_length_mm": math.pi * found}

    @model_validator(mode="after")
    def _solid_metal(self) -> Job:
        melts = min(self.a.metal.solidus_c, self.b.metal.solidus_c)
        if self.part_temperature_c >= melts:
            raise Unfit(sentence("job.part_temperature_c_allowed", melts=melts))
        if self.bevel and self.bevel.root_face_mm >= min(self.a.thickness_mm, self.b.thickness_mm):
            raise Unfit(sentence("job.bevel_root_face_mm"))
        return self

    @property
    def thin_mm(self) -> float:
        return min(self.a.thickness_mm, self.b.thickness_mm)


def _diameter_mm(side: Any, units: UnitSystem) -> float | None:
    """A side's outside diameter before it is checked; None where there is none that can be read."""
    typed = side.get("outside_diameter_mm") if isinstance(side, dict) else None
    with suppress(BadInput):
        return parse(typed, "length", "outside_diameter_mm", units) if typed is not None else None
    return None


def _is_known(alloy: Any) -> bool:
    try:
        find_alloy(str(alloy))
    except BadInput:
        return False
    return True


def read_job(given: Any, units: UnitSystem = "mm") -> Job:
    """A checked job from plain data; ``units`` is what a bare number in text means.

    Raises
    ------
    BadInput : one problem for each field that cannot be used
    """
    if not isinstance(given, dict):
        raise BadInput.one("job", given, sentence("job.job_json_object_with"))
    return validated(Job, given, units)
