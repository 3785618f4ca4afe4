"""Steady heat of a moving point source in a plate (Rosenthal 1946), both faces adiabatic, properties
constant.

ΔT(ξ, y, z) = q·exp(−κξ)/(2πk) · S(r, z),   κ = v/(2a),   r = √(ξ² + y²)

S is the sum over mirror sources, or, which is the same function (Poisson), a cosine series through the depth:

S = Σ_m exp(−κR_m)/R_m,  R_m = √(r² + (z − 2mt)²),  m = −∞..∞
S = (1/t)·[K0(κr) + 2·Σ_n cos(nπz/t)·K0(r·√(κ² + (nπ/t)²))],  n = 1..∞

Lengths mm, speeds mm/s, conductivity W/(mm·K), diffusivity mm²/s.

Notes
-----
The mirror sum needs about 6/(κt) sources a side: a few in thick plate, thousands for slow travel on foil.
There the series
needs a handful of terms where r is not small against t. So where κt is under 0.75 the series is used from
r = t/2 on, and
nearer the source the few nearest mirror sources carry the difference from S at r = t/2, whose terms die
out with the cube
of their distance. Where κt is larger the series would be a small difference of large terms, and mirror
sources are few.
Either way the work is bounded, whatever thickness and speed, and agrees with the long mirror sum within
0.1 %.

The widest point of the contour ΔT = Θ lies where the largest rise along a line of constant y just reaches
Θ. That largest rise per watt, g(y), falls steadily with y, so that q = Θ / g(w/2); ``heat.similar`` has both
directions at the face.

Everything takes numbers or arrays; the members of a plate may be arrays too, one value a point.

References
----------
Rosenthal D. (1946), The theory of moving sources of heat, Trans. ASME 68, 849-866.
Carslaw H. S., Jaeger J. C. (1959), Conduction of Heat in Solids, 2nd ed., sections 10.7 and 14.3.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from anvilsong.core.heat.bessel import k0e, k0e_far
from anvilsong.core.heat.plate import FEW_IMAGES, NEAR, NEAR_IMAGES, SERIES_TERMS, Array, Numbers, Plate


def rise_per_watt(plate: Plate, xi_mm: Numbers, y_mm: Numbers, z_mm: Numbers) -> Array:
    """Temperature rise per watt, K/W, at points (ξ along travel, y across, z deep), broadcast against each
    other and the plate.
    """
    given = (xi_mm, y_mm, plate.kappa_per_mm, plate.thickness_mm, z_mm)
    shape = np.broadcast_shapes(*(np.shape(each) for each in given))
    xi, y = (np.broadcast_to(np.asarray(each, dtype=float), shape).ravel() for each in given[:2])
    kappa, t, z = (_a_point(each, shape) for each in given[2:])
    # At the source itself the point solution has no end.
    radius = np.maximum(np.hypot(xi, y), 1e-9)
    thick = np.broadcast_to(kappa * t >= FEW_IMAGES, radius.shape)
    near = ~thick & (radius < NEAR * t)
    found = np.empty(radius.shape)
    for here, way in ((thick, _images), (~thick & ~near, _series), (near, _near_source)):
        if here.all():
            found = way(kappa, t, xi, radius, z)
        elif here.any():
            found[here] = way(_at(kappa, here), _at(t, here), xi[here], radius[here], _at(z, here))
    return np.asarray(found.reshape(shape) / (2 * np.pi * plate.conductivity_w_mm_k))


def _a_point(value: Numbers, shape: tuple[int, ...]) -> Numbers:
    """A number as it is; an array as one value a point."""
    return value if np.ndim(value) == 0 else np.broadcast_to(np.asarray(value, dtype=float), shape).ravel()


def _at(value: Numbers, here: NDArray[np.bool_]) -> Numbers:
    return value[here] if isinstance(value, np.ndarray) and value.ndim else value


def _images(kappa: Numbers, t: Numbers, xi: Array, radius: Array, z: Numbers) -> Array:
    """exp(−κξ)·S by mirror sources: six decay lengths of them, eight a side at most where this is used."""
    counts = np.broadcast_to(np.maximum(3, np.ceil(6 / (kappa * np.asarray(t)))), radius.shape)
    found = np.zeros(radius.shape)
    for m in range(-int(counts.max()), int(counts.max()) + 1):
        distance = np.hypot(radius, z - 2 * t * m)
        found += np.where(abs(m) <= counts, np.exp(-kappa * (xi + distance)) / distance, 0.0)
    return found


def _series(kappa: Numbers, t: Numbers, xi: Array, radius: Array, z: Numbers) -> Array:
    """exp(−κξ)·S by the cosine series, used from r = t/2 on.

    K0 is taken scaled, K0(x) = exp(−x)·k0e(x), so that nothing over- or underflows.
    """
    n = np.arange(1, SERIES_TERMS + 1)[:, None]
    first = kappa * radius
    reach = np.hypot(kappa, n * np.pi / t) * radius
    # Against the first term; what is under exp(−50) of it is nothing, and would only slow the arithmetic
    # down.
    less = np.exp(np.maximum(first - reach, -50.0))
    # Every higher term has reach = rate·r ≥ π/2.
    less *= k0e_far(reach)
    less *= 2 * np.cos(n * np.pi * z / t)
    return np.asarray(np.exp(-kappa * xi - first) * (k0e(first) + less.sum(axis=0)) / t)


def _near_source(kappa: Numbers, t: Numbers, xi: Array, radius: Array, z: Numbers) -> Array:
    """exp(−κξ)·S near the source: S at r = t/2 by the series, and the difference from there by the nearest
    mirror sources.
    """
    from_mm = np.broadcast_to(NEAR * np.asarray(t, dtype=float), radius.shape)
    alike = all(np.ndim(each) == 0 for each in (kappa, t, z))
    from_mm = from_mm[:1] if alike else from_mm  # one place for all, or one for each
    # At ξ = 0 the factor exp(−κξ) is 1, so this is S itself.
    base = _series(kappa, t, np.zeros(from_mm.shape), from_mm, z)
    depth = z - 2 * t * np.arange(-NEAR_IMAGES, NEAR_IMAGES + 1)[:, None]
    there, here = np.hypot(from_mm, depth), np.hypot(radius, depth)
    gain = (np.exp(-kappa * here) / here).sum(axis=0) - (np.exp(-kappa * there) / there).sum(axis=0)
    return np.asarray(np.exp(-kappa * xi) * (base + gain))


def thin_plate_rise_per_watt(plate: Plate, xi_mm: float, y_mm: float) -> float:
    """The limit of a thin plate, K/W: exp(−vξ/2a)·K0(v·r/2a)/(2πkt)."""
    half = plate.kappa_per_mm
    radius = np.hypot(xi_mm, y_mm)
    return float(
        np.exp(-half * (xi_mm + radius))
        * k0e(np.asarray(half * radius))
        / (2 * np.pi * plate.conductivity_w_mm_k * plate.thickness_mm)
    )
