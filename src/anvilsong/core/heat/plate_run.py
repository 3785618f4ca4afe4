"""A plate on a grid that warms up while an arc runs over it (``grid_kernels`` does the arithmetic).

∂H/∂t = (1/t)·∇·(t·∇φ) + q̇/t − 2h·(T − T∞)/t − contact with what lies on it

H is the enthalpy, φ the integral of the conductivity (``metal_heat``), t the thickness of each cell. Through
the thickness the temperature is one: the plate is thin, and its back as hot as its face. Between cells of
unlike thickness the smaller one counts most (harmonic mean). Blocks that lie on it have a temperature of
their own for each cell they cover, conduct along themselves, and touch the plate through a contact loss.
Edges give nothing to the air.

Time goes in steps of RKL1, which stand any length of step for a few more stages. Loss and contact are taken
once a step, since they are slow.

References
----------
Meyer C. D., Balsara D. S., Aslam T. D. (2014), A stabilized Runge-Kutta-Legendre method for explicit
super-time-stepping of parabolic equations, Journal of Computational Physics 257, 594-626.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from anvilsong.core.errors import Unfit
from anvilsong.core.heat import grid_kernels as kernels
from anvilsong.core.heat.metal_heat import LATENT_J_G, MetalHeat
from anvilsong.core.heat.plate import Array
from anvilsong.core.words import sentence

LOSS_W_MM2_K = 15e-6  # air and radiation, each face
WARM_K = 1e-3  # what counts as warmed at all, at the edge of what is computed
REACH_OF_SPOT = 4.0  # σ
SAFE = 0.99  # of the longest step that is stable
MOST_STAGES = 60


@dataclass(frozen=True)
class Air:
    """What is round the plate: °C, and what each face gives to it, W/(mm²·K); nothing where that is 0."""

    ambient_c: float = 20.0
    loss_w_mm2_k: float = LOSS_W_MM2_K


NO_LOSS = Air(loss_w_mm2_k=0.0)


@dataclass(frozen=True)
class Block:
    """What lies on the plate: thickness mm over the cells it covers (0 elsewhere), ρ·c J/(mm³·K), a mm²/s,
    and the contact in W/(mm²·K).
    """

    thickness_mm: Array
    holds_j_mm3_k: float
    diffusivity_mm2_s: float
    contact_w_mm2_k: float


class PlateRun:
    """A plate and what was put into it so far.

    Parameters
    ----------
    thickness_mm : one value a cell, rows along y, 0 where there is no metal
    cell_mm : side of a cell
    metal : what it is of
    start_c : temperature at first
    """

    def __init__(
        self,
        thickness_mm: Array,
        cell_mm: float,
        metal: MetalHeat,
        start_c: float = 20.0,
        air: Air = Air(),
        block: Block | None = None,
    ) -> None:
        self.cell_mm, self.metal, self.ambient_c = cell_mm, metal, air.ambient_c
        self._loss_w_k = 2 * air.loss_w_mm2_k * cell_mm**2
        thick = np.pad(np.asarray(thickness_mm, dtype=float), 1)
        self.is_metal = (thick > 0).astype(float)
        self._across, self._down, self._per_heat = _conductances(thick, cell_mm)
        self._volume = thick * cell_mm**2
        self._table = metal.table
        self._cold = float(self._table.enthalpy(start_c))
        self._y = np.full((3, *thick.shape), self._cold)
        self._now, self._is_read = 0, False
        self._phi, self._t_c = np.zeros(thick.shape), np.full(thick.shape, float(start_c))
        rows, columns = thick.shape
        self._window = np.array([rows // 2, rows // 2 + 1, columns // 2, columns // 2 + 1])
        self._is_begun = False
        if abs(start_c - air.ambient_c) > WARM_K:  # all of it gives heat to the air, or takes some
            self._window[:] = (1, rows - 1, 1, columns - 1)
            self._is_begun = True
        self._block = _Lying(block, cell_mm, start_c, air.loss_w_mm2_k) if block is not None else None
        self.time_s = self.put_in_j = self.lost_j = 0.0
        self._start_j = self.held_j

    @cached_property
    def _explicit_s(self) -> float:
        """The longest explicit step that is stable."""
        flows = self._across + self._down
        flows[:, :-1] += self._across[:, 1:]
        flows[:-1] += self._down[1:]
        return float(1 / (self.metal.most_diffusive_mm2_s * (flows * self._per_heat).max()))

    @property
    def longest_step_s(self) -> float:
        """The longest step that is taken at all."""
        return 0.999 * SAFE * self._explicit_s * (MOST_STAGES * MOST_STAGES + MOST_STAGES) / 2

    @property
    def held_j(self) -> float:
        """Heat in the plate and in what lies on it, J over 0 °C."""
        return float((self._y[self._now] * self._volume).sum()) + (self._block.held_j if self._block else 0.0)

    @property
    def gained_j(self) -> float:
        """What plate and block hold more than at first; the energy that went in, less what the air got."""
        return self.held_j - self._start_j

    @property
    def temperature_c(self) -> Array:
        """Temperature of every cell, °C, without the rim."""
        self._read()
        return self._t_c[1:-1, 1:-1]

    @property
    def latent_j(self) -> float:
        """Latent heat that is in the plate now, J: the share of each cell that is molten, times its own."""
        if self.metal.simple:
            return 0.0
        span = max(self.metal.liquidus_c - self.metal.solidus_c, 1.0)
        molten = np.clip((self.temperature_c - self.metal.solidus_c) / span, 0.0, 1.0)
        from_latent = LATENT_J_G * self.metal.density_g_mm3
        return float((molten * self._volume[1:-1, 1:-1]).sum() * from_latent)

    def at_c(self, x_mm: float, y_mm: float) -> float:
        """Temperature of the cell at a place."""
        i, j = self._cell(x_mm, y_mm)
        return float(self._table.temperature(self._y[self._now][i, j]))

    def step(
        self,
        dt_s: float,
        heat_w: float = 0.0,
        begin_mm: tuple[float, float] = (0.0, 0.0),
        end_mm: tuple[float, float] | None = None,
        sigma_mm: float = 2.0,
    ) -> None:
        """Go on by one step, with an arc of so much heat going from one place to another; none at 0 W.

        Within the step the arc stands still, a share c of the way along, where c is the z² coefficient of the
        scheme's growth 1 + z + c·z²: there the field of an arc that moves steadily is right to second order.
        """
        if not dt_s > 0:
            raise Unfit(sentence("heat.step_must_longer_than"))
        stages = self._stages(dt_s)
        c = (stages * stages + stages - 2) / (4 * (stages * stages + stages))
        end_mm = end_mm or begin_mm
        x_mm, y_mm = ((1 - c) * begin + c * end for begin, end in zip(begin_mm, end_mm, strict=True))
        reach = max(3, 2 * math.ceil(REACH_OF_SPOT * sigma_mm / self.cell_mm) + 1)
        rows, columns = (min(reach, size) for size in self.is_metal.shape)
        source, corner = np.zeros((rows, columns)), np.zeros(2, dtype=np.int64)
        if heat_w > 0:
            kernels.spot(self._per_heat, x_mm, y_mm, self.cell_mm, sigma_mm, heat_w, corner, source)
            self._take_in(corner, rows, columns)
            self.put_in_j += float((source * self._volume_at(corner, rows, columns)).sum()) * dt_s
        table = self._table
        slope = self.metal.most_diffusive_mm2_s if self.metal.simple else 0.0
        self._now = kernels.conduct(
            self._y, self._now, self._phi, self._across, self._down, self._per_heat, self._window,
            table.flow_w_mm, table.least_j_mm3, 1 / table.step_j_mm3, slope, stages, dt_s, source, corner,
        )  # fmt: skip
        h = self._y[self._now]
        self._is_read = False
        if self._loss_w_k or self._block is not None:
            self._read()
            self._is_read = False
            self.lost_j += kernels.lose(
                h, self._t_c, self._per_heat, self._window, self._loss_w_k, self.ambient_c, dt_s
            )
        if self._block is not None:
            self.lost_j += self._block.touched(h, self._t_c, self._per_heat, self.ambient_c, dt_s)
        tolerance = WARM_K * self.metal.density_g_mm3
        kernels.grow(h, self._cold, self._window, tolerance, stages + 2, self.is_metal)
        self.time_s += dt_s

    def pool_width_mm(self, x_mm: float, y_mm: float, along: tuple[float, float], most_mm: float) -> float:
        """Greatest width of what is over the contour, mm, across the way of an arc at (x, y)."""
        self._read()
        return float(
            kernels.pool_width(
                self._t_c, self.is_metal, x_mm, y_mm, *along, self.cell_mm, self.metal.contour_c, most_mm
            )
        )

    def _read(self) -> None:
        """Temperatures of what is warm, once a step."""
        if self._is_read:
            return
        self._is_read = True
        table = self._table
        kernels.look_up(
            self._y[self._now], self._t_c, self._window, table.temperature_c, table.least_j_mm3,
            1 / table.step_j_mm3,
        )  # fmt: skip

    def _stages(self, dt_s: float) -> int:
        """How many stages make a step of this length stable: (s² + s)/2 explicit ones."""
        wanted = dt_s / (SAFE * self._explicit_s)
        stages = max(2, math.ceil((math.sqrt(1 + 8 * wanted) - 1) / 2))
        if stages > MOST_STAGES:
            raise Unfit(sentence("heat.step_s_too_long", dt_s=dt_s, cell_mm=self.cell_mm))
        return stages

    def _take_in(self, corner: NDArray[np.int64], rows: int, columns: int) -> None:
        """Widen what is computed to where the arc is."""
        i, j = int(corner[0]), int(corner[1])
        high, wide = self.is_metal.shape
        window = self._window
        found = (max(1, i - 2), min(high - 1, i + rows + 2), max(1, j - 2), min(wide - 1, j + columns + 2))
        if not self._is_begun:
            window[:] = found
            self._is_begun = True
            if self._block is not None:  # it may carry heat ahead of what is warm
                box = self._block.window
                window[:2] = min(window[0], box[0]), max(window[1], box[1])
                window[2:] = min(window[2], box[2]), max(window[3], box[3])
        window[0], window[1] = min(window[0], found[0]), max(window[1], found[1])
        window[2], window[3] = min(window[2], found[2]), max(window[3], found[3])

    def _volume_at(self, corner: NDArray[np.int64], rows: int, columns: int) -> Array:
        return self._volume[corner[0] : corner[0] + rows, corner[1] : corner[1] + columns]

    def _cell(self, x_mm: float, y_mm: float) -> tuple[int, int]:
        rows, columns = self.is_metal.shape
        return (
            min(max(int(y_mm / self.cell_mm) + 1, 1), rows - 2),
            min(max(int(x_mm / self.cell_mm) + 1, 1), columns - 2),
        )


class _Lying:
    """The block over its own cells, a plate of constant properties."""

    def __init__(self, block: Block, cell_mm: float, start_c: float, loss_w_mm2_k: float) -> None:
        thick = np.pad(np.asarray(block.thickness_mm, dtype=float), 1)
        self._cells = np.argwhere(thick > 0)
        self._across, self._down, self._per_heat = _conductances(thick, cell_mm)
        self._holds = thick * cell_mm**2 * block.holds_j_mm3_k
        self._contact_w_k = block.contact_w_mm2_k * cell_mm**2
        self._loss_w_k = loss_w_mm2_k * cell_mm**2
        self._y = np.full((3, *thick.shape), float(start_c))
        self._a, self._cell_mm = block.diffusivity_mm2_s, cell_mm
        rows, columns = self._cells.min(axis=0), self._cells.max(axis=0) + 1
        self.window = np.array([rows[0], columns[0], rows[1], columns[1]])
        self._nothing = (np.zeros((1, 1)), np.ones(2, dtype=np.int64))

    @property
    def held_j(self) -> float:
        return float((self._y[0] * self._holds).sum())

    def touched(self, h: Array, t_c: Array, per_heat: Array, ambient_c: float, dt_s: float) -> float:
        """Take what the plate gives, conduct it along, and give some to the air; the latter, J."""
        _, gone = kernels.touch(
            h, t_c, per_heat, self._cells, self._y[0], self._holds, self._contact_w_k, self._loss_w_k,
            ambient_c, dt_s,
        )  # fmt: skip
        wanted = dt_s * 4 * self._a * 2 / (SAFE * self._cell_mm**2)
        stages = max(2, math.ceil((math.sqrt(1 + 8 * wanted) - 1) / 2))
        source, corner = self._nothing
        now = kernels.conduct(
            self._y, 0, self._y[0], self._across, self._down, self._per_heat, self.window,
            np.zeros(2), 0.0, 1.0, self._a, stages, dt_s, source, corner,
        )  # fmt: skip
        if now:
            self._y[0] = self._y[now]
        return float(gone)


def _conductances(thick: Array, cell_mm: float) -> tuple[Array, Array, Array]:
    """Flow between neighbours for a difference in φ, mm, and 1/(t·cell²), 1/mm³; 0 where there is no metal.

    Side by side the flow is φ'·t·cell/cell: the thickness, by its harmonic mean, and no cell size.
    """
    across, down = np.zeros(thick.shape), np.zeros(thick.shape)
    with np.errstate(divide="ignore", invalid="ignore"):
        across[:, 1:] = 2 * thick[:, 1:] * thick[:, :-1] / (thick[:, 1:] + thick[:, :-1])
        down[1:] = 2 * thick[1:] * thick[:-1] / (thick[1:] + thick[:-1])
        per_heat = np.where(thick > 0, 1 / (thick * cell_mm**2), 0.0)
    return np.nan_to_num(across), np.nan_to_num(down), per_heat
