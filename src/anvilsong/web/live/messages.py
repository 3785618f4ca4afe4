"""What a page says to its run: where the hand is, and what it wants done."""

from __future__ import annotations

import time
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

Share = Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)]
LONGEST_WALK_S, MOST_A_SECOND = 2.0, 300


class Hand(BaseModel):
    """A message of a page: every part may be left out."""

    model_config = ConfigDict(extra="forbid", strict=False, frozen=True)

    pedal: Share | None = None
    travel: Annotated[float, Field(ge=0, le=2, allow_inf_nan=False)] | None = None
    do: Literal["pause", "go", "step", "stop"] | None = None
    """``step``: while the run is paused, go on by half a second."""


class Hearing:
    """Reads the messages of one socket, as many a second as a hand can send."""

    def __init__(self) -> None:
        self._second, self._count = time.monotonic(), 0

    def read(self, text: str) -> Hand | None:
        """A message as it came; None for what is none, or one too many."""
        now = time.monotonic()
        if now - self._second > 1:
            self._second, self._count = now, 0
        self._count += 1
        return read_hand(text) if self._count <= MOST_A_SECOND else None


def read_hand(text: str) -> Hand | None:
    """A message as it came; None for what is none."""
    try:
        return Hand.model_validate_json(text)
    except ValidationError:
        return None
