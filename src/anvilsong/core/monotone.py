"""Monotone cubic interpolation (PCHIP), built and asked in a few array calls.

The same curve as scipy's ``PchipInterpolator``, whose checks cost more than the arithmetic on the short
tables here.

References
----------
Fritsch F. N., Butland J. (1984), A method for constructing local monotone piecewise cubic interpolants,
SIAM J. Sci. Stat. Comput. 5, 300-304.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


class Monotone:
    """A curve through points whose x rise; between them it never turns where the points do not.

    >>> float(Monotone([0.0, 1.0, 2.0], [0.0, 1.0, 4.0])(1.5))
    2.1875
    """

    def __init__(self, x: Sequence[float] | Array, y: Sequence[float] | Array) -> None:
        self._x, self._y = np.asarray(x, dtype=float), np.asarray(y, dtype=float)
        width = np.diff(self._x)
        slope = np.diff(self._y) / width
        self._slope = _derivatives(width, slope)
        # y = ((a·s + b)·s + d)·s + y0, with s from the left end of each piece.
        left, right = self._slope[:-1], self._slope[1:]
        bend = (left + right - 2 * slope) / width
        self._cubic, self._square = bend / width, (slope - left) / width - bend
        self._pieces: list[tuple[float, ...]] = list(
            zip(*(each.tolist() for each in self._parts()), strict=True)
        )
        self._inner = self._x[1:-1].tolist()

    def _parts(self) -> tuple[Array, ...]:
        return self._x[:-1], self._cubic, self._square, self._slope[:-1], self._y[:-1]

    def one(self, at: float) -> float:
        """The value at one place, the same number without the cost of an array."""
        x, cubic, square, slope, y = self._pieces[bisect_right(self._inner, at)]
        s = at - x
        return ((cubic * s + square) * s + slope) * s + y

    def __call__(self, at: Array | float) -> Array:
        """Values at some places; beyond the ends the outer pieces go on."""
        place = np.asarray(at, dtype=float)
        piece = np.clip(np.searchsorted(self._x, place, side="right") - 1, 0, self._cubic.size - 1)
        s = place - self._x[piece]
        value = self._cubic[piece] * s
        value = (value + self._square[piece]) * s
        value = (value + self._slope[piece]) * s
        return np.asarray(value + self._y[piece])


def _derivatives(width: Array, slope: Array) -> Array:
    """Slopes at the points: weighted harmonic means inside, one-sided three-point formulas at the ends."""
    if slope.size == 1:
        return np.repeat(slope, 2)
    before, after = slope[:-1], slope[1:]
    w1, w2 = 2 * width[1:] + width[:-1], width[1:] + 2 * width[:-1]
    turns = np.sign(before) * np.sign(after) <= 0
    with np.errstate(divide="ignore", invalid="ignore"):
        inner = (w1 + w2) / (w1 / before + w2 / after)
    ends = (_end(width[0], width[1], slope[0], slope[1]), _end(width[-1], width[-2], slope[-1], slope[-2]))
    return np.concatenate(([ends[0]], np.where(turns, 0.0, inner), [ends[1]]))


def _end(h0: float, h1: float, m0: float, m1: float) -> float:
    """Slope at an end from the two pieces beside it, held back so that the curve stays monotone."""
    slope = ((2 * h0 + h1) * m0 - h0 * m1) / (h0 + h1)
    if np.sign(slope) != np.sign(m0):
        return 0.0
    return float(3 * m0 if np.sign(m0) != np.sign(m1) and abs(slope) > 3 * abs(m0) else slope)
