"""Where a plate is hottest when the source has passed, at the face and in the depth.

At the hottest moment the rise along ξ is flat: d/dξ [exp(−κξ)·S(r)] = 0 with r² = ξ² + y². With g =
−S'(r)/S(r) this says

ξ = −κ·r/g(r),   y = r·√(1 − (κ/g)²)

so that every r gives one pair of y and ξ, without a search. At a depth z > 0 they begin where κ/g = 1, which
is y = 0. The face of every plate stands in ``similar``; here is what the point source itself says in the
depth, against which ``root`` was fitted.

References
----------
Rosenthal D. (1946), The theory of moving sources of heat, Trans. ASME 68, 849-866.
Christensen N. et al. (1965), The distribution of temperature in arc welding, British Welding Journal 12,
54-75.
"""

from __future__ import annotations

import numpy as np

from anvilsong.core.heat.bessel import k0e, k1e
from anvilsong.core.heat.moving_source import rise_per_watt
from anvilsong.core.heat.plate import (
    FEW_IMAGES,
    NEAR,
    NEAR_IMAGES,
    SERIES_TERMS,
    Array,
    Numbers,
    Plate,
)
from anvilsong.core.monotone import Monotone
from anvilsong.core.roots import root

ROWS = 240
LEAST_MM, MOST_MM = 0.003, 80.0


def hottest_places_mm(plate: Plate, z_mm: float) -> tuple[Array, Array]:
    """Distances y from the seam, mm, rising, and ξ, mm (negative: behind), where each is hottest."""
    kappa, t = float(plate.kappa_per_mm), float(plate.thickness_mm)
    reach = _by_images if kappa * t >= FEW_IMAGES else _by_series

    def lag(r: Array) -> Array:
        return kappa * reach(kappa, t, z_mm, r)

    most = MOST_MM + 4 * kappa * MOST_MM**2
    # Near κz² in a thick plate, where S is 1/R.
    least = 1e-3 * min(z_mm, kappa * z_mm**2)
    begin = 0.0 if z_mm == 0 else root(lambda r: float(lag(np.array([r]))[0]) - 1, least, most)
    r = begin + np.geomspace(LEAST_MM * max(begin, 1.0), most, ROWS)
    lags = lag(r)
    return np.asarray(r * np.sqrt(1 - lags**2)), np.asarray(-r * lags)


def contour_at_depth_mm(plate: Plate, z_mm: float, heat_w: Numbers, contour_k: Numbers) -> Array:
    """Width, mm, of the point source's contour at a depth; 0 where it does not reach there.

    Heats and rises may be arrays.
    """
    y, xi = hottest_places_mm(plate, z_mm)
    peak = rise_per_watt(plate, xi, y, z_mm)
    # Deep under the source the rise is flat to the last digit: only where it falls are places told apart.
    falls = np.append(True, np.diff(np.minimum.accumulate(peak)) < -1e-9 * peak[1:])
    peak, y = peak[falls], y[falls]
    share = np.asarray(contour_k, dtype=float) / heat_w
    log_half = Monotone(-np.log(peak), np.log(y))(-np.log(np.clip(share, peak[-1], peak[0])))
    return np.where(share < peak[0], 2 * np.exp(log_half), 0.0)


def _by_images(kappa: float, t: float, z: float, r: Array) -> Array:
    """1/g = −S/S', mm, at distances r by mirror sources."""
    count = int(np.ceil(6 / (kappa * t)))
    distance = np.hypot(r[:, None], z - 2 * t * np.arange(-count, count + 1))
    each = np.exp(kappa * (r[:, None] - distance)) / distance
    falls = each * (kappa + 1 / distance) * (r[:, None] / distance)
    return np.asarray(each.sum(axis=1) / falls.sum(axis=1))


def _by_series(kappa: float, t: float, z: float, r: Array) -> Array:
    """The same by the cosine series from r = t/2 on; nearer, S from there by the nearest images and S' by
    their slopes.
    """
    n = np.arange(SERIES_TERMS + 1)[:, None]
    rate = np.hypot(kappa, n * np.pi / t)
    weight = np.where(n == 0, 1.0, 2.0) * np.cos(n * np.pi * z / t) / t

    # The edge itself stands last.
    edge = NEAR * t
    at = np.append(np.maximum(r, edge), edge)
    less, reach = weight * np.exp(np.maximum((kappa - rate) * at, -60.0)), rate * at
    # S and −S', both times exp(κr).
    values, slopes = (less * k0e(reach)).sum(axis=0), (less * rate * k1e(reach)).sum(axis=0)
    near = r < edge
    base = values[-1] * np.exp(-kappa * edge)
    depth = z - 2 * t * np.arange(-NEAR_IMAGES, NEAR_IMAGES + 1)[:, None]
    here, there = np.hypot(r, depth), np.hypot(edge, depth)
    each = np.exp(-kappa * here) / here
    gain = each.sum(axis=0) - (np.exp(-kappa * there) / there).sum(axis=0)
    falls = (each * (kappa + 1 / here) * (r / here)).sum(axis=0)
    return np.asarray(np.where(near, (base + gain) / falls, values[:-1] / slopes[:-1]))
