"""The map: all limits at once over any two settings, from one call of the same figures that the board uses.

Each limit is told as a share of it that is used, over 1 where it is broken; the allowed region is where none
is, and each of its edges belongs to the limit that makes it.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from anvilsong.core.board.map_axes import AxisKey, axis_range, axis_value, with_thickness
from anvilsong.core.checks import ABOUT_MM, CHILLS_SHARE, COLD_SHARE
from anvilsong.core.coefficients import Coefficients, nominal
from anvilsong.core.errors import BadInput
from anvilsong.core.heat.pedal import DUTY_CYCLE_S, allowed_duty
from anvilsong.core.job import Job
from anvilsong.core.machine import Machine
from anvilsong.core.model import ROOT_SHORT, Figures, Situation, figures, situation
from anvilsong.core.settings import Settings
from anvilsong.core.torch.tungsten import LOAD_AT_RUN, LOAD_AT_SET, tungsten_load

Grid = NDArray[np.float64]
COLUMNS, ROWS = 80, 60
# A thickness is a situation of its own; between so many of them straight lines are good enough.
THICKNESSES, OTHERS = 21, 24
NEVER = 9.0  # used of every limit by a thickness that the job cannot have

LIMIT_WORDS = {
    "cold": "too cold",
    "root": "no root",
    "sags": "sags",
    "thin_border": "border too small",
    "wide_border": "border too wide",
    "tungsten": "tungsten balls",
    "machine": "machine ends",
    "duty": "over its duty",
    "chill": "rod chills",
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
    """Of each limit the share that is used."""
    point: tuple[float, float]

    @property
    def worst(self) -> Grid:
        """The most that is used of any limit."""
        return np.asarray(np.max(np.stack(list(self.used.values())), axis=0))

    @property
    def is_allowed(self) -> NDArray[np.bool_]:
        return np.asarray(self.worst <= 1)

    def limit_at(self, x: Grid, y: Grid) -> list[str]:
        """The limit that is used most at each of some places, between the grid's own by straight lines."""
        columns, rows = (
            np.clip(np.interp(at, axis, np.arange(axis.size)), 0, axis.size - 1.001)
            for at, axis in ((x, self.x), (y, self.y))
        )
        j, i = columns.astype(int), rows.astype(int)
        fx, fy = columns - j, rows - i
        keys = list(self.used)
        between = [
            (1 - fy) * ((1 - fx) * used[i, j] + fx * used[i, j + 1])
            + fy * ((1 - fx) * used[i + 1, j] + fx * used[i + 1, j + 1])
            for used in self.used.values()
        ]
        return [keys[n] for n in np.argmax(np.stack(between), axis=0)]


def settings_map(
    job: Job,
    settings: Settings,
    machine: Machine,
    axes: tuple[AxisKey, AxisKey],
    c: Coefficients | None = None,
    size: tuple[int, int] = (COLUMNS, ROWS),
) -> SettingsMap:
    """The map of two axes round the settings.

    Raises
    ------
    BadInput : the same axis twice, or two that are one
    """
    x_key, y_key = axes
    if x_key == y_key or {x_key, y_key} == {"ep_amps", "ep_trim"}:
        raise BadInput.one("y", y_key, "another axis than the first")
    c, at = c or nominal(), situation(job)
    x = np.linspace(*axis_range(x_key, at, settings, machine), size[0])
    y = np.linspace(*axis_range(y_key, at, settings, machine), size[1])
    values: dict[str, Any] = {x_key: x[None, :], y_key: y[:, None]}
    if "thickness_mm" in values:
        pool, border, used = _over_thickness(at, settings, machine, c, values)
    else:
        pool, border, used = _at(at, settings, machine, c, values)
    shape = (size[1], size[0])
    return SettingsMap(
        x_key=x_key,
        y_key=y_key,
        x=x,
        y=y,
        pool_mm=np.broadcast_to(pool, shape),
        border_mm=np.broadcast_to(border, shape),
        used={key: np.broadcast_to(value, shape) for key, value in used.items()},
        point=(axis_value(x_key, at, settings), axis_value(y_key, at, settings)),
    )


def _at(
    at: Situation, settings: Settings, machine: Machine, c: Coefficients, values: dict[str, Any]
) -> tuple[Any, Any, dict[str, Any]]:
    """Pool, border and limits at arrays of values, in one call of the figures."""
    amps = values.get("amps_run", settings.amps_run)
    trim = values.get("ep_trim", settings.ep_trim)
    if "ep_amps" in values:
        trim = values["ep_amps"] / np.asarray(amps) - 1
    travel = values.get("travel_mm_s", settings.travel_mm_s)
    preheat = values.get("preheat_c", settings.preheat_c)
    wave = replace(
        settings.wave(),
        amps=amps,
        ep_share=values.get("ep_share", settings.ep_share),
        ep_trim=trim,
        frequency_hz=values.get("frequency_hz", settings.frequency_hz),
    )
    seen = figures(at, wave, settings, c, travel_mm_s=travel, preheat_c=preheat)
    wanted = at.wanted_pool_heat_w(travel, preheat) + at.filler_heat_w(travel, c)
    used = _pool_limits(at, seen, wanted)
    used["tungsten"] = _tungsten(settings, wave, c)
    used["machine"] = _machine(settings, machine, values, amps, trim)
    seconds = at.job.weld_length_mm / np.asarray(travel)
    allowed = allowed_duty(amps, machine.duty.amps, machine.duty.share)
    used["duty"] = np.minimum(1.0, seconds / DUTY_CYCLE_S) / allowed
    return seen.pool_width_mm, seen.border_mm, used


def _pool_limits(at: Situation, seen: Figures, wanted: Any) -> dict[str, Any]:
    border = np.maximum(np.asarray(seen.border_mm), 1e-3)
    used: dict[str, Any] = {
        "cold": COLD_SHARE * wanted / np.maximum(np.asarray(seen.work_heat_w), 1e-3),
        "sags": np.asarray(seen.melt_through),
        "thin_border": (at.aim.low_mm - ABOUT_MM) / border,
        "wide_border": border / (at.aim.high_mm + ABOUT_MM),
    }
    if at.wants_root:
        root, top = np.asarray(seen.root_width_mm), np.asarray(seen.pool_width_mm)
        # In shares of the width and not of the root, which falls to nothing at once.
        used["root"] = 1 + ROOT_SHORT - root / np.maximum(top, 1e-3)
    if at.section_mm2 > 0:
        used["chill"] = np.asarray(seen.filler_heat_share) / CHILLS_SHARE
    return used


def _tungsten(settings: Settings, wave: Any, c: Coefficients) -> Any:
    """Under the foot, and at a full press, which goes up with it."""
    if settings.tungsten is None:
        return np.asarray(0.0)
    kind = (settings.tungsten.diameter_mm, settings.tungsten.class_, settings.tungsten.tip, c.tungsten_limit)
    press = np.maximum(settings.amps_set, wave.amps) / np.asarray(wave.amps)
    run = np.asarray(tungsten_load(wave, *kind))
    return np.maximum(run / LOAD_AT_RUN, run * press / LOAD_AT_SET)


def _machine(settings: Settings, machine: Machine, values: dict[str, Any], amps: Any, trim: Any) -> Any:
    """Over 1 where the machine has no such value."""
    used = np.maximum(amps / machine.most_a, machine.least_a / np.maximum(amps, 1e-3))
    for key, low, high in (
        ("ep_share", machine.least_ep_share, machine.most_ep_share),
        ("frequency_hz", machine.least_frequency_hz, machine.most_frequency_hz),
    ):
        if key in values:
            used = np.maximum(used, np.maximum(low / values[key], values[key] / high))
    if "ep_trim" in values or "ep_amps" in values:
        # Trims lie round 0: told by the factor on the amps.
        low, high = (machine.least_trim, machine.most_trim) if machine.can_trim else (0.0, 0.0)
        used = np.maximum(used, np.maximum((1 + low) / (1 + trim), (1 + trim) / (1 + high)) - 1e-9)
    return used


def _at_thickness(
    at: Situation,
    thickness_mm: float,
    settings: Settings,
    machine: Machine,
    c: Coefficients,
    values: dict[str, Any],
) -> tuple[Any, Any, dict[str, Any]] | None:
    """None where the job cannot be so thick: its root face or leg would not fit."""
    try:
        job = with_thickness(at.job_as_asked, thickness_mm)
    except ValueError:
        return None
    return _at(situation(job), settings, machine, c, values)


def _over_thickness(
    at: Situation, settings: Settings, machine: Machine, c: Coefficients, values: dict[str, Any]
) -> tuple[Any, Any, dict[str, Any]]:
    """A situation for each of some thicknesses, straight lines between them; a thickness that this job cannot
    have is never allowed.
    """
    along = values["thickness_mm"]
    axis = int(along.shape[0] == 1)
    flat, others = along.ravel(), {key: value for key, value in values.items() if key != "thickness_mm"}
    ((key, other),) = others.items()
    flat_other = np.ravel(other)
    coarse = np.linspace(flat_other[0], flat_other[-1], OTHERS)
    others = {key: coarse[None, :]}
    places = np.linspace(flat[0], flat[-1], THICKNESSES)
    made = [_at_thickness(at, float(place), settings, machine, c, others) for place in places]
    good = [each for each in made if each is not None]
    keys = set.intersection(*(set(used) for _, _, used in good))
    nothing = (0.0, 0.0, dict.fromkeys(keys, NEVER))
    found = [each or nothing for each in made]

    def spread(columns: list[Any]) -> Grid:
        table = np.stack([np.broadcast_to(np.ravel(column), (OTHERS,)) for column in columns])
        rows = np.stack([np.interp(flat_other, coarse, row) for row in table])  # by thickness, then the other
        whole = np.stack([np.interp(flat, places, column) for column in rows.T])
        return whole if axis == 1 else whole.T

    pool = spread([one for one, _, _ in found])
    border = spread([one for _, one, _ in found])
    return pool, border, {key: spread([used[key] for _, _, used in found]) for key in keys}
