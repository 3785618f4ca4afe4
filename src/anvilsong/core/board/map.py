"""The map: all limits at once over any two settings, from one call of the same figures that the board uses.

Each limit is told as a share of it that is used, over 1 where it is broken; the allowed region is where none
is, and each of its edges belongs to the limit that makes it.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from anvilsong.core.board.map_axes import AxisKey, axis_range, axis_value, with_thickness
from anvilsong.core.checks import STOPS, limits_used, metal_cautions, moved
from anvilsong.core.errors import BadInput
from anvilsong.core.job import Job
from anvilsong.core.model import Bench, Situation, situation
from anvilsong.core.settings import Settings
from anvilsong.core.words import sentence

Grid = NDArray[np.float64]
COLUMNS, ROWS = 80, 60
Span = tuple[float, float]
COARSE = (41, 31)  # enough to find where the settings work
MARGIN, LEAST_PART = 0.35, 0.25  # beside that region, and of the whole axis
NEVER = 9.0  # used of every limit by a thickness that the job cannot have
OTHERS = "others"  # limits of metal, rod and thickness that no setting moves

# A limit's edge by the code of the warning that comes there.
LIMIT_WORDS = {
    "melt_through": "melts through",
    "melt_through_near": "near sagging",
    "no_root": "no root",
    "short_root": "root short",
    "cold": "too cold",
    "hot": "too hot",
    "chill": "filler rod chills",
    "oxide_at_toes": "oxide at the toes",
    "thin_border": "border thin",
    "wide_border": "border wide",
    "border_for_look": "wide for the look",
    "tungsten_hot": "tip rounds off",
    "tungsten_melts": "tip melts",
    "machine_short": "machine too small",
    "machine_minimum": "machine too big",
    "over_machine": "set past the machine",
    "unsettable": "machine ends",
    "pedal_coarse": "pedal coarse",
    "pedal_no_reserve": "pedal all used",
    "half_too_short": "half too short",
    "pulse_beats": "pulse and AC interfere",
    "pulse_base_low": "base too low",
    "duty": "over its duty",
    "torch_rating": "torch hot",
    "pass_small": "later passes small",
    "pass_short": "later pass too big",
    "pass_duty": "later pass: duty",
    "pass_torch": "later pass: torch",
    "preheat_over": "preheat too high",
    OTHERS: "metal and filler rod",
}


@dataclass(frozen=True)
class SettingsMap:
    """Arrays of (rows along y, columns along x)."""

    x_key: AxisKey
    y_key: AxisKey
    x: Grid
    y: Grid
    pool_mm: Grid
    border_mm: Grid
    used: dict[str, Grid]
    """Of each limit that the axes move, by its warning's code, the share that is used."""
    aim_mm: tuple[float, float]
    """The border that is wanted, from and to."""
    point: tuple[float, float]

    @property
    def worst(self) -> Grid:
        """The most that is used of any limit: over 1 something is broken, or wants an eye."""
        return _most(list(self.used.values()))

    @property
    def worst_stop(self) -> Grid:
        """The most that is used of the limits that nobody should pass."""
        return _most([used for key, used in self.used.items() if key in STOPS])

    @property
    def is_allowed(self) -> NDArray[np.bool_]:
        """Where nothing is broken and nothing wants an eye."""
        return np.asarray(self.worst <= 1)

    def limit_at(self, x: Grid, y: Grid, stops: bool = False) -> list[str]:
        """The limit, or the stop, that is used most at some places, by straight lines between the grid's."""
        columns, rows = (
            np.clip(np.interp(at, axis, np.arange(axis.size)), 0, axis.size - 1.001)
            for at, axis in ((x, self.x), (y, self.y))
        )
        j, i = columns.astype(int), rows.astype(int)
        fx, fy = columns - j, rows - i
        keys = [key for key in self.used if key in STOPS or not stops]
        between = [
            (1 - fy) * ((1 - fx) * used[i, j] + fx * used[i, j + 1])
            + fy * ((1 - fx) * used[i + 1, j] + fx * used[i + 1, j + 1])
            for used in (self.used[key] for key in keys)
        ]
        return [keys[n] for n in np.argmax(np.stack(between), axis=0)]


def _most(layers: list[Grid]) -> Grid:
    return np.asarray(np.max(np.stack(layers), axis=0))


def settings_map(
    job: Job,
    settings: Settings,
    bench: Bench,
    axes: tuple[AxisKey, AxisKey],
    size: tuple[int, int] = (COLUMNS, ROWS),
    reach: tuple[Span, Span] | None = None,
) -> SettingsMap:
    """The map of two axes round the settings, along the whole of both, or as far as ``reach``.

    Raises
    ------
    BadInput : the same axis twice, or two that are one
    """
    x_key, y_key = axes
    if x_key == y_key or {x_key, y_key} == {"ep_amps", "ep_trim"}:
        raise BadInput.one("y", y_key, sentence("board.another_axis_than_first"))
    at = situation(job)
    whole = (axis_range(key, at, settings, bench.machine) for key in axes)
    x, y = (np.linspace(*ends, count) for ends, count in zip(reach or whole, size, strict=True))
    values: dict[str, Any] = {x_key: x[None, :], y_key: y[:, None]}
    layers = _over_thickness if "thickness_mm" in values else _at
    pool, border, used = layers(at, settings, bench, values)
    shape = (size[1], size[0])
    return SettingsMap(
        x_key=x_key,
        y_key=y_key,
        x=x,
        y=y,
        pool_mm=np.broadcast_to(pool, shape),
        border_mm=np.broadcast_to(border, shape),
        used={key: np.broadcast_to(value, shape) for key, value in used.items()},
        aim_mm=(at.aim.low_mm, at.aim.high_mm),
        point=(axis_value(x_key, at, settings), axis_value(y_key, at, settings)),
    )


def working_reach(
    job: Job, settings: Settings, bench: Bench, axes: tuple[AxisKey, AxisKey]
) -> tuple[Span, Span]:
    """As far along both axes as it takes to see where the settings work, with a margin round it.

    What works is where nothing is broken and nothing wants an eye; where that is nowhere, where nothing is
    broken; else the whole of both axes. The settings themselves are always within.
    """
    found = settings_map(job, settings, bench, axes, COARSE)
    fine = found.is_allowed if found.is_allowed.any() else np.asarray(found.worst_stop <= 1)
    if not fine.any():
        return (found.x[0], found.x[-1]), (found.y[0], found.y[-1])
    columns, rows = found.x[fine.any(axis=0)], found.y[fine.any(axis=1)]
    return _fitted(columns, found.point[0], found.x), _fitted(rows, found.point[1], found.y)


def _fitted(works: Grid, here: float, axis: Grid) -> Span:
    """From end to end of what works and the settings, with a margin, never less than a part of the axis."""
    least, most = float(axis[0]), float(axis[-1])
    low, high = min(float(works[0]), here), max(float(works[-1]), here)
    margin = max(MARGIN * (high - low), (LEAST_PART * (most - least) - (high - low)) / 2)
    return max(least, low - margin), min(most, high + margin)


def _at(
    at: Situation, settings: Settings, bench: Bench, values: dict[str, Any]
) -> tuple[Any, Any, dict[str, Any]]:
    """Pool, border and limits at arrays of values, in one call of the figures."""
    moving = {key: value for key, value in values.items() if key != "ep_amps"}
    if "ep_amps" in values:
        moving["ep_trim"] = values["ep_amps"] / np.asarray(values.get("amps_run", settings.amps_run)) - 1
    to = moved(settings, moving, at.job.control == "pedal")
    seen, used = limits_used(at, settings, to, bench)
    return seen.pool_width_mm, seen.border_mm, used


def _over_thickness(
    at: Situation, settings: Settings, bench: Bench, values: dict[str, Any]
) -> tuple[Grid, Grid, dict[str, Grid]]:
    """A situation for each thickness, with the limits of metal and rod that stand at some of them; one that
    this job cannot have is never allowed.
    """
    along = values["thickness_mm"]
    is_upright = along.shape[1] == 1
    ((key, other),) = ((key, value) for key, value in values.items() if key != "thickness_mm")
    others = np.ravel(other)
    made = [_at_thickness(at, float(thick), settings, bench, {key: others}) for thick in along.ravel()]
    keys = list(dict.fromkeys(name for each in made if each for name in each[2]))

    def spread(layers: list[Any]) -> Grid:
        rows = np.stack([np.broadcast_to(layer, others.shape) for layer in layers])
        return rows if is_upright else rows.T

    return (
        spread([each[0] if each else 0.0 for each in made]),
        spread([each[1] if each else 0.0 for each in made]),
        {name: spread([each[2].get(name, 0.0) if each else NEVER for each in made]) for name in keys},
    )


def _at_thickness(
    at: Situation, thickness_mm: float, settings: Settings, bench: Bench, values: dict[str, Any]
) -> tuple[Any, Any, dict[str, Any]] | None:
    """None where the job cannot be so thick: its root face or leg would not fit."""
    try:
        thick = situation(with_thickness(at.job_as_asked, thickness_mm))
    except ValueError:
        return None
    pool, border, used = _at(thick, settings, bench, values)
    new = metal_cautions(thick, settings) - metal_cautions(at, settings)
    return pool, border, used | {OTHERS: 2.0 if new else 0.0}
