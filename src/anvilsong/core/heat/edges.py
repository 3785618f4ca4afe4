"""A pool beside an edge, a hole or an end: what it wants of the heat that it wants in the middle of a plate.

No heat flows over an edge, as if another source ran beside it at the mirrored place (Rosenthal 1946): the
rise is g(ξ, y) + g(ξ, 2d − y) with the edge d to one side, and g(ξ, y) + g(2d − ξ, y) with an end d ahead. A
hole is taken as an edge where it is nearest, which makes a little much of it. The pool is as wide as both its
sides together.

References
----------
Rosenthal D. (1946), The theory of moving sources of heat, Trans. ASME 68, 849-866.
"""

from __future__ import annotations

import numpy as np

from anvilsong.core.errors import Unfit
from anvilsong.core.heat.moving_source import rise_per_watt
from anvilsong.core.heat.plate import Array, Plate
from anvilsong.core.words import sentence

ALONG, ACROSS = 41, 81
REACH = 1.6  # pool widths, to each side


def edge_share(plate: Plate, width_mm: float, distance_mm: float, ahead: bool = False) -> float:
    """Heat for a pool of this width so far from an edge, over that of the middle; 1 far away, less near it.

    Raises
    ------
    ValueError : no width, or a distance under 0
    """
    if width_mm <= 0 or distance_mm < 0:
        raise Unfit(sentence("heat.pool_has_width_edge"))
    y = np.linspace(-REACH * width_mm, REACH * width_mm, ACROSS)
    far = _heat_for(_peaks(plate, y, width_mm), y, width_mm, np.inf)
    near = _heat_for(
        _peaks(plate, y, width_mm, distance_mm, ahead), y, width_mm, np.inf if ahead else distance_mm
    )
    return float(near / far)


def _peaks(
    plate: Plate, y: Array, width_mm: float, distance_mm: float = np.inf, ahead: bool = False
) -> Array:
    """Largest rise per watt along each line of y."""
    first = min(distance_mm, 0.5 * width_mm) if ahead else 0.5 * width_mm
    xi = np.linspace(-2.5 * width_mm, first, ALONG)[:, None]
    rise = rise_per_watt(plate, xi, y, 0.0)
    if np.isfinite(distance_mm):
        mirrored = (2 * distance_mm - xi, y) if ahead else (xi, 2 * distance_mm - y)
        rise = rise + rise_per_watt(plate, *mirrored, 0.0)
    return np.asarray(rise.max(axis=0))


def _heat_for(peak: Array, y: Array, width_mm: float, edge_mm: float) -> float:
    """Heat per kelvin of rise at which what is over the contour is so wide, by halving; only metal counts."""
    fine = np.linspace(y[0], min(y[-1], edge_mm), 1601)
    at = np.interp(fine, y, peak)
    low, high = 1 / float(at.max()), 1 / float(at.min())
    step = fine[1] - fine[0]
    for _ in range(40):
        middle = np.sqrt(low * high)
        low, high = (middle, high) if (at > 1 / middle).sum() * step < width_mm else (low, middle)
    return float(np.sqrt(low * high))
