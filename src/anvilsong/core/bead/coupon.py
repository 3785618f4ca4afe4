"""What came out of a coupon: measured with a ruler, judged by sight, or both."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from anvilsong.core.errors import Unfit
from anvilsong.core.typed import LENGTH, TIME
from anvilsong.core.value import LEAST_TRAVEL_MM_S, MOST_TRAVEL_MM_S, LongNote, Value
from anvilsong.core.words import sentence

JudgedWord = Literal["bright", "specks", "soot", "toes", "even", "milky", "wander", "noise", "ease"]

TipState = Literal["sharp", "rounded", "balled", "spat"]


class Looks(Value):
    """What was seen of one coupon, however little: figures that somebody took, and judgements. Lengths mm,
    time s; judged words 0..3.
    """

    bead_width_mm: Annotated[float | None, LENGTH] = Field(None, ge=0.5, le=60)
    border_left_mm: Annotated[float | None, LENGTH] = Field(None, ge=0, le=30)
    border_right_mm: Annotated[float | None, LENGTH] = Field(None, ge=0, le=30)
    seconds: Annotated[float | None, TIME] = Field(None, ge=0.5, le=3600)
    length_mm: Annotated[float | None, LENGTH] = Field(None, ge=5, le=5000)
    bead_height_mm: Annotated[float | None, LENGTH] = Field(None, ge=0, le=20)
    ripple_pitch_mm: Annotated[float | None, LENGTH] = Field(None, ge=0.1, le=20)
    border_stray_mm: Annotated[float | None, LENGTH] = Field(None, ge=0, le=10)
    """How far the border's outer edge strays from its own straight line, one standard deviation."""
    ball_mm: Annotated[float | None, LENGTH] = Field(None, ge=0.2, le=12)
    """Diameter of the ball at the tungsten's tip."""
    tip: TipState | None = None
    back_side: Literal["none", "partial", "full", "sagging"] | None = None
    crater: Literal["filled", "hollow", "cracked"] | None = None
    judged: dict[JudgedWord, Annotated[int, Field(ge=0, le=3)]] = {}
    overall: Literal["keep", "nearly", "no"] | None = None
    note: LongNote = ""

    @model_validator(mode="after")
    def _a_hand_can_hold_it(self) -> Looks:
        said = self.model_dump(exclude={"length_mm", "note"})
        if all(value is None or value == {} for value in said.values()):
            raise Unfit(sentence("bead.coupon_says_nothing"))
        if self.length_mm is None or self.seconds is None:
            return self
        speed = self.length_mm / self.seconds
        if not LEAST_TRAVEL_MM_S <= speed <= MOST_TRAVEL_MM_S:
            raise Unfit(
                sentence(
                    "bead.seconds_s_run_goes",
                    length_mm=self.length_mm,
                    seconds=self.seconds,
                    speed=speed,
                    least_travel_mm_s=LEAST_TRAVEL_MM_S,
                    most_travel_mm_s=MOST_TRAVEL_MM_S,
                )
            )
        return self

    @property
    def travel_mm_s(self) -> float | None:
        """Length over time, mm/s; None where the run was not timed."""
        return None if self.length_mm is None or self.seconds is None else self.length_mm / self.seconds

    @property
    def border_mm(self) -> float | None:
        """Mean of the sides that were measured, mm; None where neither was."""
        sides = [side for side in (self.border_left_mm, self.border_right_mm) if side is not None]
        return sum(sides) / len(sides) if sides else None

    @property
    def unevenness(self) -> float | None:
        """Left-right difference over the mean, 0 when there is no border at all; None unless both sides were
        measured.
        """
        if self.border_mm is None or self.border_left_mm is None or self.border_right_mm is None:
            return None
        return abs(self.border_left_mm - self.border_right_mm) / self.border_mm if self.border_mm > 0 else 0.0


class Readings(Looks):
    """A coupon that was measured whole: what calibrates the model and what a change is worked out from."""

    bead_width_mm: Annotated[float, LENGTH] = Field(ge=0.5, le=60)
    border_left_mm: Annotated[float, LENGTH] = Field(ge=0, le=30)
    border_right_mm: Annotated[float, LENGTH] = Field(ge=0, le=30)
    seconds: Annotated[float, TIME] = Field(ge=0.5, le=3600)
    length_mm: Annotated[float, LENGTH] = Field(ge=5, le=5000)

    @property
    def travel_mm_s(self) -> float:
        """Length over time, mm/s."""
        return self.length_mm / self.seconds

    @property
    def border_mm(self) -> float:
        """Mean of both sides, mm."""
        return (self.border_left_mm + self.border_right_mm) / 2

    @property
    def unevenness(self) -> float:
        """Left-right difference over the mean, 0 when there is no border at all."""
        return abs(self.border_left_mm - self.border_right_mm) / self.border_mm if self.border_mm > 0 else 0.0


WHOLE = ("bead_width_mm", "border_left_mm", "border_right_mm", "seconds", "length_mm")
"""What is measured of a coupon that counts in full."""


def measured_whole(looks: Looks) -> Readings | None:
    """The same coupon as one that was measured whole; None where a figure of it is missing."""
    if isinstance(looks, Readings):
        return looks
    if any(getattr(looks, name) is None for name in WHOLE):
        return None
    return Readings.model_validate(looks.model_dump())
