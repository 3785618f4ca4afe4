"""What came of a computed part: traces of its runs and marks, and the film."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from anvilsong.core.value import Label, Value

Series = Annotated[tuple[float, ...], Field(max_length=400)]
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

    @property
    def first_share(self) -> float:
        """Under the foot once the pool is there and moves: the mean of the second tenth of the way."""
        return _mean_between(self.way_mm, self.share, 0.05, 0.15)

    @property
    def last_share(self) -> float:
        """At the end."""
        return _mean_between(self.way_mm, self.share, 0.9, 1.0)

    def share_at(self, way_mm: float) -> float:
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

    reference_w: float
    wanted_mm: float
    travel_mm_s: float
    cell_mm: float
    runs: tuple[RunTrace, ...] = Field(max_length=12)
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


@dataclass(frozen=True)
class Film:
    """Pictures of the part, a byte a cell in steps of 3 K over 0 °C; 255 where there is no metal."""

    seconds: tuple[float, ...]
    pictures: NDArray[np.uint8]
    cell_mm: float


def as_picture(
    temperature_c: NDArray[np.float64], is_metal: NDArray[np.bool_], every: int
) -> NDArray[np.uint8]:
    """A picture of every so many cells."""
    part, metal = temperature_c[::every, ::every], is_metal[::every, ::every]
    found = np.clip(part / DEGREES_A_STEP, 0, 254).astype(np.uint8)
    found[~metal] = 255
    return found


def _mean_between(way: Series, values: Series, low: float, high: float) -> float:
    whole = way[-1] if way else 0.0
    chosen = [value for at, value in zip(way, values, strict=True) if low * whole <= at <= high * whole]
    return float(np.mean(chosen)) if chosen else (values[-1] if values else 0.0)
