"""A stationary arc on scrap: what the cleaned discs say of a balance knob without figures.

A Gaussian arc that stands drops charge round it; metal is clean where the dose passed what clears it. With
the EP share p, the seconds t and equal amps,

d² = A + B·ln(p·t),  B = 8σ²

A and B are the same for all discs, the shares at the knob's two ends are known, and those between are what is
asked: all of them by least squares of the discs' diameters. Beside them stand what is usual, B of a pool as a
hand makes it within a fifth, and that a knob's curve bends little from place to place: the slopes of
neighbouring stretches differ by 0.3 of the mean slope.

References
----------
The dose of the cleaned border (`arc.border`) for an arc that does not travel. Short arcs tell most: d grows
with the root of a logarithm.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from typing import Annotated, Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from anvilsong.core.arc.waveform import Wave
from anvilsong.core.coefficients import nominal
from anvilsong.core.errors import BadInput
from anvilsong.core.machine import KnobPoint, Scale
from anvilsong.core.torch.tungsten import tungsten_load
from anvilsong.core.typed import LENGTH, TIME
from anvilsong.core.value import Amps, Finite, TungstenMm, Value
from anvilsong.core.words import sentence

Array = NDArray[np.float64]
RULER_MM = 0.1  # how far a disc's mean diameter is read off, one standard deviation
USUAL_POOL_MM, SPREAD_APART = 6.0, 0.2  # what σ is usual for, and how far ln B lies from it
BENDS = 0.3  # of the mean slope, between neighbouring stretches of the knob
MOST_SPOTS = 60
TURNED_Z = 3.0
EVERYDAY, USUAL_HZ, LEAST_SHARE = "WLa 20", 100.0, 0.01
BALLED = 1.3  # of the tungsten: over it the tip has more than it bears


class Spot(Value):
    """One stationary arc: where the knob stood, how long it burned, and how wide it cleaned."""

    position: Finite
    seconds: Annotated[float, TIME] = Field(ge=0.5, le=60)
    cleaned_mm: Annotated[float, LENGTH] = Field(ge=0.5, le=80)
    """Mean of the disc's diameter along and across."""
    ball_mm: Annotated[float | None, LENGTH] = Field(None, ge=0.2, le=12)


class SpotTest(Value):
    """Spots burned on one piece of scrap, at equal amps and arc length."""

    kind: Literal["spots"] = "spots"
    amps: Amps
    tungsten_mm: TungstenMm | None = None
    spots: tuple[Spot, ...] = Field(min_length=3, max_length=MOST_SPOTS)


def shares_of(test: SpotTest, scale: Scale) -> list[KnobPoint]:
    """The share at each place of a knob, its ends as the scale has them, with how far each is known.

    Parameters
    ----------
    scale : of the balance control; its first and last point are the ends that are known

    Raises
    ------
    BadInput : an end of the knob was not burned, a spot lies beyond them, or no place between was burned
    """
    from scipy.optimize import least_squares  # read when a test is judged

    (first, first_share), (last, last_share) = scale.points[0], scale.points[-1]
    places = _places(test, first, last)
    fit = _Fit(places, (first_share, last_share))
    found = least_squares(fit.residuals, fit.start)
    shares = fit.shares(found.x)
    # Of the logits of the shares between: their covariance, at this point, is that of the normal equations.
    slopes: Array = np.asarray(found.jac, dtype=np.float64)
    covariance = np.linalg.pinv(slopes.T @ slopes)[2:, 2:]
    inner = (shares[1:-1] - first_share) / (last_share - first_share)
    sd = np.sqrt(np.diag(covariance)) * inner * (1 - inner) * abs(last_share - first_share)
    known = [0.0, *map(float, sd), 0.0]
    return [
        KnobPoint(position=position, value=float(share), sd=own)
        for position, share, own in zip(places, shares, known, strict=True)
    ]


def _places(test: SpotTest, first: float, last: float) -> dict[float, list[Spot]]:
    """The spots by the places of the knob, from its first end to its last."""
    found = defaultdict[float, list[Spot]](list)
    for spot in test.spots:
        if not first - 1e-6 <= spot.position <= last + 1e-6:
            raise BadInput.one("spots", f"{spot.position:g}", sentence("trials.spot_beyond_ends"))
        found[next((end for end in (first, last) if abs(spot.position - end) < 1e-6), spot.position)].append(
            spot
        )
    if first not in found or last not in found:
        raise BadInput.one("spots", f"{len(found)} places", sentence("trials.burn_both_ends"))
    if len(found) < 3:
        raise BadInput.one("spots", f"{len(found)} places", sentence("trials.burn_between_ends"))
    return dict(sorted(found.items()))


class _Fit:
    """Unknowns: A in mm², ln B, and the logits of the shares between the ends."""

    def __init__(self, places: dict[float, list[Spot]], ends: tuple[float, float]) -> None:
        self.ends = ends
        positions = np.array(list(places))
        self.along = (positions - positions[0]) / (positions[-1] - positions[0])
        spots = [(number, spot) for number, found in enumerate(places.values()) for spot in found]
        self.place = np.array([number for number, _ in spots])
        self.seconds = np.array([spot.seconds for _, spot in spots])
        self.cleaned = np.array([spot.cleaned_mm for _, spot in spots])
        c = nominal()
        self.usual = float(np.log(8 * (c.foot_base_mm + c.foot_per_pool * USUAL_POOL_MM) ** 2))
        inner = self.along[1:-1]
        middle = np.log(np.mean(ends) * np.mean(self.seconds))
        level = float(np.mean(self.cleaned**2) - np.exp(self.usual) * middle)
        self.start: Array = np.concatenate([[level, self.usual], np.log(inner / (1 - inner))])

    def shares(self, theta: Array) -> Array:
        """The share at each place."""
        first, last = self.ends
        inner = first + (last - first) / (1 + np.exp(-theta[2:]))
        return np.concatenate([[first], inner, [last]])

    def residuals(self, theta: Array) -> Any:
        """Of the discs in rulers, of ln B, and of the knob's bends."""
        shares = self.shares(theta)
        squares = theta[0] + np.exp(theta[1]) * np.log(shares[self.place] * self.seconds)
        discs = (self.cleaned - np.sqrt(np.maximum(squares, 0.01))) / RULER_MM
        slopes = np.diff(shares) / np.diff(self.along) / (self.ends[1] - self.ends[0])
        return np.concatenate([discs, [(theta[1] - self.usual) / SPREAD_APART], np.diff(slopes) / BENDS])


def counts_otherwise(test: SpotTest, scale: Scale) -> bool:
    """Whether the discs are narrower, beyond what a ruler leaves open, at the end that should clean more: the
    panel's figure then counts the other half.
    """
    (first, first_share), (last, last_share) = scale.points[0], scale.points[-1]
    found = _places(test, first, last)
    ends = [_level(found[end]) for end in ((first, last) if first_share < last_share else (last, first))]
    (less, less_error), (more, more_error) = ends
    return less - more > TURNED_Z * float(np.hypot(less_error, more_error))


def _level(spots: Sequence[Spot]) -> tuple[float, float]:
    """d² less what the seconds make of it, mm², and its error by the ruler."""
    c = nominal()
    widens = 8 * (c.foot_base_mm + c.foot_per_pool * USUAL_POOL_MM) ** 2
    each = [spot.cleaned_mm**2 - widens * np.log(spot.seconds) for spot in spots]
    error = 2 * RULER_MM * float(np.mean([spot.cleaned_mm for spot in spots])) / np.sqrt(len(spots))
    return float(np.mean(each)), float(error)


def turned_round(scale: Scale) -> Scale:
    """The scale with its figure counting the other half: of digits p becomes 1 − p, a bare knob's ends
    change places.
    """
    places, meanings = zip(*scale.points, strict=True)
    other = meanings[::-1] if scale.shown_as in ("clock", "percent") else tuple(1 - each for each in meanings)
    turned = tuple((at, round(each, 6)) for at, each in zip(places, other, strict=True))
    return scale.model_copy(update={"points": turned})


def balled_load(test: SpotTest, points: Sequence[KnobPoint]) -> float | None:
    """The load, by the published limits, at which the tungsten of the spots was first seen to ball; None
    where it was not.
    """
    share = balls_from(test, points)
    if share is None or test.tungsten_mm is None:
        return None
    wave = Wave(test.amps, min(max(share, LEAST_SHARE), 1 - LEAST_SHARE), USUAL_HZ)
    return float(tungsten_load(wave, test.tungsten_mm, EVERYDAY))


def balls_from(test: SpotTest, points: Sequence[KnobPoint]) -> float | None:
    """The least share at which the tip balled over 1.3 of its tungsten; None where it did not, and where
    nobody said which tungsten it was.
    """
    if test.tungsten_mm is None:
        return None
    share = {point.position: point.value for point in points}
    over = [
        share[spot.position]
        for spot in test.spots
        if spot.ball_mm is not None and spot.ball_mm > BALLED * test.tungsten_mm and spot.position in share
    ]
    return min(over, default=None)
