"""Bands of values: their ends with what gives there, and how they are cut, joined and widened."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

Grid = NDArray[np.float64]
Mask = NDArray[np.bool_]
Span = tuple[float, float]
Limits = list[tuple[str, Mask]]  # what gives, in a word, and where it holds
LEAST_WIDTH, LEAST_SHARE_WIDTH = 0.02, 0.01  # of the value; and where that is 0, such as an untouched trim
GRID_SLACK = 0.03  # of the value: grids are coarse, and planned values are rounded
MACHINE_ENDS = "the machine ends"


class Band(NamedTuple):
    """From low to high, and in a word what gives below and above."""

    low: float
    high: float
    below: str = ""
    above: str = ""


class Nothing(NamedTuple):
    """No value satisfies; what gives first where the plan stands."""

    gives: str


Found = Band | Nothing


def joined(one: Found, other: Found) -> Found:
    """Both bands as one, from the lower low to the higher high; a nothing gives way to a band."""
    if isinstance(one, Nothing) or isinstance(other, Nothing):
        return other if isinstance(one, Nothing) else one
    low, high = min(one, other, key=lambda band: band.low), max(one, other, key=lambda band: band.high)
    return Band(low.low, high.high, low.below, high.above)


def both(one: Found, other: Found) -> Found:
    """What lies in both bands; the first where they have nothing in common."""
    if isinstance(one, Nothing) or isinstance(other, Nothing):
        return one
    low, high = max(one, other, key=lambda band: band.low), min(one, other, key=lambda band: band.high)
    return Band(low.low, high.high, low.below, high.above) if low.low < high.high else one


def within(found: Found, reach: Span | None) -> Found:
    """A band cut to what the machine reaches. A machine with one value has that one, whatever the band."""
    if isinstance(found, Nothing) or reach is None:
        return found
    low, high, below, above = found
    if reach[0] == reach[1]:
        return Band(reach[0], reach[1], MACHINE_ENDS, MACHINE_ENDS)
    if low > reach[1] or high < reach[0]:
        return Nothing(below if low > reach[1] else above)
    if low < reach[0]:
        low, below = reach[0], MACHINE_ENDS
    if high > reach[1]:
        high, above = reach[1], MACHINE_ENDS
    return Band(low, high, below, above)


def holding(found: Found, value: float, reach: Span | None) -> Found:
    """The band with the planned value in it and some width, rounded outwards; nothing when the value lies
    well outside.
    """
    if isinstance(found, Nothing):
        return found
    low, high, below, above = found
    slack = max(GRID_SLACK * abs(value), LEAST_SHARE_WIDTH)
    if not low - slack <= value <= high + slack:
        return Nothing(below if value < low else above)
    low, high = min(low, value), max(high, value)
    least = max(LEAST_WIDTH * abs(value), LEAST_SHARE_WIDTH)
    if high - low < least:
        low, high = low - least, high + least
    if reach is not None:
        low, high = max(low, min(reach[0], value)), min(high, max(reach[1], value))
    return Band(math.floor(low * 1e4) / 1e4, math.ceil(high * 1e4) / 1e4, below, above)


def stretch(grid: Grid, limits: Limits, value: float) -> Found:
    """The stretch of the grid nearest to a value in which every limit holds, and which limit gives at either
    end.
    """
    good = np.logical_and.reduce([mask for _, mask in limits])
    places = np.flatnonzero(good)
    if places.size == 0:
        here = int(np.argmin(np.abs(grid - value)))
        never = [word for word, mask in limits if not mask.any()]
        return Nothing((never or [word for word, mask in limits if not mask[here]] or [limits[0][0]])[0])
    runs = np.split(places, np.flatnonzero(np.diff(places) > 1) + 1)
    nearest = min(runs, key=lambda run: max(grid[run[0]] - value, value - grid[run[-1]], 0.0))
    first, last = int(nearest[0]), int(nearest[-1])

    def gives(place: int) -> str:
        if not 0 <= place < grid.size:
            return ""
        return next(word for word, mask in limits if not mask[place])

    return Band(float(grid[first]), float(grid[last]), gives(first - 1), gives(last + 1))
