"""A part as it is drawn for the heat: shapes of metal, holes, blocks that lie on it, runs, and marked places.

Millimetres from the lower left corner, x to the right, y up. A later shape goes over an earlier one.
"""

from __future__ import annotations

import math
from typing import Annotated, Literal

from pydantic import Field, model_validator

from anvilsong.core.errors import Unfit
from anvilsong.core.typed import LENGTH, TEMPERATURE, TIME
from anvilsong.core.value import LEAST_THICKNESS_MM, MOST_THICKNESS_MM, Label, Value
from anvilsong.core.words import sentence

LEAST_SIDE_MM, MOST_SIDE_MM, HOTTEST_PART_C = 0.5, 3000.0, 400.0
MOST_SHAPES, MOST_RUNS, MOST_MARKS, MOST_CORNERS = 60, 12, 12, 2000

Place = Annotated[float, LENGTH, Field(ge=-MOST_SIDE_MM, le=2 * MOST_SIDE_MM)]
Extent = Annotated[float, LENGTH, Field(ge=LEAST_SIDE_MM, le=MOST_SIDE_MM)]
Thickness = Annotated[float, LENGTH, Field(ge=LEAST_THICKNESS_MM, le=MOST_THICKNESS_MM)]
BlockMetal = Literal["copper", "aluminium", "steel"]
# ρ·c J/(mm³·K) and a mm²/s at room temperature: tables of physical properties.
BLOCK_METALS: dict[BlockMetal, tuple[float, float]] = {
    "copper": (3.44e-3, 115.0),
    "aluminium": (2.42e-3, 69.0),
    "steel": (3.8e-3, 13.5),
}
CLAMPED_W_MM2_K = 1.5e-3  # a clean block clamped on; published contacts run from 0.5 to 5 kW/(m²·K)


class Shape(Value):
    """A rectangle (x, y its lower left corner), a circle (x, y its middle) or an outline of corners."""

    form: Literal["rectangle", "circle", "outline"] = "rectangle"
    does: Literal["metal", "hole", "block"] = "metal"
    x_mm: Place = 0
    y_mm: Place = 0
    width_mm: Extent = 100
    height_mm: Extent = 100
    corners: tuple[
        tuple[Annotated[float, Field(ge=-9000, le=9000)], Annotated[float, Field(ge=-9000, le=9000)]], ...
    ] = Field((), max_length=MOST_CORNERS)
    thickness_mm: Annotated[float | None, LENGTH] = Field(None, ge=LEAST_THICKNESS_MM, le=MOST_THICKNESS_MM)
    """Of metal: another than the part's. Of a block: its own, 20 mm where nothing is said."""
    block_metal: BlockMetal = "copper"

    @model_validator(mode="after")
    def _has_corners(self) -> Shape:
        if self.form == "outline" and len(self.corners) < 3:
            raise Unfit(sentence("warming.corners_outline_has_least"))
        return self


class Run(Value):
    """One bead in a straight line, and what is waited for before it."""

    x_mm: Place
    y_mm: Place
    to_x_mm: Place
    to_y_mm: Place
    pause_s: Annotated[float, TIME, Field(ge=0, le=3600)] = 0
    cools_to_c: Annotated[float | None, TEMPERATURE] = Field(None, ge=-20, le=400)
    """Waits on until the metal along this run is no hotter than this."""

    @model_validator(mode="after")
    def _has_length(self) -> Run:
        if self.length_mm < 5:
            raise Unfit(sentence("warming.x_mm_run_least"))
        return self

    @property
    def length_mm(self) -> float:
        return math.hypot(self.to_x_mm - self.x_mm, self.to_y_mm - self.y_mm)

    @property
    def along(self) -> tuple[float, float]:
        """The way it goes, as a direction."""
        return (self.to_x_mm - self.x_mm) / self.length_mm, (self.to_y_mm - self.y_mm) / self.length_mm

    @property
    def turned(self) -> Run:
        """From the other end."""
        ends = {"x_mm": self.to_x_mm, "y_mm": self.to_y_mm, "to_x_mm": self.x_mm, "to_y_mm": self.y_mm}
        return self.model_copy(update=ends)

    def at_mm(self, way_mm: float) -> tuple[float, float]:
        """The place so far along it."""
        return self.x_mm + way_mm * self.along[0], self.y_mm + way_mm * self.along[1]


class Mark(Value):
    """A place whose temperature is watched: a seal, a bush, a bolted edge."""

    name: Label
    x_mm: Place
    y_mm: Place
    most_c: Annotated[float | None, TEMPERATURE] = Field(None, ge=0, le=600)


class PartDrawing(Value):
    """The whole of it. ``start``: the hand waits for its pool, at first and on the way, or goes at once and
    evenly.
    """

    thickness_mm: Thickness = 3
    shapes: tuple[Shape, ...] = Field(min_length=1, max_length=MOST_SHAPES)
    runs: tuple[Run, ...] = Field(min_length=1, max_length=MOST_RUNS)
    marks: tuple[Mark, ...] = Field((), max_length=MOST_MARKS)
    start_c: Annotated[float, TEMPERATURE, Field(ge=-40, le=HOTTEST_PART_C)] = 20
    start: Literal["waits", "goes"] = "waits"
    cell_mm: Annotated[float | None, LENGTH] = Field(None, ge=0.2, le=20)
    """Side of a cell; chosen by the pool where nothing is said."""

    @property
    def box_mm(self) -> tuple[float, float, float, float]:
        """Left, bottom, right and top of the metal."""
        boxes = [_box(shape) for shape in self.shapes if shape.does == "metal"]
        if not boxes:
            return (0.0, 0.0, 0.0, 0.0)
        left, bottom, right, top = zip(*boxes, strict=True)
        return min(left), min(bottom), max(right), max(top)

    @model_validator(mode="after")
    def _is_a_part(self) -> PartDrawing:
        left, bottom, right, top = self.box_mm
        if right - left < 10 or top - bottom < 5:
            raise Unfit(sentence("warming.shapes_draw_metal_first"))
        if max(right - left, top - bottom) > MOST_SIDE_MM:
            raise Unfit(sentence("warming.shapes_part_up_mm", most_side_mm=MOST_SIDE_MM))
        for number, run in enumerate(self.runs):
            inside = all(
                left - 1 <= x <= right + 1 and bottom - 1 <= y <= top + 1
                for x, y in ((run.x_mm, run.y_mm), (run.to_x_mm, run.to_y_mm))
            )
            if not inside:
                raise Unfit(sentence("warming.runs_must_begin_end", number=number))
        return self


def _box(shape: Shape) -> tuple[float, float, float, float]:
    match shape.form:
        case "rectangle":
            return shape.x_mm, shape.y_mm, shape.x_mm + shape.width_mm, shape.y_mm + shape.height_mm
        case "circle":
            half = shape.width_mm / 2
            return shape.x_mm - half, shape.y_mm - half, shape.x_mm + half, shape.y_mm + half
        case "outline":
            x, y = zip(*shape.corners, strict=True)
            return shape.x_mm + min(x), shape.y_mm + min(y), shape.x_mm + max(x), shape.y_mm + max(y)
