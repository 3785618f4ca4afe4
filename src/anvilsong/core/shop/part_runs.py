"""Runs on real parts: what was welded, how long, what it took; and the account of many.

A log for the shop's own use. It certifies nothing: what a weld has to bear is shown by qualified procedures.
"""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime
from typing import Annotated, NamedTuple

from pydantic import Field

from anvilsong.core.typed import LENGTH, TIME
from anvilsong.core.value import Name, Note, Value, Word

MOST_SECONDS = 36_000.0


class PartRun(Value):
    """One weld on a part: which part and its serial, arc seconds, gas, filler rod, and what was seen."""

    part: Word = ""
    serial: Word = ""
    welder: Name | None = None
    seconds: Annotated[float, TIME] = Field(ge=0.5, le=MOST_SECONDS)
    gas_l: float | None = Field(None, ge=0, le=100_000)
    rod_mm: Annotated[float | None, LENGTH] = Field(None, ge=0, le=1_000_000)
    cost: float | None = Field(None, ge=0, le=1_000_000)
    remarks: Note = ""


class Account(NamedTuple):
    """What runs took together: how many, arc hours, gas, L, filler rod, mm, and money where it was known."""

    runs: int
    arc_h: float
    gas_l: float
    rod_mm: float
    cost: float


def account(runs: Iterable[PartRun]) -> Account:
    """The sum of runs; what one does not know counts as nothing."""
    given = list(runs)
    return Account(
        len(given),
        sum(run.seconds for run in given) / 3600,
        sum(run.gas_l or 0.0 for run in given),
        sum(run.rod_mm or 0.0 for run in given),
        sum(run.cost or 0.0 for run in given),
    )


def week_of(moment: datetime) -> str:
    """The ISO week of a moment.

    >>> week_of(datetime(2026, 1, 1))
    '2026-W01'
    """
    year, week, _ = moment.isocalendar()
    return f"{year}-W{week:02d}"
