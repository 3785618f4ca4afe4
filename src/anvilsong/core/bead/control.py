"""The day's check: the same standard run again and again, against the limits of the shop's own history.

Individuals and moving range: x̄ ± 2.66·R̄ and R ≤ 3.267·R̄, R̄ the mean of the differences of neighbours.
Eight in a row on one side of the mean are out as well. Limits come from the first twenty runs, and from six
at least; the newest is judged by those before it.

References
----------
Shewhart's constants for pairs: 3/d₂ = 2.66 and D₄ = 3.267 with d₂ = 1.128 (ISO 7870-2).
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from anvilsong.core.value import Value

LEAST_RUNS, MOST_FOR_LIMITS = 6, 20
INDIVIDUALS, RANGES = 2.66, 3.267
IN_A_ROW = 8
# In this order, before any setting is touched.
CHECKS = (
    "Gas: flow at the cup, the hose's joints, what is left in the cylinder, a draught.",
    "Tungsten: its tip, its size, whether it touched.",
    "Cleanliness: brush, degreaser, the rod's end, the scrap itself.",
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


def control_chart(values: Sequence[float]) -> Chart | None:
    """The chart of a figure, oldest run first; None while there are too few runs for limits."""
    if len(values) < LEAST_RUNS:
        return None
    seen = np.asarray(values, dtype=float)
    # The newest run is judged by those before it, as soon as they are enough.
    base = seen[: min(MOST_FOR_LIMITS, max(len(seen) - 1, LEAST_RUNS))]
    mean, span = float(base.mean()), float(np.abs(np.diff(base)).mean())
    low, high = mean - INDIVIDUALS * span, mean + INDIVIDUALS * span
    jumps = np.concatenate([[0.0], np.abs(np.diff(seen))])
    out = (seen < low) | (seen > high) | (jumps > RANGES * span + 1e-12)
    side = np.sign(seen - mean)
    for last in range(IN_A_ROW, len(seen) + 1):
        row = side[last - IN_A_ROW : last]
        out[last - 1] |= bool(row[0] != 0 and (row == row[0]).all())
    return Chart(
        values=tuple(map(float, seen)),
        mean=mean,
        low=low,
        high=high,
        most_range=RANGES * span,
        out=tuple(map(bool, out)),
    )
