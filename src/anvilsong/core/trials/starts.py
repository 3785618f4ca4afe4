"""How few amps light an arc: ten tries at each of some amps, on one machine with one tungsten."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator

from anvilsong.core.errors import Unfit
from anvilsong.core.torch.tungsten import TungstenKey
from anvilsong.core.value import Amps, TungstenMm, Value
from anvilsong.core.words import sentence

TRIES, MOST_ROWS = 10, 12


class Tries(Value):
    """Ten tries at some amps, and how many of them lit at once."""

    amps: Amps
    lit: int = Field(ge=0, le=TRIES)


class StartTest(Value):
    """Tries with one tungsten."""

    kind: Literal["starts"] = "starts"
    tungsten_class: TungstenKey = "WLa 20"
    tungsten_mm: TungstenMm
    rows: tuple[Tries, ...] = Field(min_length=1, max_length=MOST_ROWS)

    @model_validator(mode="after")
    def _once_each(self) -> StartTest:
        if len({row.amps for row in self.rows}) != len(self.rows):
            raise Unfit(sentence("trials.amps_stand_once"))
        return self


def least_start_a(test: StartTest) -> float | None:
    """The fewest amps that lit ten of ten, and over which nothing failed; None where none did.

    >>> rows = [{"amps": amps, "lit": lit} for amps, lit in ((8, 10), (10, 9), (12, 10), (20, 10))]
    >>> least_start_a(StartTest(tungsten_mm=2.4, rows=tuple(rows)))
    12.0
    """
    failed = max((row.amps for row in test.rows if row.lit < TRIES), default=0.0)
    sure = [row.amps for row in test.rows if row.lit == TRIES and row.amps > failed]
    return min(sure, default=None)
