"""What a series told: whether the runs differ by more than the hand scatters, which of them, and how far they
follow the model.

Of the runs' means y with their standard errors s, and what the model expects of them, m:

(borders beside beads of the width that was expected: a bead that came out wider takes from its border)

b = Σ w(m − m̄)(y − ȳ)/Σ w(m − m̄)²,  w = 1/s²,  Q = Σ w(y − ȳ)²

The setting makes a difference when b is beyond Student's t, or Q/(k − 1) beyond Fisher's F, each at 2.5 %, so
that equal runs are called different in one series of twenty at most. Only then pairs are told apart, each by
Student's t at 5 % (Fisher's protected comparisons). Freedoms are those of the hand's scatter.

References
----------
Fisher, R. A., The Design of Experiments (1935); weighted least squares as in ISO/IEC Guide 98-3.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import combinations
from typing import Literal, NamedTuple

import numpy as np

from anvilsong.core.bead import HandScatter, Looks, Readings, border_beside_mm
from anvilsong.core.trials.series import Expected
from anvilsong.core.value import Value

EACH_TEST, EACH_PAIR = 0.025, 0.05
PLACES_APART = 2  # of a scale, between judgements: one is no more than the eye
Figure = Literal["border", "bead"]


class Told(Value):
    """What a series says of one figure. Lengths mm, by run; None where nothing was measured."""

    figure: Figure
    means: tuple[float | None, ...]
    errors: tuple[float | None, ...]
    """Standard error of each mean."""
    differs: bool
    pairs: tuple[tuple[int, int], ...]
    """Places of runs that differ, the earlier first."""
    follows: float | None
    """How far the figure moves for what the model expects of it, 1 is as expected; None where it expects no
    difference, or one run alone was measured.
    """
    follows_error: float | None


class _Run(NamedTuple):
    place: int
    mean: float
    error: float
    model: float


def told(
    figure: Figure, runs: Sequence[Sequence[Looks]], what: Sequence[Expected], hand: HandScatter
) -> Told:
    """What a series says of border or bead.

    Parameters
    ----------
    runs : the coupons of each run, in the order of ``what``
    """
    measured = [
        run for place, looks in enumerate(runs) if (run := _run(figure, place, looks, what[place], hand))
    ]
    means: list[float | None] = [None] * len(runs)
    errors: list[float | None] = [None] * len(runs)
    for run in measured:
        is_log = figure == "bead"
        means[run.place] = float(np.exp(run.mean)) if is_log else run.mean
        errors[run.place] = float(np.exp(run.mean)) * run.error if is_log else run.error
    if len(measured) < 2:
        return Told(
            figure=figure, means=tuple(means), errors=tuple(errors), differs=False, pairs=(), follows=None,
            follows_error=None,
        )  # fmt: skip
    slope, slope_error = _against_model(measured)
    differs = _differs(measured, slope, slope_error, hand.freedoms)
    pairs = [
        (one.place, other.place)
        for one, other in combinations(measured, 2)
        if abs(other.mean - one.mean) > hand.clear_over * np.hypot(one.error, other.error)
    ]
    return Told(
        figure=figure,
        means=tuple(means),
        errors=tuple(errors),
        differs=differs,
        pairs=tuple(pairs) if differs else (),
        follows=slope,
        follows_error=slope_error,
    )


def _run(
    figure: Figure, place: int, looks: Sequence[Looks], what: Expected, hand: HandScatter
) -> _Run | None:
    """The mean of a run, its error, and what was expected: logarithms of widths, mm of borders."""
    if figure == "bead":
        widths = [np.log(each.bead_width_mm) for each in looks if each.bead_width_mm is not None]
        if not widths:
            return None
        return _Run(
            place,
            float(np.mean(widths)),
            hand.width / np.sqrt(len(widths)),
            float(np.log(max(what.bead_mm, 0.1))),
        )
    whole = [each for each in looks if isinstance(each, Readings)]
    if whole:
        borders = [border_beside_mm(each, what.bead_mm, what.travel_mm_s) for each in whole]
        mean = float(np.mean(borders))
        return _Run(
            place, mean, hand.own_border_sd_mm(max(mean, 0.0)) / np.sqrt(len(borders)), what.border_mm
        )
    some = [each.border_mm for each in looks if each.border_mm is not None]
    if not some:
        return None
    mean = float(np.mean(some))
    return _Run(place, mean, hand.border_sd_mm(mean, what.bead_mm) / np.sqrt(len(some)), what.border_mm)


def _against_model(measured: Sequence[_Run]) -> tuple[float | None, float | None]:
    """Slope of what was measured over what was expected, and its error."""
    y, error, m = (np.array([run[place] for run in measured]) for place in (1, 2, 3))
    w = 1 / error**2
    off = m - (w * m).sum() / w.sum()
    weight = float((w * off**2).sum())
    if weight < 1.0:  # the model expects less than one scatter over the whole series
        return None, None
    return float((w * off * (y - (w * y).sum() / w.sum())).sum() / weight), float(weight**-0.5)


def _differs(
    measured: Sequence[_Run], slope: float | None, slope_error: float | None, freedoms: float
) -> bool:
    from scipy.special import fdtrc, stdtr  # read when a series is judged: it takes a third of a second

    y, w = np.array([run.mean for run in measured]), 1 / np.array([run.error for run in measured]) ** 2
    between = float((w * (y - (w * y).sum() / w.sum()) ** 2).sum()) / (len(measured) - 1)
    any_way = float(fdtrc(len(measured) - 1, freedoms, between))
    if slope is None or not slope_error:
        return any_way < 2 * EACH_TEST
    as_model = 2 * float(stdtr(freedoms, -abs(slope / slope_error)))
    return min(any_way, as_model) < EACH_TEST


def seen_apart(runs: Sequence[Sequence[Looks]]) -> dict[str, tuple[tuple[int, int], ...]]:
    """Pairs of runs that look different, by what was judged: the medians two places of a scale apart."""
    found: dict[str, tuple[tuple[int, int], ...]] = {}
    for word in dict.fromkeys(word for looks in runs for each in looks for word in each.judged):
        places = [[each.judged[word] for each in looks if word in each.judged] for looks in runs]
        pairs = [
            (one, other)
            for one, other in combinations(range(len(runs)), 2)
            if places[one]
            and places[other]
            and abs(float(np.median(places[one])) - float(np.median(places[other]))) >= PLACES_APART
        ]
        if pairs:
            found[word] = tuple(pairs)
    return found
