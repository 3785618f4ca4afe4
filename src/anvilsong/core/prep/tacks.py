"""Tacks: how many, how far apart, and in which order."""

from __future__ import annotations

import heapq
import math

from pydantic import BaseModel, ConfigDict

LEAST_SPACING_MM, MOST_SPACING_MM, SPACING_PER_THICKNESS = 25.0, 100.0, 25.0


class TackPlan(BaseModel):
    """Tacks of one weld: places from the start, mm, in the order to set them."""

    model_config = ConfigDict(frozen=True)

    spacing_mm: float
    order_mm: list[float]

    @property
    def count(self) -> int:
        return len(self.order_mm)


def tack_plan(length_mm: float, thickness_mm: float) -> TackPlan:
    """Tacks about 25 × thickness apart (25 to 100 mm), ends first, then always the middle of the widest
    stretch left.

    >>> [round(place) for place in tack_plan(300, 3.0).order_mm]
    [0, 300, 150, 75, 225]
    """
    wanted = min(max(SPACING_PER_THICKNESS * thickness_mm, LEAST_SPACING_MM), MOST_SPACING_MM)
    pieces = max(1, math.ceil(length_mm / wanted - 1e-9))
    places = [*(length_mm * i / pieces for i in range(pieces)), length_mm]
    order = [places[0], places[-1]]
    # Each stretch between two tacks waits with its middle; the widest goes first, then the one nearest the
    # middle of all.
    stretches = [_stretch(0, pieces)]
    while stretches:
        _, _, low, middle, high = heapq.heappop(stretches)
        if middle > low:
            order.append(places[middle])
            heapq.heappush(stretches, _stretch(low, middle))
            heapq.heappush(stretches, _stretch(middle, high))
    return TackPlan(spacing_mm=length_mm / pieces, order_mm=order)


def _stretch(low: int, high: int) -> tuple[int, int, int, int, int]:
    """A stretch between two tacks as the heap orders it: the room on the shorter side of its middle, less is
    later.
    """
    middle = (low + high) // 2
    return low - middle, low, low, middle, high
