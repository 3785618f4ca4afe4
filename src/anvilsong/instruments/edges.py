"""Each edge of a profile to a fraction of a column, on the whole run and in each of its windows."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d

from anvilsong.instruments.profiles import Profiles, centred, middle, middle_of, whole
from anvilsong.instruments.sections import Sections
from anvilsong.instruments.strip import Floats

LOOK_MM = 0.5  # beyond where the section search has put an edge
OUTSIDE_MM = 1.0  # of plate that says how bright it is beside a border
VALLEY_MM, VALLEY_BACK = 0.5, 0.4  # a toe's shadow: light again behind it, by this share of its depth
SMOOTH_MM = 0.06
INSET_MM = 0.15  # of a border that belongs to its soft outer edge
LEAST_CHANCE = 0.004  # no picture is smoother
LEAST_SHADOW = 0.015
LEAST_CHANGE = 0.03  # of the logarithm of brightness: less is no toe


@dataclass(frozen=True)
class Edge:
    """One edge: where it lies across, in the lined-up profile and in each window (nan where not found), mm.

    ``step`` is the change of brightness (its logarithm) over the edge, ``chance`` how much brightness wanders
    beside it, as one standard deviation.
    """

    at_mm: float
    by_window_mm: Floats
    step: float
    chance: float


@dataclass(frozen=True)
class _Search:
    """From where to where an edge is looked for, and the levels on either side."""

    start: float
    stop: float
    levels: Floats
    """Of the border, by window."""
    target: float
    chance: float


def edges_of(profiles: Profiles, sections: Sections) -> tuple[Edge, Edge, Edge, Edge]:
    """The four edges, left to right: border, toe, toe, border.

    Notes
    -----
    An outer edge is where brightness has gone half the way from the border to the plate beside it. A toe is
    where the first change has gone half its way, coming from the border's outer part: a border is flat. Where
    that is a narrow dark line with light behind it, the toe's shadow, its middle is meant.
    """
    step = profiles.u_mm[1] - profiles.u_mm[0]
    rows = gaussian_filter1d(centred(profiles.bright), max(SMOOTH_MM / step, 0.3), axis=1)
    u, (outer_left, toe_left, toe_right, outer_right) = profiles.u_mm, sections.edges_mm
    return (
        _outer(u, rows, outer_left, toe_left[0], -1),
        _toe(u, rows, toe_left, outer_left[1], 1),
        _toe(u, rows, toe_right, outer_right[0], -1),
        _outer(u, rows, outer_right, toe_right[1], 1),
    )


def columns_between(u: Floats, a: float, b: float) -> NDArray[np.bool_]:
    """Columns between two places, one at least."""
    inside = (u >= min(a, b)) & (u <= max(a, b))
    if not np.any(inside):
        inside = np.arange(u.size) == int(np.argmin(np.abs(u - (a + b) / 2)))
    return inside


def chance_of(rows: Floats, columns: NDArray[np.bool_]) -> float:
    """How much brightness wanders from column to column in a window, one standard deviation."""
    part = rows[:, columns]
    off = np.abs(part - middle(part)[:, None])
    return max(1.48 * float(np.nan_to_num(middle_of(off.ravel()))), LEAST_CHANCE)


def _outer(u: Floats, rows: Floats, between: tuple[float, float], toe: float, way: int) -> Edge:
    """The outer edge of a border that begins at ``toe``, going outwards."""
    near, far = between if way > 0 else between[::-1]
    core, outside = columns_between(u, near, toe), columns_between(u, far, far + way * OUTSIDE_MM)
    levels = middle(rows[:, core])
    target = float(np.nan_to_num(middle_of(middle(rows[:, outside]) - levels)))
    search = _Search((near + toe) / 2, far + way * LOOK_MM, levels, target, chance_of(rows, outside))
    return _searched(u, rows, search, sum(between) / 2)


def _toe(u: Floats, rows: Floats, between: tuple[float, float], outer: float, way: int) -> Edge:
    """The toe that a border ends at which begins at ``outer``, going inwards."""
    near, far = between if way > 0 else between[::-1]
    inset = min(INSET_MM, 0.2 * abs(near - outer))
    flat = columns_between(u, outer + way * inset, outer + 0.45 * (near - outer))
    levels = middle(rows[:, flat])
    one = whole(rows) - middle_of(levels)
    start, stop = outer + 0.35 * (near - outer), far + way * 0.15
    chance = chance_of(rows, flat)
    by_chance = chance_of(one[None, :], flat)
    seen = one[columns_between(u, start, stop)][::way]
    target = _first_change(seen[~np.isnan(seen)], max(4 * by_chance, LEAST_CHANGE))
    edge = _searched(u, rows, _Search(start, stop, levels, target, chance), sum(between) / 2)
    moved = _to_valley(u, one, edge.at_mm, way, target) if target < 0 else _before(u, one, edge.at_mm, way)
    return Edge(edge.at_mm + moved, edge.by_window_mm + moved, target, edge.chance)


def _first_change(values: Floats, least: float) -> float:
    """How far the first change goes that is worth the name, before it turns back; the largest if none is."""
    if values.size == 0:
        return 0.0
    begins = np.flatnonzero(np.abs(values) >= least)
    if begins.size == 0:
        return float(values[np.argmax(np.abs(values))])
    way = np.sign(values[begins[0]])
    going = values[begins[0] :] * way
    top = np.maximum.accumulate(going)
    turned = np.flatnonzero(going < 0.8 * top)
    return float(way * (top[turned[0]] if turned.size else top[-1]))


def _searched(u: Floats, rows: Floats, search: _Search, instead: float) -> Edge:
    def crossing(row: Floats) -> float:
        return _crossing(u, row, search.start, search.stop, search.target / 2)

    at = crossing(whole(rows) - middle_of(search.levels))
    by_window = np.array([crossing(row - level) for row, level in zip(rows, search.levels, strict=True)])
    return Edge(instead if np.isnan(at) else at, by_window, search.target, search.chance)


def _crossing(u: Floats, row: Floats, start: float, stop: float, level: float) -> float:
    """Where a row first passes a level on the way from one place to another, nan if never."""
    way = 1 if stop > start else -1
    part = (way * (u - start) >= 0) & (way * (stop - u) >= 0)
    places, values = u[part][::way], row[part][::way] * np.sign(level)
    with np.errstate(invalid="ignore"):
        passed = np.flatnonzero(values >= abs(level))
    if passed.size == 0:
        return float("nan")
    k = int(passed[0])
    if k == 0 or np.isnan(values[k - 1]):
        return float(places[k])
    share = (abs(level) - values[k - 1]) / (values[k] - values[k - 1])
    return float(places[k - 1] + share * (places[k] - places[k - 1]))


def _to_valley(u: Floats, row: Floats, at: float, way: int, target: float) -> float:
    """How far the middle of a toe's shadow lies behind its near side, mm; 0 where a dark flank goes on,
    between the two by how light it gets."""
    behind = (way * (u - at) >= 0) & (way * (u - at) <= VALLEY_MM)
    values = row[behind][::way] * np.sign(target)
    if values.size < 3:
        return 0.0
    if np.all(np.isnan(values)):
        return 0.0
    deepest = int(np.nanargmax(values))
    back = 1 - float(np.nanmin(values[deepest:])) / values[deepest]
    return float(u[behind][::way][deepest] - at) * float(np.clip(back / VALLEY_BACK, 0, 1))


def _before(u: Floats, row: Floats, at: float, way: int) -> float:
    """How far the shadow of a toe lies before a bright flank, mm; 0 where none is seen."""
    before = (way * (at - u) >= 0) & (way * (at - u) <= VALLEY_MM)
    values = row[before]
    if values.size < 3 or np.all(np.isnan(values)):
        return 0.0
    darkest = int(np.nanargmin(values))
    return float(u[before][darkest] - at) if values[darkest] < -LEAST_SHADOW else 0.0
