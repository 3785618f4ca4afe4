"""The arithmetic of the plate on a grid, compiled: what is asked millions of times a second of welding.

Arrays have a rim of one cell, which is never metal, so that no cell asks whether it stands at the edge.
``flow_x[i, j]`` is the conductance between cell (i, j − 1) and (i, j), ``flow_y[i, j]`` that between (i − 1,
j) and (i, j); both are 0 where a side is no metal. A window (first row, after the last row, first column,
after the last column) bounds what is warm at all.

Compiled on first use and kept on disk beside this file, or in the user's cache where that cannot be written.
"""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from numba import njit

COMPILED: dict[str, Any] = {"cache": True, "nogil": True, "fastmath": {"nsz", "arcp", "contract", "reassoc"}}


@njit(**COMPILED)
def look_up(h, into, window, table, least, per_step):
    """Read a table over enthalpy at every cell of the window, one cell more on each side."""
    last = table.size - 2
    for i in range(window[0] - 1, window[1] + 1):
        given, found = h[i, window[2] - 1 : window[3] + 1], into[i, window[2] - 1 : window[3] + 1]
        for j in range(given.size):
            place = (given[j] - least) * per_step
            below = np.uint32(min(max(place, 0.0), last))
            found[j] = table[below] + (place - below) * (table[below + np.uint32(1)] - table[below])


@njit(**COMPILED)
def _stage(out, y1, y2, phi, flow_x, flow_y, per_heat, window, mu, nu, step):
    """out = μ·y1 + ν·y2 + step·M(φ); M is what flows into a cell over what it holds.

    Rows are cut first, and counted from 0: an index that cannot be negative lets eight cells be worked out at
    once.
    """
    first, after = window[2], window[3]
    for i in range(window[0], window[1]):
        row, above, below = phi[i, first - 1 : after + 1], phi[i - 1, first:after], phi[i + 1, first:after]
        across, down, down_next = (
            flow_x[i, first : after + 1],
            flow_y[i, first:after],
            flow_y[i + 1, first:after],
        )
        new, one, two, share = (
            out[i, first:after],
            y1[i, first:after],
            y2[i, first:after],
            per_heat[i, first:after],
        )
        for j in range(new.size):
            here = row[j + 1]
            flows = (
                across[j + 1] * (row[j + 2] - here)
                - across[j] * (here - row[j])
                + down_next[j] * (below[j] - here)
                - down[j] * (here - above[j])
            )
            new[j] = mu * one[j] + nu * two[j] + step * share[j] * flows


@njit(**COMPILED)
def _add(out, source, corner, share):
    for i in range(source.shape[0]):
        for j in range(source.shape[1]):
            out[corner[0] + i, corner[1] + j] += share * source[i, j]


@njit(**COMPILED)
def conduct(
    y, begin, phi, flow_x, flow_y, per_heat, window, table, least, per_step, slope, stages, dt, source, corner
):
    """One step of conduction with a steady source, by Runge-Kutta-Legendre stages of first order (RKL1).

    Stable for dt ≤ (s² + s)/2 explicit steps. ``y`` holds three arrays in turn, the state in ``begin``; gives
    which of them holds the new one. With ``slope`` over 0 the constants are constant and φ = slope·H.
    """
    part = 2.0 / (stages * stages + stages)
    now, last, free = begin, begin, (begin + 1) % 3
    for j in range(1, stages + 1):
        mu = 1.0 if j == 1 else (2.0 * j - 1.0) / j
        nu = 0.0 if j == 1 else (1.0 - j) / j
        step = mu * part * dt
        if slope > 0.0:
            _stage(y[free], y[now], y[last], y[now], flow_x, flow_y, per_heat, window, mu, nu, step * slope)
        else:
            look_up(y[now], phi, window, table, least, per_step)
            _stage(y[free], y[now], y[last], phi, flow_x, flow_y, per_heat, window, mu, nu, step)
        _add(y[free], source, corner, step)
        last, now = now, free
        free = 3 - now - last if now != last else (now + 1) % 3
    return now


@njit(**COMPILED)
def spot(per_heat, x_mm, y_mm, cell_mm, sigma_mm, heat_w, corner, source):
    """A Gaussian of heat over the cells near (x, y), J/(mm³·s) into each, all of it into metal.

    ``source`` is filled; ``corner`` gets the cell of its first place. ``per_heat`` is 1/(thickness·cell²), 0
    where no metal is.
    """
    rows, columns = source.shape
    first_i = min(max(math.floor(y_mm / cell_mm) + 1 - rows // 2, 0), per_heat.shape[0] - rows)
    first_j = min(max(math.floor(x_mm / cell_mm) + 1 - columns // 2, 0), per_heat.shape[1] - columns)
    corner[0], corner[1] = first_i, first_j
    whole = 0.0
    for i in range(rows):
        for j in range(columns):
            source[i, j] = 0.0
            if per_heat[first_i + i, first_j + j] > 0.0:
                dx = (first_j + j - 0.5) * cell_mm - x_mm
                dy = (first_i + i - 0.5) * cell_mm - y_mm
                source[i, j] = math.exp(-(dx * dx + dy * dy) / (2.0 * sigma_mm * sigma_mm))
                whole += source[i, j]
    if whole > 0.0:
        for i in range(rows):
            for j in range(columns):
                source[i, j] *= heat_w / whole * per_heat[first_i + i, first_j + j]


@njit(**COMPILED)
def lose(h, t_c, per_heat, window, loss_w_k, ambient_c, dt):
    """What both faces give to the air in one step, J; ``loss_w_k`` of one cell."""
    gone = 0.0
    for i in range(window[0], window[1]):
        for j in range(window[2], window[3]):
            if per_heat[i, j] > 0.0:
                lost = loss_w_k * (t_c[i, j] - ambient_c) * dt
                h[i, j] -= lost * per_heat[i, j]
                gone += lost
    return gone


@njit(**COMPILED)
def touch(h, t_c, per_heat, cells, block_c, block_j_k, contact_w_k, loss_w_k, ambient_c, dt):
    """Heat that goes from plate cells into the block lying on each, and from it to the air; gives the block's
    gain and what the air got, J.
    """
    gained, gone = 0.0, 0.0
    for n in range(cells.shape[0]):
        i, j = cells[n, 0], cells[n, 1]
        over = contact_w_k * (t_c[i, j] - block_c[i, j]) * dt
        lost = loss_w_k * (block_c[i, j] - ambient_c) * dt
        h[i, j] -= over * per_heat[i, j]
        block_c[i, j] += (over - lost) / block_j_k[i, j]
        gained += over - lost
        gone += lost
    return gained, gone


@njit(**COMPILED)
def grow(y, cold, window, tolerance, by, metal):
    """Widen the window where its outermost cells have warmed."""
    rows, columns = metal.shape
    i0, i1, j0, j1 = window
    top = bottom = left = right = 0.0
    for j in range(j0, j1):
        top = max(top, abs(y[i0, j] - cold) * metal[i0, j])
        bottom = max(bottom, abs(y[i1 - 1, j] - cold) * metal[i1 - 1, j])
    for i in range(i0, i1):
        left = max(left, abs(y[i, j0] - cold) * metal[i, j0])
        right = max(right, abs(y[i, j1 - 1] - cold) * metal[i, j1 - 1])
    if top > tolerance:
        window[0] = max(1, i0 - by)
    if bottom > tolerance:
        window[1] = min(rows - 1, i1 + by)
    if left > tolerance:
        window[2] = max(1, j0 - by)
    if right > tolerance:
        window[3] = min(columns - 1, j1 + by)


@njit(**COMPILED)
def _reach(t_c, metal, x, y, nx, ny, contour_c, most):
    """How far from a place the metal is over the contour along (nx, ny), in cells; −1 where it is not."""
    before, length = -1.0e9, 0.0
    step = 0.25
    while length <= most:
        px, py = x + nx * length, y + ny * length
        i, j = int(py), int(px)
        if (
            min(px, py) < 0.0
            or i + 1 >= metal.shape[0]
            or j + 1 >= metal.shape[1]
            or metal[int(py + 0.5), int(px + 0.5)] == 0.0
        ):
            return max(length - step, 0.0) if before > contour_c else -1.0
        fy, fx = py - i, px - j
        # Cells that are no metal stand in with the nearest one that is.
        mine = t_c[int(py + 0.5), int(px + 0.5)]
        a = t_c[i, j] if metal[i, j] > 0.0 else mine
        b = t_c[i, j + 1] if metal[i, j + 1] > 0.0 else mine
        c = t_c[i + 1, j] if metal[i + 1, j] > 0.0 else mine
        d = t_c[i + 1, j + 1] if metal[i + 1, j + 1] > 0.0 else mine
        here = (a * (1 - fx) + b * fx) * (1 - fy) + (c * (1 - fx) + d * fx) * fy
        if here <= contour_c:
            if length == 0.0:
                return -1.0
            return length - step * (contour_c - here) / (before - here)
        before = here
        length += step
    return most


@njit(**COMPILED)
def pool_width(t_c, metal, x_mm, y_mm, along_x, along_y, cell_mm, contour_c, most_mm):
    """Greatest width, mm, of what is molten, across the way of the arc, near it and behind it."""
    widest = 0.0
    most = most_mm / cell_mm
    back = -most_mm / 2.0
    while back <= 1.5 * most_mm:
        px = (x_mm - along_x * back) / cell_mm + 0.5
        py = (y_mm - along_y * back) / cell_mm + 0.5
        back += cell_mm / 2.0
        one = _reach(t_c, metal, px, py, -along_y, along_x, contour_c, most)
        if one < 0.0:
            continue
        other = _reach(t_c, metal, px, py, along_y, -along_x, contour_c, most)
        widest = max(widest, (one + max(other, 0.0)) * cell_mm)
    return widest


def warm_up() -> None:
    """Compile or load everything: a second or two the first time, a blink from the disk."""
    y = np.zeros((3, 8, 8))
    flat, window = np.ones((8, 8)), np.array([1, 7, 1, 7])
    source, corner = np.zeros((5, 5)), np.zeros(2, dtype=np.int64)
    spot(flat, 2.0, 2.0, 1.0, 1.0, 1.0, corner, source)
    table = np.linspace(0.0, 1.0, 8)
    conduct(y, 0, np.zeros((8, 8)), flat, flat, flat, window, table, 0.0, 1.0, 0.0, 3, 0.1, source, corner)
    lose(y[0], y[1], flat, window, 0.0, 0.0, 0.1)
    touch(y[0], y[1], flat, np.ones((1, 2), dtype=np.int64), y[2], flat, 0.0, 0.0, 0.0, 0.1)
    grow(y[0], 0.0, window, 1.0, 1, flat)
    pool_width(y[0], flat, 3.0, 3.0, 1.0, 0.0, 1.0, 500.0, 3.0)
