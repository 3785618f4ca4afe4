"""When a point beside the weld is hottest: how far the source is past it then.

At the hottest moment the rise along ξ is flat: d/dξ [exp(−κξ)·S(r)] = 0 with r² = ξ² + y². With g =
−S'(r)/S(r) this says

ξ = −κ·r/g(r),   y = r·√(1 − (κ/g)²)

so that every r gives one pair of y and ξ, without a search. Forty of them make a table, from which ξ at
the wanted y is
read by cubics. At a depth z > 0 the table begins where κ/g = 1, which is y = 0.

References
----------
Rosenthal D. (1946), The theory of moving sources of heat, Trans. ASME 68, 849-866.
Christensen N. et al. (1965), The distribution of temperature in arc welding, British Welding Journal 12,
54-75.
"""

from __future__ import annotations

from threading import Lock

import numpy as np

from anvilsong.core.heat.bessel import k0e, k1e
from anvilsong.core.heat.plate import (
    FEW_IMAGES,
    NEAR,
    NEAR_IMAGES,
    SERIES_TERMS,
    Array,
    Numbers,
    Plate,
    kinds_of,
)

ROWS = 36
LEAST_MM, LEAST_OF_DEPTH, MOST_MM = 0.03, 0.05, 80.0


def hottest_xi_mm(plate: Plate, y_mm: Numbers, z_mm: Numbers) -> Array:
    """Place along travel, mm (negative: behind the source), of the largest rise at distance y and depth z.

    Arrays are broadcast together; points of the same plate and depth share a table.
    """
    members = (plate.kappa_per_mm, plate.thickness_mm, z_mm)
    shape = np.broadcast_shapes(*(np.shape(each) for each in (*members, y_mm)))
    y = np.broadcast_to(np.asarray(y_mm, dtype=float), shape).ravel()
    found, number = kinds_of(*members)
    kinds, which = np.array(found).T, np.broadcast_to(number, shape).ravel()
    where, log_lag, first = _tables(found)
    asked = np.log(y**2 + kinds[2][which] ** 2 + 1e-30)
    low = np.clip((where[which] <= asked[:, None]).sum(axis=1) - 2, first[which], ROWS - 4)
    near = low[:, None] + np.arange(4)
    rows = which[:, None]
    return np.asarray(-np.exp(_cubic(where[rows, near], log_lag[rows, near], asked)).reshape(shape))


_KEPT: dict[tuple[float, ...], tuple[Array, Array, int]] = {}
MOST_KEPT = 1024
_writing = Lock()


def _tables(kinds: list[tuple[float, ...]]) -> tuple[Array, Array, Array]:
    """The table of each kind; kept, since a width is asked of the same plate that a curve was made for."""
    found = [_KEPT.get(kind) for kind in kinds]
    missing = [kind for kind, kept in zip(kinds, found, strict=True) if kept is None]
    if missing:
        made = dict(zip(missing, zip(*_table(*np.array(missing).T[:, :, None]), strict=True), strict=True))
        with _writing:
            _KEPT.update(made)
            while len(_KEPT) > MOST_KEPT:
                del _KEPT[next(iter(_KEPT))]
        found = [kept or made[kind] for kind, kept in zip(kinds, found, strict=True)]
    where, log_lag, first = zip(*filter(None, found), strict=True)
    return np.stack(where), np.stack(log_lag), np.array(first)


def _table(kappa: Array, t: Array, z: Array) -> tuple[Array, Array, Array]:
    """ln(y² + z²) and ln|ξ| along the table of each kind, and where each table begins."""
    least = np.maximum(LEAST_MM, LEAST_OF_DEPTH * z)
    most = MOST_MM + 4 * kappa * MOST_MM**2
    r = least * (most / least) ** np.linspace(0, 1, ROWS)
    lag = kappa * _reach(kappa, t, z, r)
    first = (lag >= 1).sum(axis=1)  # places under the least r at which anything is hottest
    for kind in np.flatnonzero(first):
        # Where κ/g passes 1, from the four places around it, stands before the first that can be.
        begin = int(np.clip(first[kind] - 2, 0, ROWS - 4))
        around = slice(begin, begin + 4)
        log_r = _cubic(-np.log(lag[kind, None, around]), np.log(r[kind, None, around]), np.zeros(1))
        first[kind] -= 1
        r[kind, first[kind]], lag[kind, first[kind]] = np.exp(log_r[0]), 1.0
    y2 = r**2 * (1 - np.minimum(lag, 1.0) ** 2)
    where = np.log(y2 + z**2)
    where[np.arange(ROWS) < first[:, None]] = -np.inf
    return where, np.log(r * lag), first


def _reach(kappa: Array, t: Array, z: Array, r: Array) -> Array:
    """1/g = −S/S', mm, at distances r; one row for each kind of plate."""
    found = np.empty(r.shape)
    thick = kappa[:, 0] * t[:, 0] >= FEW_IMAGES
    if thick.any():
        found[thick] = _by_images(kappa[thick], t[thick], z[thick], r[thick])
    if not thick.all():
        thin = ~thick
        found[thin] = _by_series(kappa[thin], t[thin], z[thin], r[thin])
    return found


def _by_images(kappa: Array, t: Array, z: Array, r: Array) -> Array:
    count = int(np.ceil(6 / (kappa * t).min()))
    depth = z[..., None] - 2 * t[..., None] * np.arange(-count, count + 1)
    distance = np.hypot(r[..., None], depth)
    each = np.exp(kappa[..., None] * (r[..., None] - distance)) / distance
    falls = each * (kappa[..., None] + 1 / distance) * (r[..., None] / distance)
    return np.asarray(each.sum(axis=-1) / falls.sum(axis=-1))


def _by_series(kappa: Array, t: Array, z: Array, r: Array) -> Array:
    """By the cosine series from r = t/2 on; nearer, S from there by the nearest images and S' by their
    slopes.
    """
    n = np.arange(SERIES_TERMS + 1)[:, None, None]
    rate = np.hypot(kappa, n * np.pi / t)
    weight = np.where(n == 0, 1.0, 2.0) * np.cos(n * np.pi * z / t) / t

    # The edge itself stands last.
    edge = NEAR * t
    at = np.concatenate((np.maximum(r, edge), edge), axis=1)
    less, reach = weight * np.exp(np.maximum((kappa - rate) * at, -60.0)), rate * at
    # S and −S', both times exp(κr).
    values, slopes = (less * k0e(reach)).sum(axis=0), (less * rate * k1e(reach)).sum(axis=0)
    value, slope, near = values[:, :-1], slopes[:, :-1], r < edge
    if near.any():
        base = values[:, -1:] * np.exp(-kappa * edge)
        depth = z[..., None] - 2 * t[..., None] * np.arange(-NEAR_IMAGES, NEAR_IMAGES + 1)
        here, there = np.hypot(r[..., None], depth), np.hypot(edge[..., None], depth)
        each = np.exp(-kappa[..., None] * here) / here
        gain = each.sum(axis=-1) - (np.exp(-kappa[..., None] * there) / there).sum(axis=-1)
        falls = (each * (kappa[..., None] + 1 / here) * (r[..., None] / here)).sum(axis=-1)
        value, slope = np.where(near, base + gain, value), np.where(near, falls, slope)
    return np.asarray(value / slope)


def _cubic(x: Array, y: Array, at: Array) -> Array:
    """The cubic through four places a row, at one place a row (Lagrange)."""
    found = np.zeros(at.shape)
    for i in range(4):
        weight = np.ones(at.shape)
        for j in range(4):
            if j != i:
                weight *= (at - x[:, j]) / (x[:, i] - x[:, j])
        found += weight * y[:, i]
    return found
