"""Round values along an axis, round in the reader's own units."""

from __future__ import annotations

import math

from anvilsong.core.shown import to_shown
from anvilsong.core.units import Dimension, UnitSystem


def nice(step: float) -> float:
    """The next of 1, 2, 5 in its power of ten: 0.3 gives 0.5, 21 gives 50."""
    power = 10.0 ** math.floor(math.log10(max(step, 1e-9)))
    return next(n * power for n in (1, 2, 5, 10) if n * power >= step * (1 - 1e-9))


def round_ticks(low: float, high: float, about: int, dimension: Dimension, system: UnitSystem) -> list[float]:
    """Values from low to high in the inside unit, at most about so many steps, round as they are shown. Of a
    range without extent its one value.
    """
    if not high > low:
        return [low]
    first, last = (to_shown(end, dimension, system) for end in (low, high))
    step = nice((last - first) / about)
    counts = range(math.ceil(first / step - 1e-9), math.floor(last / step + 1e-9) + 1)
    scale = (high - low) / (last - first)
    return [low + (n * step - first) * scale for n in counts]
