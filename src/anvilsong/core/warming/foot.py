"""A foot that holds a pool's width, and what a pool wants on a plate without end.

The foot is a controller of speed form: it presses by how much the pool is too narrow, and by how fast that
changes.

q' = q_ref·(P·e' + e/T),   e = 1 − width/wanted

What the foot does on a part is told as a share of what the same pool wants of the same arc, cells and metal
on a plate without end, so that size of cells, Gaussian and melting cancel, and plan and part are one.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from anvilsong.core.heat.metal_heat import MetalHeat
from anvilsong.core.heat.plate import Array, Plate
from anvilsong.core.heat.plate_run import NO_LOSS, PlateRun
from anvilsong.core.warming.arc import Arc

PRESSES, SETTLES_S = 0.5, 0.6
SHORTEST_S, LONGEST_S = 20.0, 90.0
MARGIN = 1.1  # of how far heat goes in that time, 2·√(a·s)


class Foot:
    """Holds a width; ``press`` once a step."""

    def __init__(self, arc: Arc, reference_w: float, begins: float = 1.0) -> None:
        self.arc, self.reference_w = arc, reference_w
        self.share = begins
        self._before = 0.0

    @property
    def heat_w(self) -> float:
        return self.share * self.reference_w

    def press(self, width_mm: float, dt_s: float) -> None:
        """What the eye sees, and so much time."""
        error = 1 - width_mm / self.arc.width_mm
        self.share += PRESSES * (error - self._before) + error * dt_s / SETTLES_S
        self.share = min(max(self.share, self.arc.least), self.arc.most)
        self._before = error


@lru_cache(maxsize=128)
def reference_w(metal: MetalHeat, thickness_mm: float, arc: Arc, cell_mm: float) -> float:
    """Heat, W, that holds the pool on a plate without end, after long.

    Half a plate, the arc along its edge, for about as long as a steady field takes, 4a/v²; then what the
    closed solution says is still missing of for ever.
    """
    v, k, a = arc.travel_mm_s, metal.hot_w_mm_k, metal.hot_w_mm_k / metal.density_g_mm3
    seconds = min(max(4 * a / v**2, SHORTEST_S), LONGEST_S)
    margin_mm = MARGIN * 2 * float(np.sqrt(a * seconds))
    rows, columns = round(margin_mm / cell_mm), round((seconds * v + 1.5 * margin_mm) / cell_mm)
    run = PlateRun(np.full((rows, columns), thickness_mm), cell_mm, metal, air=NO_LOSS)
    plate, y = Plate(thickness_mm, v, k, a), np.array([arc.width_mm / 2])
    whole = rise_per_watt(plate, y, arc.sigma_mm)
    guess = (metal.contour_c - 20) / float(whole[0])
    foot, dt = Foot(Arc(arc.width_mm, v, 10.0, 0.05), guess), arc.step_s
    held: list[float] = []
    steps = round(seconds / dt)
    for n in range(steps):
        begin, end = (margin_mm + n * dt * v, 0.0), (margin_mm + (n + 1) * dt * v, 0.0)
        run.step(dt, foot.heat_w / 2, begin, end, arc.sigma_mm)
        foot.press(2 * run.pool_width_mm(*end, (1.0, 0.0), 2 * arc.width_mm), dt)
        if n > 0.85 * steps:
            held.append(foot.heat_w)
    then = rise_per_watt(plate, y, arc.sigma_mm, seconds)
    return float(np.mean(held) * then[0] / whole[0])


def rise_per_watt(plate: Plate, y_mm: Array, sigma_mm: float, seconds: float = np.inf) -> Array:
    """Largest rise at distance y, K/W, of a Gaussian arc that began so long ago on a thin plate.

    ΔT = q/(2πkt)·∫ 2a/(4as + 2σ²)·exp(−((ξ + vs)² + y²)/(4as + 2σ²)) ds, over the age s of the heat: each
    moment's heat spreads as a Gaussian (Carslaw and Jaeger 1959, 10.3, with the arc's own width added).
    """
    t, v, k, a = (float(each) for each in plate.members)
    last = min(seconds, 40 * (a / v**2 + sigma_mm / v))
    s = np.concatenate(([0.0], np.geomspace(1e-5, 1.0, 1200))) * last
    xi = -np.linspace(0, 6, 49)[:, None, None] * np.maximum(y_mm, 0.5)[None, :, None]
    spread = 4 * a * s + 2 * sigma_mm**2
    inner = 2 * a / spread * np.exp(-((xi + v * s) ** 2 + y_mm[None, :, None] ** 2) / spread)
    return np.asarray(np.trapezoid(inner, s, axis=-1).max(axis=0) / (2 * np.pi * k * t))
