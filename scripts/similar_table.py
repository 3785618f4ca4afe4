"""Makes ``core/data/similar.npz``: heat against width, and width against heat, for every plate at once.

Every thickness is the same plate under another scale (``core/heat/similar.py``), so two tables over
logarithms hold all of them. Each row walks along the places that are hottest when the source is past them:
at the hottest moment ξ and y follow from r alone (``core/heat/hottest.py``), so nothing is searched for. Sums
are carried to their end here, with the library's Bessel functions, and share no code with the program's
own fast forms.

Run: ``python scripts/similar_table.py``; it prints how far straight reading between the places is from the
sums.
"""

from __future__ import annotations

import numpy as np
from scipy.interpolate import CubicSpline
from scipy.special import k0e, k1e

from anvilsong.core.heat.plate import Plate
from anvilsong.core.heat.similar import BETA, HEAT, REACH, TABLE, Axis, heat_for_width_w

RADII = 3000
APART = 0.5  # of the thickness: nearer than this by images, farther by the series
TERMS = np.arange(1, 241)[:, None]
IMAGES = 2.0 * np.arange(-600, 601)[:, None]


def series(beta: float, r: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """exp(βr)·S and −exp(βr)·S′ at the face of a plate of thickness 1, from r = 1/2 on."""
    rate = np.hypot(beta, TERMS * np.pi)
    less = 2 * np.exp(np.maximum((beta - rate) * r, -700.0))
    value = k0e(beta * r) + (less * k0e(rate * r)).sum(axis=0)
    return value, beta * k1e(beta * r) + (less * rate * k1e(rate * r)).sum(axis=0)


def images(beta: float, r: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """The same nearer to the source: the series at 1/2, and what the mirror sources add from there."""
    edge = np.array([APART])
    base = series(beta, edge)[0] * np.exp(-beta * APART)
    here, there = np.hypot(r, IMAGES), np.hypot(edge, IMAGES)
    each = np.exp(-beta * here) / here
    value = base + each.sum(axis=0) - (np.exp(-beta * there) / there).sum(axis=0)
    falls = (each * (beta + 1 / here) * (r / here)).sum(axis=0)
    return value * np.exp(beta * r), falls * np.exp(beta * r)


def walk(beta: float) -> tuple[np.ndarray, np.ndarray]:
    """ln(y/t) and ln(q/(2πktΘ)) along the hottest places of the face, from the source outwards."""
    far = 1e3 * np.exp(HEAT.last) / min(beta, 1.0)
    r = np.geomspace(np.exp(REACH.first) / 3, max(far, beta * far**2), RADII)
    near = r < APART
    value, falls = np.empty(RADII), np.empty(RADII)
    value[near], falls[near] = images(beta, r[near])
    value[~near], falls[~near] = series(beta, r[~near])
    # 1 − κ/g; far away K0/K1 = 1 − 1/2x + 3/8x², whose difference from 1 the quotient would lose.
    x = beta * r
    slack = np.where(x > 1e4, 1 / (2 * x) - 3 / (8 * x**2), 1 - beta * value / falls)
    y = r * np.sqrt(slack * (2 - slack))
    # P = exp(−κξ)·S with ξ = −r·(1 − slack).
    return np.log(y), x * slack - np.log(value)


def table() -> tuple[np.ndarray, np.ndarray]:
    """Both tables, one row for each β."""
    rows = [walk(float(np.exp(log_beta))) for log_beta in BETA.places()]
    heats = [CubicSpline(y, heat)(REACH.places()) for y, heat in rows]
    reaches = [CubicSpline(heat, y)(HEAT.places()) for y, heat in rows]
    return np.array(heats), np.array(reaches)


def between(axis: Axis) -> np.ndarray:
    """Places in the middle between those of the table."""
    return axis.places()[1:-2] + axis.step / 2


def main() -> None:
    heats, reaches = table()
    np.savez_compressed(TABLE, heats=heats.astype(np.float32), reaches=reaches.astype(np.float32))
    worst = 0.0
    for log_beta in between(BETA)[::3]:
        beta = float(np.exp(log_beta))
        y, heat = walk(beta)
        wanted = np.exp(CubicSpline(y, heat)(between(REACH)))
        plate = Plate(1.0, 2 * beta, 1 / (2 * np.pi), 1.0)
        read = heat_for_width_w(plate, 2 * np.exp(between(REACH)), 1.0)
        worst = max(worst, float(np.abs(np.asarray(read) / wanted - 1).max()))
    print(f"{TABLE.name}: {heats.size} and {reaches.size} places; between them {worst:.1e} off at most")


if __name__ == "__main__":
    main()
