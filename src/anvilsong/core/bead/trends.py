"""Coupons beside what the model says: the border over the EP share, the bead over the amps, with bands."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from itertools import groupby

import numpy as np

from anvilsong.core.bead.bead_models import BORDER_SCATTER, BORDER_SCATTER_MM, Shot, border_at_mm
from anvilsong.core.bead.calibration import NINE_OF_TEN, Calibration, border_range_mm
from anvilsong.core.model import figures, situation

PLACES = 25
AROUND = 0.35  # of the amps to either side
SHARES = (0.12, 0.55)
LEAST_OF_A_MONTH = 3


@dataclass(frozen=True)
class Dot:
    """One coupon: where it was run, and what it came to."""

    at: float
    value: float
    left_out: bool


@dataclass(frozen=True)
class Trend:
    """The model's line over one setting, the band that nine of ten coupons lie in, and the coupons.

    ``at`` is the setting, the rest mm; all of one length but ``dots``.
    """

    at: tuple[float, ...]
    line: tuple[float, ...]
    low: tuple[float, ...]
    high: tuple[float, ...]
    dots: tuple[Dot, ...]


def border_over_share(shots: Sequence[Shot], made: Calibration) -> Trend:
    """The border over the EP share, everything else as the newest coupon was run.

    Notes
    -----
    line(s) = the model's border at share s; band = ± 1.645·√(scatter² + the calibration's own error²).
    A coupon stands at line(its share) + (its border − what the model says of it beside its own bead):
    what was run with other settings or on another job is set beside this one by how far it lies from its own
    prediction.
    """
    newest, c = shots[-1], made.coefficients
    at = np.linspace(*SHARES, PLACES)
    line = _borders(newest, at, made)
    halves = []
    for share, border in zip(at, line, strict=True):
        settings = newest.settings.model_copy(update={"ep_share": float(share)})
        pool = float(figures(situation(newest.job), settings.wave(), settings, c).pool_width_mm)
        own = border_range_mm(made, newest.job, settings, pool)
        scatter = made.border_scatter * np.hypot(BORDER_SCATTER_MM, BORDER_SCATTER * border)
        halves.append(np.hypot((own.high - own.low) / 2, NINE_OF_TEN * scatter))
    shares = [shot.settings.ep_share for shot in shots]
    off = [
        shot.readings.border_mm
        - max(border_at_mm(shot.job, shot.settings, shot.readings.bead_width_mm, c), 0.0)
        for shot in shots
    ]
    on_line = _borders(newest, np.array(shares), made)
    dots = _dots(shares, [max(a + b, 0.0) for a, b in zip(on_line, off, strict=True)], made, at)
    half = np.array(halves)
    return Trend(_all(at), _all(line), _all(np.maximum(line - half, 0)), _all(line + half), dots)


def _borders(shot: Shot, shares: np.ndarray, made: Calibration) -> np.ndarray:
    wave = replace(shot.settings.wave(), ep_share=shares)
    seen = figures(situation(shot.job), wave, shot.settings, made.coefficients)
    return np.asarray(np.maximum(np.broadcast_to(np.asarray(seen.border_mm), shares.shape), 0.0))


def width_over_amps(shots: Sequence[Shot], made: Calibration) -> Trend:
    """The bead's width over the amps, everything else as the newest coupon was run.

    Notes
    -----
    As `border_over_share`, in logarithms: a coupon stands at line(its amps) · its width / what the model says
    of that coupon. The band is the hand's scatter with the calibration's own error, as a share.
    """
    newest = shots[-1]
    middle = newest.settings.amps_run
    at = np.linspace((1 - AROUND) * middle, (1 + AROUND) * middle, PLACES)
    line = _widths(newest, at, made)
    # ln width moves less than in step with ln heat: by the line's own slope.
    slope = np.gradient(np.log(line), np.log(at))
    half = NINE_OF_TEN * np.hypot(made.width_scatter, slope * made.amps_share / NINE_OF_TEN)
    amps = [shot.settings.amps_run for shot in shots]
    models = [_widths(shot, np.array([shot.settings.amps_run]), made)[0] for shot in shots]
    on_line = _widths(newest, np.array(amps), made)
    values = [
        on * shot.readings.bead_width_mm / model
        for on, shot, model in zip(on_line, shots, models, strict=True)
    ]
    return Trend(
        _all(at),
        _all(line),
        _all(line * np.exp(-half)),
        _all(line * np.exp(half)),
        _dots(amps, values, made, at),
    )


def _widths(shot: Shot, amps: np.ndarray, made: Calibration) -> np.ndarray:
    wave = replace(shot.settings.wave(), amps=amps)
    seen = figures(situation(shot.job), wave, shot.settings, made.coefficients)
    return np.asarray(np.maximum(np.broadcast_to(np.asarray(seen.pool_width_mm), amps.shape), 0.1))


def _dots(
    at: Sequence[float], values: Sequence[float], made: Calibration, reach: np.ndarray
) -> tuple[Dot, ...]:
    """What was run within the line's reach."""
    misses = made.misses[-len(at) :] if made.misses else ()
    out = [miss.left_out for miss in misses] if len(misses) == len(at) else [False] * len(at)
    return tuple(
        Dot(float(a), float(v), o)
        for a, v, o in zip(at, values, out, strict=True)
        if reach[0] <= a <= reach[-1]
    )


def _all(values: np.ndarray) -> tuple[float, ...]:
    return tuple(float(value) for value in values)


@dataclass(frozen=True)
class Month:
    """How far one month's coupons lay apart: bead width, as a share of it."""

    year: int
    month: int
    coupons: int
    width_scatter: float


def hand_by_month(when: Sequence[datetime], made: Calibration) -> tuple[Month, ...]:
    """The hand's own spread over the months, from the coupons that count; a month of fewer than three says
    nothing.

    Notes
    -----
    The root of the mean square of each coupon's miss in width, from the model fitted to all of them, which
    leaves the settings out of it.
    """
    counted = [
        ((moment.year, moment.month), miss.width * made.width_scatter)
        for moment, miss in zip(when, made.misses, strict=False)
        if not miss.left_out
    ]
    found = []
    for (year, month), group in groupby(sorted(counted, key=lambda one: one[0]), key=lambda one: one[0]):
        misses = np.array([miss for _, miss in group])
        if misses.size >= LEAST_OF_A_MONTH:
            found.append(Month(year, month, int(misses.size), float(np.sqrt(np.mean(misses**2)))))
    return tuple(found)
