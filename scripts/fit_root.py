"""How wide the root really is under a pool: a solid plate in three dimensions, against the moving point
source.

Half a plate in a frame that goes along with the arc: Gaussian arc on its face, melting with latent heat,
conductivity and specific heat that depend on temperature, molten metal stirred; its outer sides held at the
thin-plate solution, which is right there. The point source of the plan (``core/heat/hottest.py``) gives
top and root for the same heat; what stands in ``core/heat/root.py`` is fitted to the difference. Prints the
table and the fit.
"""

from __future__ import annotations

import itertools
import math
import sys
import time

import numpy as np
from numba import njit
from scipy.optimize import minimize

from anvilsong.core.heat.hottest import contour_at_depth_mm
from anvilsong.core.heat.metal_heat import MetalHeat
from anvilsong.core.heat.moving_source import thin_plate_rise_per_watt
from anvilsong.core.heat.plate import Plate
from anvilsong.core.heat.root import REFERENCE_MM, REFERENCE_PER_MM
from anvilsong.core.heat.similar import contour_width_mm, heat_for_width_w

AHEAD, BEHIND, ASIDE = 14.0, 26.0, 18.0  # mm of what is computed
SETTLES_S = 5.0
WATTS_A_AMPERE = 6.6  # of an everyday square wave
SIGMA_MM, SIGMA_MM_A = 1.1, 0.0025  # an arc widens with its amps: 1.4 mm at 130 A
METALS = {
    "6061": MetalHeat(2.70e-3, 0.2004, 582, 652),
    "5083": MetalHeat(2.66e-3, 0.1677, 574, 638),
    "1100": MetalHeat(2.71e-3, 0.2309, 643, 657),
}
CASES = [(1.0, 4.1), (1.6, 4.0), (2.4, 3.8), (3.2, 3.6), (4.8, 3.4), (6.4, 3.2)]
OTHER_SPEEDS = [(1.6, 7.0), (3.2, 2.0), (3.2, 6.0), (6.4, 1.6)]
HEATS = (0.85, 0.93, 1.0, 1.07, 1.15, 1.3)


@njit(cache=True, fastmath={"nsz", "arcp", "contract", "reassoc"})
def _stage(out, one, two, phi, h, table, least, per_step, mu, nu, step, rx, rz):
    """Cells of side 1/√rx in the plane and 1/√rz in depth; the outermost are held."""
    n, m, d = h.shape
    last = table.size - 2
    for i in range(n):
        for j in range(m):
            for k in range(d):
                place = (h[i, j, k] - least) * per_step
                below = np.uint32(min(max(place, 0.0), last))
                phi[i, j, k] = table[below] + (place - below) * (table[below + 1] - table[below])
    for i in range(1, n - 1):
        for j in range(m - 1):
            for k in range(d):
                here = phi[i, j, k]
                left = phi[i, j - 1, k] if j > 0 else here  # the plane of symmetry
                up = phi[i, j, k - 1] if k > 0 else here
                down = phi[i, j, k + 1] if k < d - 1 else here
                flows = rx * (phi[i + 1, j, k] + phi[i - 1, j, k] + phi[i, j + 1, k] + left - 4 * here)
                flows += rz * (up + down - 2 * here)
                out[i, j, k] = mu * one[i, j, k] + nu * two[i, j, k] + step * flows


def widths(metal: MetalHeat, t: float, v: float, q: float, sigma: float) -> tuple[float, float, float]:
    """Width of the melt at face, half way down and at the back, mm, in the steady state."""
    dz = t / max(6, round(t / 0.4))
    dx = min(0.5, max(0.3, t / 6))
    n, m, d = round((AHEAD + BEHIND) / dx), round(ASIDE / dx), round(t / dz)
    x = (np.arange(n) + 0.5) * dx - BEHIND  # the arc goes to larger x
    y = (np.arange(m) + 0.5) * dx
    plate = Plate(t, v, metal.hot_w_mm_k, metal.hot_w_mm_k / metal.density_g_mm3)
    rise = q * np.array([[thin_plate_rise_per_watt(plate, each, side) for side in y] for each in x])
    table = metal.table
    field = np.minimum(20 + rise, 900.0)
    h = np.repeat(np.asarray(table.enthalpy(field))[:, :, None], d, axis=2)
    edge = h.copy()
    a = metal.most_diffusive_mm2_s
    explicit = 1 / (a * (4 / dx**2 + 2 / dz**2))
    dt = dx / v / 4
    stages = max(3, math.ceil((math.sqrt(1 + 8 * dt / (0.98 * explicit)) - 1) / 2))
    buffers, phi = [h, h.copy(), h.copy()], np.zeros(h.shape)
    now, shifts = 0, math.ceil(SETTLES_S * v / dx)
    for step in range(4 * shifts):
        begin = buffers[now]
        if step % 4 == 0 and step:  # the frame goes on by one cell: what was at x lies at x − dx now
            begin[:-1] = begin[1:].copy()
        begin[0], begin[-1], begin[:, -1] = edge[0], edge[-1], edge[:, -1]
        at = (step % 4 + 0.5) / 4 * dx - 0.5 * dx
        spot = np.exp(-((x[:, None] - at) ** 2 + y[None, :] ** 2) / (2 * sigma**2))
        spot *= q / 2 / (spot.sum() * dx * dx * dz)
        part, last = 2 / (stages * stages + stages), now
        for j in range(1, stages + 1):
            mu, nu = (1.0, 0.0) if j == 1 else ((2 * j - 1) / j, (1 - j) / j)
            free = next(each for each in range(3) if each not in (now, last))
            out = buffers[free]
            out[0], out[-1], out[:, -1] = begin[0], begin[-1], begin[:, -1]
            _stage(
                out, buffers[now], buffers[last], phi, buffers[now], table.flow_w_mm, table.least_j_mm3,
                1 / table.step_j_mm3, mu, nu, mu * part * dt, 1 / dx**2, 1 / dz**2,
            )  # fmt: skip
            out[1:-1, :-1, 0] += mu * part * dt * spot[1:-1, :-1]
            last, now = now, free
    found = np.asarray(table.temperature(buffers[now]))
    face = 1.5 * found[:, :, 0] - 0.5 * found[:, :, 1]
    back = 1.5 * found[:, :, -1] - 0.5 * found[:, :, -2]
    middle = (found[:, :, (d - 1) // 2] + found[:, :, d // 2]) / 2
    at_face, half_way, at_back = (2 * _half(each, y, metal.contour_c) for each in (face, middle, back))
    return at_face, half_way, at_back


def _half(temperature: np.ndarray, y: np.ndarray, contour: float) -> float:
    """Farthest y at which some place is over the contour, between cells by straight lines."""
    hottest = temperature.max(axis=0)
    over = np.flatnonzero(hottest > contour)
    if over.size == 0:
        return 0.0
    n = int(over[-1])
    if n + 1 >= y.size:
        return float(y[-1])
    share = (hottest[n] - contour) / (hottest[n] - hottest[n + 1])
    return float(y[n] + share * (y[n + 1] - y[n]))


def main() -> None:
    rows = []
    for name, metal in METALS.items():
        for t, v in CASES + (OTHER_SPEEDS if name == "6061" else []):
            plate = Plate(t, v, metal.hot_w_mm_k, metal.hot_w_mm_k / metal.density_g_mm3)
            wanted, rise = 2.5 + 1.1 * t, metal.contour_c - 20
            base = float(heat_for_width_w(plate, wanted, rise))
            for share in HEATS:
                begun = time.time()
                q = base * share
                top = float(contour_width_mm(plate, q, rise))
                root = float(contour_at_depth_mm(plate, t, q, rise))
                sigma = SIGMA_MM + SIGMA_MM_A * q / WATTS_A_AMPERE
                middle = float(contour_at_depth_mm(plate, t / 2, q, rise))
                face, half, back = widths(metal, t, v, q, sigma)
                rows.append((t, v, q, rise, top, middle, root, face, half, back))
                print(
                    f"{name} {t:4.1f} mm {v:.1f} mm/s {q:6.0f} W  point {top:5.2f} {middle:5.2f} {root:5.2f} "
                    f"solid {face:5.2f} {half:5.2f} {back:5.2f}  ({time.time() - begun:.1f} s)",
                    flush=True,
                )
    found = np.array(rows)
    np.save(sys.argv[1] if len(sys.argv) > 1 else "root.npy", found)
    a0, a1, power, worst, rms = fitted(found)
    print(f"a = {a0:.3f} + {a1:.3f}·t, b = {power:.2f}; in R rms {rms:.3f}, at most {worst:.2f}")


def fitted(rows: np.ndarray) -> tuple[float, float, float, float, float]:
    """a₀, a₁ and b of R² = 1 − (a₀ + a₁·t)·e^(−b), by least squares over R; its largest miss and rms."""
    # By the point source's width, which is what a plan has; foil at the least heat does not melt at all.
    t, point, face, back = rows[rows[:, 7] > 0][:, [0, 4, 7, 9]].T
    wide, share = point / (REFERENCE_MM + REFERENCE_PER_MM * t), back / face

    def says(of: np.ndarray) -> np.ndarray:
        return np.sqrt(np.maximum(1 - (of[0] + of[1] * t) * wide ** -of[2], 0.0))

    # R falls to nothing at once, where least squares see no slope: begun from a coarse search.
    begin = min(
        itertools.product(np.linspace(0.3, 0.6, 16), np.linspace(0.1, 0.2, 21), np.linspace(3, 5, 21)),
        key=lambda of: float(np.sum((says(np.array(of)) - share) ** 2)),
    )
    best = minimize(lambda of: float(np.sum((says(of) - share) ** 2)), begin, method="Nelder-Mead").x
    miss = says(best) - share
    return *(float(each) for each in best), float(np.abs(miss).max()), float(np.sqrt(np.mean(miss**2)))


if __name__ == "__main__":
    main()
