"""What came out of a coupon: measured with a ruler, judged by sight."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field


class Readings(BaseModel):
    """Readings of one coupon. Lengths mm, time s; judged words 0..3."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    bead_width_mm: float = Field(ge=0.5, le=60)
    border_left_mm: float = Field(ge=0, le=30)
    border_right_mm: float = Field(ge=0, le=30)
    seconds: float = Field(gt=0, le=3600)
    length_mm: float = Field(gt=0, le=5000)
    bead_height_mm: float | None = Field(None, ge=0, le=20)
    ripple_pitch_mm: float | None = Field(None, gt=0, le=20)
    back_side: Literal["none", "partial", "full", "sagging"] | None = None
    crater: Literal["filled", "hollow", "cracked"] | None = None
    judged: dict[Literal["bright", "specks", "soot", "toes", "even", "milky", "wander", "noise", "ease"], int] = {}
    overall: Literal["keep", "nearly", "no"] | None = None
    note: str = Field("", max_length=2000)

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
