"""What came of a computed part: traces of its runs and marks, and the film."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, model_validator

from anvilsong.core.errors import Unfit
from anvilsong.core.said import Words
from anvilsong.core.value import Label, Value
from anvilsong.core.words import sentence

Series = Annotated[tuple[float, ...], Field(min_length=1, max_length=400)]
Positive = Annotated[float, Field(gt=0, le=1e9)]
FIRST_PLACE, LAST_PLACE = 0.1, 0.95  # of the way
GROWS_BY = 1.1  # of the wanted pool, from which on amps that stay are too many
LAST_POOLS = 2.5  # pool widths before the end, where the edge holds the heat back
MOST_RESTS = 20  # on the way of a run; what wants more is no way to weld
DEGREES_A_STEP = 3.0  # of the film: 0 to 765 °C in a byte


class RunTrace(Value):
    """One run along its way: share of the steady heat that the foot gives, width of the pool, and what lies
    ahead.
    """

    waited_s: float
    begins_s: float
    stood_s: float
    """How long the arc stood until the pool was there."""
    ends_s: float
    way_mm: Series
    share: Series
    width_mm: Series
    travel_mm_s: Series
    ahead_c: Series
    reached_mm: float | None
    """How far along the wanted pool runs at the planned travel; None where it never does."""
    rests: Annotated[tuple[tuple[float, float], ...], Field(max_length=20)] = ()
    """Where along the arc was put out to let the part cool, mm, and for how long, s."""

    @model_validator(mode="after")
    def _of_one_length(self) -> RunTrace:
        lengths = {
            len(each) for each in (self.way_mm, self.share, self.width_mm, self.travel_mm_s, self.ahead_c)
        }
        if len(lengths) > 1 or self.way_mm[-1] <= 0:
            raise Unfit(sentence("warming.way_mm_traces_run"))
        return self

    @property
    def widest_mm(self) -> float:
        """The widest pool on the way, but for the last, which the edge keeps warm."""
        ends = self.way_mm[-1] - LAST_POOLS * float(np.median(self.width_mm))
        return max(
            width
            for way, width in zip(self.way_mm, self.width_mm, strict=True)
            if way <= ends or way == self.way_mm[0]
        )

    @property
    def first_share(self) -> float:
        """Under the foot once the pool is there and moves."""
        return self.share_at(FIRST_PLACE * self.way_mm[-1])

    @property
    def last_share(self) -> float:
        """At the end, before the last pool, which the edge keeps warm."""
        return self.share_at(LAST_PLACE * self.way_mm[-1])

    def share_at(self, way_mm: float) -> float:
        """Under the foot at a place."""
        return float(np.interp(way_mm, self.way_mm, self.share))


class MarkTrace(Value):
    """A watched place."""

    name: Label
    peak_c: float
    peak_s: float
    most_c: float | None = None

    @property
    def is_over(self) -> bool:
        return self.most_c is not None and self.peak_c > self.most_c


class HeatRun(Value):
    """A computed part."""

    reference_w: Positive
    wanted_mm: Positive
    travel_mm_s: Positive
    cell_mm: Positive
    runs: tuple[RunTrace, ...] = Field(min_length=1, max_length=12)
    marks: tuple[MarkTrace, ...] = Field((), max_length=12)
    ends_s: float
    end_mean_c: float
    end_hottest_c: float
    touch_s: float | None
    """From the end until no place is over 50 °C; None after more than two hours."""
    heat_j: float
    lost_j: float
    lumped_c: float
    """What the same heat gives the whole of the metal at once: ΔT = E/(m·c), over its temperature at first.
    """


class FilmSize(Value):
    """How the bytes of a film lie."""

    seconds: Annotated[tuple[float, ...], Field(max_length=3000)]
    rows: int
    columns: int
    cell_mm: float


class FootAmps(Value):
    """Amps under the foot for a share of the pool's steady heat: (share·q_pool + q_rod)/(heat per ampere)."""

    pool_w: Positive
    rod_w: float = Field(ge=0, le=1e9)
    per_amp_w: Positive

    def amps(self, share: float) -> float:
        """Amps for a share."""
        return (share * self.pool_w + self.rod_w) / self.per_amp_w

    def share(self, amps: float) -> float:
        """The share that amps give."""
        return (amps * self.per_amp_w - self.rod_w) / self.pool_w


class Compared(Value):
    """What came of a way: the foot at its start and its end, the hottest mark, the time."""

    words: Words
    first_share: float
    last_share: float
    hottest_mark_c: float | None
    over: int
    """Marks that get hotter than they may."""
    ends_s: float
    reached_mm: float | None


class Rest(Value):
    """The arc put out on the way, for the part to cool."""

    run: int
    way_mm: float
    seconds: float


class Rested(Value):
    """What rests on the way do for the amps that the start wants: where and how long, and the widest pool
    and the time then. None are told where there would be too many.
    """

    share: float
    rests: tuple[Rest, ...] = Field(max_length=240)
    widest_mm: float
    ends_s: float


class PartResult(Value):
    """All that is kept of a computed part."""

    run: HeatRun
    others: tuple[Compared, ...] = Field((), max_length=8)
    foot: FootAmps
    ceiling_a: Positive
    held: tuple[float, float] | None = None
    """With a torch switch: shares that would hold the pool, at first and at the end, were there a foot."""
    rested: Rested | None = None
    """With a torch switch whose pool grows: the same with rests."""
    has_pedal: bool
    film: FilmSize


@dataclass(frozen=True)
class Film:
    """Pictures of the part, a byte a cell in steps of 3 K over 0 °C; 255 where there is no metal."""

    seconds: tuple[float, ...]
    pictures: NDArray[np.uint8]
    cell_mm: float

    @property
    def size(self) -> FilmSize:
        """How its bytes lie."""
        _, rows, columns = self.pictures.shape
        return FilmSize(seconds=self.seconds, rows=rows, columns=columns, cell_mm=self.cell_mm)


def as_picture(
    temperature_c: NDArray[np.float64], is_metal: NDArray[np.bool_], every: int
) -> NDArray[np.uint8]:
    """A picture of every so many cells."""
    part, metal = temperature_c[::every, ::every], is_metal[::every, ::every]
    found = np.clip(part / DEGREES_A_STEP, 0, 254).astype(np.uint8)
    found[~metal] = 255
    return found
