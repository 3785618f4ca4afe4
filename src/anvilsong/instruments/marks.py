"""What a person marks on a picture: a known length, the line of the bead, how far to look to either side."""

from __future__ import annotations

from math import hypot
from typing import Annotated

from pydantic import Field, model_validator

from anvilsong.core.errors import Unfit
from anvilsong.core.typed import LENGTH
from anvilsong.core.value import Value
from anvilsong.core.words import sentence

Point = tuple[float, float]
_Place = Annotated[float, Field(ge=-20_000, le=20_000, allow_inf_nan=False)]
_Point = tuple[_Place, _Place]

LEAST_KNOWN_PX, LEAST_LINE_MM = 20.0, 10.0
LEAST_PX_PER_MM, MOST_PX_PER_MM = 6.0, 400.0


class Marks(Value):
    """Points are pixels, x to the right and y down; the line runs the way the torch went."""

    known: tuple[_Point, _Point]
    known_mm: Annotated[float, LENGTH] = Field(ge=1, le=1000)
    line: tuple[_Point, ...] = Field(min_length=2, max_length=12)
    reach_mm: Annotated[float, LENGTH] = Field(12.0, ge=2, le=60)

    @model_validator(mode="after")
    def _long_enough(self) -> Marks:
        if distance(*self.known) < LEAST_KNOWN_PX:
            raise Unfit(sentence("instruments.known_set_two_ends"))
        scale = self.px_per_mm
        if not LEAST_PX_PER_MM <= scale <= MOST_PX_PER_MM:
            raise Unfit(
                sentence(
                    "instruments.known_with_these_ends",
                    scale=scale,
                    least_px_per_mm=LEAST_PX_PER_MM,
                    most_px_per_mm=MOST_PX_PER_MM,
                )
            )
        if self.line_mm < LEAST_LINE_MM:
            raise Unfit(
                sentence("instruments.line_mm_long_draw", line_mm=self.line_mm, least_line_mm=LEAST_LINE_MM)
            )
        return self

    @property
    def px_per_mm(self) -> float:
        """Pixels in a millimetre."""
        return distance(*self.known) / self.known_mm

    @property
    def line_mm(self) -> float:
        """Length of the line, mm."""
        pieces = zip(self.line, self.line[1:], strict=False)
        return sum(distance(a, b) for a, b in pieces) / self.px_per_mm


def distance(a: Point, b: Point) -> float:
    """Between two points."""
    return hypot(b[0] - a[0], b[1] - a[1])
