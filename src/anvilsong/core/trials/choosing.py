"""The settings that a series points to: one of its runs, or a value between two of them."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from anvilsong.core.bead import WIDTH_TOLERANCE, Looks, Readings, Shot, border_at_mm, fitted_to
from anvilsong.core.checks import newly_broken
from anvilsong.core.coefficients import Coefficients
from anvilsong.core.job import Job
from anvilsong.core.machine import Machine
from anvilsong.core.model import figures, situation
from anvilsong.core.registry import get_value
from anvilsong.core.settings import Settings
from anvilsong.core.trials.series import Series, set_to
from anvilsong.core.value import Value

BETWEEN = 25  # values tried over the whole axis
LITTLE = 0.01


class Pointed(Value):
    """Settings that a series points to, with what its coupons make the model expect of them."""

    settings: Settings
    value: float | str
    """Of the setting that was stepped; of two, the first."""
    run: int | None
    """The place of the run that has them; None for a value between runs."""
    border_mm: float
    bead_mm: float
    miss: float
    """How far from wanted, in tolerances."""


def pointed_to(
    series: Series, runs: Sequence[Sequence[Looks]], job: Job, machine: Machine, c: Coefficients | None = None
) -> Pointed | None:
    """The settings nearest to what is wanted by all coupons of the series that were measured whole; None
    before there are two.

    The model is fitted to these coupons alone, held only by how far jobs lie apart; every step of the panel
    between the ends of a stepped setting is tried, as long as it breaks nothing.
    """
    shots = [
        Shot(job, run.settings, looks)
        for run, seen in zip(series.runs, runs, strict=True)
        for looks in seen
        if isinstance(looks, Readings)
    ]
    if len(shots) < 2:
        return None
    fitted = fitted_to(shots, c)
    tried: list[tuple[Settings, float | str, int | None]] = [
        (run.settings, run.values[0], place) for place, run in enumerate(series.runs)
    ]
    tried += [(settings, value, None) for settings, value in _between(series, job, machine, c)]
    # At equal heat the bead stays, and its scatter must not choose; else it is what changes.
    steps_amps = any(axis.key == "amps_run" for axis in series.axes)
    bead_counts = LITTLE if series.kept == "heat" and not steps_amps else 1.0
    found: Pointed | None = None
    for settings, value, place in tried:
        here = _expected(settings, (value, place), job, fitted, bead_counts)
        if found is not None and here.miss >= found.miss:
            continue
        if not newly_broken(job, series.base, settings, machine, c=fitted):
            found = here
    return found


def _between(
    series: Series, job: Job, machine: Machine, c: Coefficients | None
) -> list[tuple[Settings, float | str]]:
    """Every step of the panel over the axis, where one number was stepped."""
    values = series.axes[0].values
    numbers = [value for value in values if not isinstance(value, str)]
    if len(series.axes) > 1 or len(numbers) < len(values):
        return []
    key = series.axes[0].key
    steps = np.linspace(min(numbers), max(numbers), BETWEEN)
    tried = [set_to({key: float(value)}, series.kept, job, series.base, machine, c) for value in steps]
    return [(settings, float(get_value(settings, key))) for settings in tried]


def _expected(
    settings: Settings, run: tuple[float | str, int | None], job: Job, c: Coefficients, bead_counts: float
) -> Pointed:
    """What some settings are expected to give, and how far that is from what is wanted."""
    at = situation(job)
    bead = float(figures(at, settings.wave(), settings, c).pool_width_mm)
    border = max(border_at_mm(job, settings, bead, c), 0.0)
    wanted = float(at.aimed_width_mm(settings.travel_mm_s, settings.preheat_c))
    misses = (
        abs(border - at.aim.aim_mm) / at.aim.tolerance_mm,
        abs(bead - wanted) / (WIDTH_TOLERANCE * wanted),
    )
    miss = misses[0] + bead_counts * misses[1]
    return Pointed(settings=settings, value=run[0], run=run[1], border_mm=border, bead_mm=bead, miss=miss)
