"""What a page says to its run: where the hand is, and what it wants done."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

Share = Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)]
LONGEST_WALK_S = 2.0


class Hand(BaseModel):
    """A message of a page: every part may be left out."""

    model_config = ConfigDict(extra="forbid", strict=False, frozen=True)

    pedal: Share | None = None
    travel: Annotated[float, Field(ge=0, le=2, allow_inf_nan=False)] | None = None
    do: Literal["pause", "go", "step", "stop"] | None = None
    """``step``: while the run is paused, go on by half a second."""


def read_hand(text: str) -> Hand | None:
    """A message as it came; None for what is none."""
    try:
        return Hand.model_validate_json(text)
    except ValidationError:
        return None
