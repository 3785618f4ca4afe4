"""Heat for a pool's width, and width for a heat, at the face of any plate: read from two tables.

Measured in its own thickness t, every plate is one plate. With ρ = y/t for the half width, β = κt for the
speed and h = q/(2πktΘ) for the heat, the moving source's largest rise at the face is a function of ρ and β
alone, so that

h = 1/P(ρ, β),   P = t·max over ξ of exp(−κξ)·S(r)

holds for every thickness, speed and alloy. ``similar.npz`` has ln h over (ln β, ln ρ) and the inverse, ln ρ
over (ln β, ln h), from sums carried to their end by ``scripts/similar_table.py``. Between their places cubics
are within 1e-5 of the heat where β < 0.7, which is all sheet, and within 7e-4 in quickly passed blocks.
Beyond the tables their ends hold; 60 mm of half width is reached inside.

References
----------
Christensen N. et al. (1965), The distribution of temperature in arc welding, British Welding Journal
12, 54-75 (the dimensionless form).
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from anvilsong.core.heat.plate import Array, Numbers, Plate

TABLE = Path(__file__).parents[1] / "data" / "similar.npz"
LEAST_HALF_MM, MOST_HALF_MM = 0.05, 60.0  # of the widths that are told
NO_HEAT = 1e-12

Number = TypeVar("Number", float, Array)


@dataclass(frozen=True)
class Axis:
    """Equal steps of a logarithm."""

    first: float
    step: float
    count: int

    @property
    def last(self) -> float:
        """The last place."""
        return self.first + self.step * (self.count - 1)

    def places(self) -> Array:
        """All places."""
        return np.asarray(self.first + self.step * np.arange(self.count), dtype=float)


BETA = Axis(math.log(1e-4), 0.15, 85)  # κt
REACH = Axis(math.log(5e-4), 0.07, 195)  # y/t
HEAT = Axis(math.log(5e-4), 0.07, 241)  # q/(2πktΘ)


class _Table:
    """Values over ln β and another logarithm."""

    def __init__(self, values: NDArray[np.float32], axis: Axis) -> None:
        self._axis = axis
        self._values = values.astype(float)
        self._flat = self._values.ravel()
        self._rows: list[list[float]] = self._values.tolist()

    def one(self, log_beta: float, along: float) -> float:
        """The value at one place."""
        row, across = _place(BETA, log_beta)
        column, lengthwise = _place(self._axis, along)
        w0, w1, w2, w3 = lengthwise
        value = 0.0
        for weight, places in zip(across, self._rows[row : row + 4], strict=True):
            a, b, c, d = places[column : column + 4]
            value += weight * (w0 * a + w1 * b + w2 * c + w3 * d)
        return value

    def many(self, log_beta: Numbers, along: Array) -> Array:
        """Values at places, broadcast together; the same numbers."""
        along = along.reshape((1,) * (np.ndim(log_beta) - along.ndim) + along.shape)
        column, lengthwise = _places(self._axis, along)
        if isinstance(log_beta, float):  # one plate: its own row first
            row, across = _place(BETA, log_beta)
            line = np.dot(across, self._values[row : row + 4])
            return np.asarray((lengthwise * line[column + _offsets(column.ndim)]).sum(axis=0))
        rows, weights = _places(BETA, np.asarray(log_beta))
        corner = rows * self._axis.count + column
        value = np.zeros(corner.shape)
        for i in range(4):
            places = corner + i * self._axis.count + _offsets(corner.ndim)
            value += weights[i] * (lengthwise * self._flat[places]).sum(axis=0)
        return value


def _offsets(dimensions: int) -> NDArray[np.intp]:
    """0 to 3 along an axis before so many others."""
    return np.arange(4).reshape(4, *(1,) * dimensions)


def _place(axis: Axis, at: float) -> tuple[int, tuple[float, ...]]:
    steps = min(max((at - axis.first) / axis.step, 0.0), axis.count - 1.0)
    low = min(max(int(steps) - 1, 0), axis.count - 4)
    return low, _cubic(steps - low)


def _places(axis: Axis, at: Array) -> tuple[NDArray[np.intp], Array]:
    steps = np.minimum(np.maximum((at - axis.first) / axis.step, 0.0), axis.count - 1.0)
    low = np.minimum(np.maximum(steps.astype(np.intp) - 1, 0), axis.count - 4)
    return low, np.array(_cubic(steps - low))


def _cubic(s: Number) -> tuple[Number, Number, Number, Number]:
    """What each of four places counts at s steps from the first (Lagrange)."""
    a, b, c = s - 1, s - 2, s - 3
    ab, sc = a * b, s * c
    return ab * c / -6, sc * b / 2, sc * a / -2, s * ab / 6


@cache
def _tables() -> tuple[_Table, _Table]:
    """Heat by reach, and reach by heat; read when first asked."""
    with np.load(TABLE) as kept:
        return _Table(kept["heats"], REACH), _Table(kept["reaches"], HEAT)


def heat_for_width_w(plate: Plate, width_mm: Numbers, contour_k: Numbers) -> Numbers:
    """Heat, W, whose contour ΔT = Θ is ``width_mm`` wide at the face: q = 2πktΘ·h(w/2t, κt).

    Arrays of widths, of rises to the contour or of a plate's members give arrays, broadcast together.
    """
    t, beta = plate.thickness_mm, plate.kappa_per_mm * plate.thickness_mm
    unit = 2 * math.pi * plate.conductivity_w_mm_k * t * contour_k
    return unit * _read(_tables()[0], beta, width_mm / (2 * t))


def contour_width_mm(plate: Plate, heat_w: Numbers, contour_k: Numbers) -> Numbers:
    """Contour width, mm, at the face for a heat, W: the inverse; 0 without heat, between 0.1 and 120 mm else.

    Arrays of heats, of rises or of a plate's members give arrays, broadcast together.
    """
    t, beta = plate.thickness_mm, plate.kappa_per_mm * plate.thickness_mm
    share = heat_w / (2 * math.pi * plate.conductivity_w_mm_k * t * contour_k)
    if isinstance(share, float):
        if share <= NO_HEAT:
            return 0.0
        half = t * _read(_tables()[1], beta, share)
        return 2 * min(max(half, LEAST_HALF_MM), MOST_HALF_MM)
    half = t * _read(_tables()[1], beta, np.maximum(share, NO_HEAT))
    told = 2 * np.minimum(np.maximum(half, LEAST_HALF_MM), MOST_HALF_MM)
    return np.where(share > NO_HEAT, told, 0.0)


def _read(table: _Table, beta: Numbers, along: Numbers) -> Numbers:
    """What a table of logarithms says, itself no longer one."""
    if not isinstance(beta, float):
        return np.asarray(np.exp(table.many(np.log(beta), np.asarray(np.log(along)))))
    if isinstance(along, float):
        return math.exp(table.one(math.log(beta), math.log(along)))
    return np.asarray(np.exp(table.many(math.log(beta), np.asarray(np.log(along)))))
