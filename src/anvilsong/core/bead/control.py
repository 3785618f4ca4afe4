"""The day's check: the same standard run again and again, against the limits of the shop's own history.

Individuals and moving range: x̄ ± 2.66·R̄ and R ≤ 3.267·R̄, R̄ the mean of the differences of neighbours,
and neither tighter than what the measure resolves: seven equal readings are no reason for a red eighth.
Eight in a row on one side of the mean are out as well. A run that comes back inside after one that was out
is not out for the jump back. Limits come from the first twenty runs, and from six
at least; the newest is judged by those before it.

References
----------
Shewhart's constants for pairs: 3/d₂ = 2.66 and D₄ = 3.267 with d₂ = 1.128 (ISO 7870-2).
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from anvilsong.core.value import Value
from anvilsong.core.words import sentence

LEAST_RUNS, MOST_FOR_LIMITS = 6, 20
INDIVIDUALS, RANGES = 2.66, 3.267
IN_A_ROW = 8
PLACES_OUT = 2
NEAR = 1e-9
# In this order, before any setting is touched.
CHECKS = (
    sentence("bead.gas_flow_cup_hoses"),
    sentence("bead.tungsten_tip_size_whether"),
    sentence("bead.cleanliness_brush_degreaser_filler"),
)


class Chart(Value):
    """One figure over the runs, with its limits; ``out`` says which runs lie outside what is usual."""

    values: tuple[float, ...]
    mean: float
    low: float
    high: float
    most_range: float
    out: tuple[bool, ...]

    @property
    def is_out(self) -> bool:
        """Whether the newest run is out."""
        return bool(self.out) and self.out[-1]

    @property
    def is_back(self) -> bool:
        """Whether the newest run is as usual again after one that was not."""
        return len(self.out) > 1 and self.out[-2] and not self.out[-1]


class Usual(Value):
    """A judgement of the newest run beside what was usual before it, in places of its scale."""

    usual: int
    newest: int

    @property
    def is_out(self) -> bool:
        """Whether it lies so far off that it is no matter of the eye: looks at one bead differ by a place."""
        return abs(self.newest - self.usual) >= PLACES_OUT


def usual_place(places: Sequence[int]) -> Usual | None:
    """The newest judgement against the median of those before, oldest first; None while there are too few.

    >>> usual_place([2, 2, 3, 2, 2, 2, 0]).is_out
    True
    """
    if len(places) <= LEAST_RUNS - 1:
        return None
    return Usual(usual=int(np.median(places[-1 - MOST_FOR_LIMITS : -1])), newest=places[-1])


def control_chart(values: Sequence[float], resolves: float) -> Chart | None:
    """The chart of a figure, oldest run first; None while there are too few runs for limits.

    Parameters
    ----------
    resolves : what the measure resolves, in the figure's unit
    """
    if len(values) < LEAST_RUNS:
        return None
    seen = np.asarray(values, dtype=float)
    # The newest run is judged by those before it, as soon as they are enough.
    base = seen[: min(MOST_FOR_LIMITS, max(len(seen) - 1, LEAST_RUNS))]
    mean, span = float(base.mean()), float(np.abs(np.diff(base)).mean())
    reach, most_range = max(INDIVIDUALS * span, resolves), max(RANGES * span, resolves)
    low, high = mean - reach, mean + reach
    past = (seen < low - NEAR) | (seen > high + NEAR)
    jumps = np.concatenate([[0.0], np.abs(np.diff(seen))])
    returns = np.concatenate([[False], past[:-1] & ~past[1:]])
    out = past | ((jumps > most_range + NEAR) & ~returns)
    # On the mean, as far as the measure tells, is on neither side.
    side = np.where(np.abs(seen - mean) < resolves / 2, 0.0, np.sign(seen - mean))
    for last in range(IN_A_ROW, len(seen) + 1):
        row = side[last - IN_A_ROW : last]
        out[last - 1] |= bool(row[0] != 0 and (row == row[0]).all())
    return Chart(
        values=tuple(map(float, seen)),
        mean=mean,
        low=low,
        high=high,
        most_range=most_range,
        out=tuple(map(bool, out)),
    )
