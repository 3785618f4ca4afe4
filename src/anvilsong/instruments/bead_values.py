"""What is measured on a picture, and between which edges."""

from __future__ import annotations

from pydantic import Field, model_validator

from anvilsong.core.errors import Unfit
from anvilsong.core.said import Words
from anvilsong.core.value import Value
from anvilsong.core.words import sentence
from anvilsong.instruments.marks import Marks

MOST_PLACES, MOST_ASIDE_MM = 60, 200.0


class Measure(Value):
    """One figure; ``value_mm`` is None where the picture does not tell, ``why`` says what is in the way."""

    value_mm: float | None
    spread_mm: float = 0.0
    """Standard deviation along the run."""
    straightness_mm: float | None = None
    """Standard deviation of the outer edge about its own straight line."""
    sureness: float = Field(ge=0, le=1)
    why: Words = ""


class Edges(Value):
    """Where the four edges lie beside the drawn line, at places along it: outer left, toe left, toe right,
    outer right; mm, to the right of the travel. ``by_hand`` says which of them somebody has set.
    """

    along_mm: list[float] = Field(min_length=2, max_length=MOST_PLACES)
    across_mm: list[list[float]] = Field(min_length=4, max_length=4)
    sureness: list[float] = Field(min_length=4, max_length=4)
    by_hand: list[bool] = Field([False] * 4, min_length=4, max_length=4)

    def scaled(self, ratio: float) -> Edges:
        """The same places on the picture where a millimetre is so many times longer."""
        along = [ratio * place for place in self.along_mm]
        across = [[ratio * place for place in one] for one in self.across_mm]
        return self.model_copy(update={"along_mm": along, "across_mm": across})

    @model_validator(mode="after")
    def _of_one_piece(self) -> Edges:
        if any(len(one) != len(self.along_mm) for one in self.across_mm):
            raise Unfit(sentence("instruments.across_mm_each_edge"))
        if any(abs(place) > MOST_ASIDE_MM for one in self.across_mm for place in one):
            raise Unfit(sentence("instruments.across_mm_most_mm", most_aside_mm=MOST_ASIDE_MM))
        if any(b <= a for a, b in zip(self.along_mm, self.along_mm[1:], strict=False)):
            raise Unfit(sentence("instruments.along_mm_one_after"))
        if not all(0 <= one <= 1 for one in self.sureness):
            raise ValueError("sureness|0 to 1")
        return self


class BeadOnPicture(Value):
    """What was measured, and the edges it was measured between."""

    bead_width: Measure
    border_left: Measure
    border_right: Measure
    ripple_pitch: Measure
    edges: Edges
    marks: Marks
