"""Width of the contour for a heat: the inverse of the moving source's largest rise, built once for a plate
and a depth.
"""

from __future__ import annotations

import math
from threading import Lock

import numpy as np

from anvilsong.core.heat.moving_source import peak_rise_per_watt
from anvilsong.core.heat.plate import Array, Numbers, Plate, kinds_of
from anvilsong.core.monotone import Monotone

GRID = 48
HALF_WIDTHS_MM = np.geomspace(0.05, 60.0, GRID)
UNDER_THE_SOURCE_MM = 1e-6


class WidthCurve:
    """Contour width against heat at one depth of one plate, for numbers and arrays alike.

    Built once from ``peak_rise_per_watt`` on a logarithmic grid of y, then interpolated monotonically
    (PCHIP);
    within 0.3 % of the exact inverse between 0.05 and 60 mm of half width.
    """

    def __init__(self, peak: Array, deepest: float) -> None:
        """``peak`` at ``HALF_WIDTHS_MM``, K/W; ``deepest`` is the largest rise there is at this depth, ∞ at
        the face.
        """
        # Deep under the source the rise is flat to the last digit: only places where it really falls can be
        # told apart.
        falls = np.append(peak[:-1] > peak[1:] * (1 + 1e-9), True)
        half_widths, peak = HALF_WIDTHS_MM[falls], peak[falls]
        self._least_reciprocal = 1 / deepest
        self._log_half = Monotone(np.log(1 / peak), np.log(half_widths))
        self._known = (float(1 / peak[0]), float(1 / peak[-1]))

    def width_mm(self, heat_w: Numbers, contour_k: Numbers) -> Numbers:
        """Contour width, mm, for a heat, W; 0 where the contour does not reach this depth."""
        if isinstance(heat_w, float) and isinstance(contour_k, float):
            one = heat_w / contour_k
            if one <= max(self._least_reciprocal, 1e-12):
                return 0.0
            return 2 * math.exp(self._log_half.one(math.log(min(max(one, self._known[0]), self._known[1]))))
        reciprocal = np.asarray(heat_w, dtype=float) / contour_k
        reaches = reciprocal > max(self._least_reciprocal, 1e-12)
        safe = np.clip(reciprocal, *self._known)
        width = np.where(reaches, 2 * np.exp(self._log_half(np.log(safe))), 0.0)
        return float(width) if width.ndim == 0 else width


def width_curve(plate: Plate, z_mm: float) -> WidthCurve:
    """The curve of a plate and depth, kept, since a board asks for the same one again and again."""
    return _KEPT.get((plate, z_mm)) or _curves([(plate, z_mm)])[0]


_KEPT: dict[tuple[Plate, float], WidthCurve] = {}
MOST_KEPT = 1024
_writing = Lock()


def _curves(wanted: list[tuple[Plate, float]]) -> list[WidthCurve]:
    """The curves of some plates and depths; those not yet kept are made all at once."""
    found = {key: _KEPT.get(key) for key in wanted}
    missing = [key for key, kept in found.items() if kept is None]
    if missing:
        made = _made(missing)
        found |= made
        with _writing:
            _KEPT.update(made)
            while len(_KEPT) > MOST_KEPT:
                del _KEPT[next(iter(_KEPT))]
    return [curve for key in wanted if (curve := found[key]) is not None]


def _made(keys: list[tuple[Plate, float]]) -> dict[tuple[Plate, float], WidthCurve]:
    plates, depth = np.array([plate.members for plate, _ in keys]), np.array([[z] for _, z in keys])
    places = np.append(UNDER_THE_SOURCE_MM, HALF_WIDTHS_MM)
    peaks = peak_rise_per_watt(Plate(*plates.T[:, :, None]), places, depth)
    return {
        key: WidthCurve(peak[1:], float(peak[0]) if key[1] > 0 else np.inf)
        for key, peak in zip(keys, peaks, strict=True)
    }


def contour_width_mm(plate: Plate, z_mm: Numbers, heat_w: Numbers, contour_k: Numbers) -> Numbers:
    """Contour width, mm; plate, depth, heat and rise may be arrays, broadcast together.

    A curve is made for each plate and depth there is, not for each point: a map has as many of them as
    places on one axis.
    """
    members = (*plate.members, z_mm)
    if all(isinstance(each, float | int) for each in members):
        return width_curve(plate, float(z_mm)).width_mm(heat_w, contour_k)
    # Plates differ along few axes; heat and rise along more.
    kinds, which = kinds_of(*members)
    heat, contour, place = np.broadcast_arrays(heat_w, contour_k, which)
    width = np.empty(heat.shape)
    curves = _curves([(Plate(t, v, k, a), z) for t, v, k, a, z in kinds])
    for number, curve in enumerate(curves):
        here = place == number
        width[here] = curve.width_mm(heat[here], contour[here])
    return width
