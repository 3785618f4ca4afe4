"""Which of the five shapes the halves have: the cycles laid over each other, and the wave that fits best."""

from __future__ import annotations

from functools import cache
from itertools import product
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from anvilsong.core.arc.waveform import SHAPES, SOFT_EDGE, TRAPEZOID_EDGE, Shape

Floats = NDArray[np.float64]

BINS, FINE = 240, 960
REFINED, LEAST_STEP = 6, 0.0006
SMEARS = (0.0015, 0.003, 0.006, 0.012, 0.024, 0.045)  # of a cycle, that a probe smears the edges over
Pair = tuple[Shape, Shape]  # of EP, and of EN


class Cycle(NamedTuple):
    """The mean cycle: the current at so many places of it from 0 to 1, and how many samples lie there."""

    places: Floats
    current: Floats
    counts: Floats
    scatter: float
    """Of one sample about the mean, one standard deviation."""


class Fit(NamedTuple):
    """A wave that fits: shapes, peaks of the halves, EP share, and what is left, rms."""

    shape_ep: Shape
    shape_en: Shape
    ep: float
    en: float
    ep_share: float
    left: float
    smear: float


def laid_over(current: Floats, rate_hz: float, begins_s: Floats, cycle_s: Floats) -> Cycle:
    """The cycles laid over each other, each from its own beginning."""
    starts = np.ceil(begins_s * rate_hz).astype(int)
    ends = np.minimum(np.ceil((begins_s + cycle_s) * rate_hz).astype(int), len(current))
    lengths = np.maximum(ends - starts, 0)
    which = np.repeat(np.arange(len(starts)), lengths)
    offsets = np.arange(len(which)) - np.repeat(np.cumsum(lengths) - lengths, lengths)
    samples = starts[which] + offsets
    phase = (samples / rate_hz - begins_s[which]) / cycle_s[which]
    at = np.clip((phase * BINS).astype(int), 0, BINS - 1)
    values = current[samples]
    counts = np.bincount(at, minlength=BINS).astype(float)
    filled = counts > 0
    total = np.bincount(at, values, BINS)
    where = np.bincount(at, phase, BINS)
    square = np.bincount(at, values**2, BINS)
    mean = total[filled] / counts[filled]
    spread = np.maximum(square[filled] / counts[filled] - mean**2, 0.0)
    enough = counts[filled] > 3
    scatter = float(np.sqrt(np.median(spread[enough]))) if enough.any() else 0.0
    return Cycle(where[filled] / counts[filled], mean, counts[filled], scatter)


def half_shape(shape: Shape, x: Floats) -> Floats:
    """A half of a shape from 0 to 1, its peak 1."""
    edge = np.minimum(x, 1 - x)
    if shape == "square":
        return np.ones_like(x)
    if shape == "soft":
        return np.where(edge < SOFT_EDGE, 0.5 - 0.5 * np.cos(np.pi * np.clip(edge / SOFT_EDGE, 0, 1)), 1.0)
    if shape == "trapezoid":
        return np.clip(edge / TRAPEZOID_EDGE, 0.0, 1.0)
    if shape == "sine":
        return np.sin(np.pi * x)
    return 2 * edge


@cache
def _smearing(smear: float) -> NDArray[np.complex128]:
    """The Fourier factors of a lag over a share of a cycle, as of a clamp's bandwidth, for a fine cycle; the
    delay that comes with it is taken off.
    """
    turn = 2j * np.pi * np.arange(FINE // 2 + 1) * smear
    return np.asarray(np.exp(turn) / (1 + turn))


def _half(shape: Shape, begins: float, share: float, smear: float, places: Floats) -> Floats:
    """A half with a peak of 1 that begins at a place of the cycle, at some places, its edges smeared."""
    x = (_FINE_PLACES - begins) / share
    half = np.where((x > 0) & (x < 1), half_shape(shape, np.clip(x, 0, 1)), 0.0)
    if smear:
        half = np.fft.irfft(np.fft.rfft(half) * _smearing(smear), FINE)
    return np.interp(places, _FINE_PLACES, half, period=1.0)


_FINE_PLACES = (np.arange(FINE) + 0.5) / FINE


class _Tried(NamedTuple):
    """Both halves of a wave over the cycle's places, for a share, a shift and a smear."""

    fit: Fit
    shift: float


def _solved(cycle: Cycle, ep: Floats, en: Floats) -> tuple[float, float, float]:
    """The peaks of both halves by least squares, and what is left, rms: two equations for two unknowns."""
    weights, seen = cycle.counts, cycle.current
    aa, bb, ab = (weights * ep * ep).sum(), (weights * en * en).sum(), (weights * ep * en).sum()
    ay, by = (weights * ep * seen).sum(), (weights * en * seen).sum()
    whole = aa * bb - ab * ab
    if whole <= 1e-12 * aa * bb:
        return 0.0, 0.0, np.inf
    first, second = (bb * ay - ab * by) / whole, (aa * by - ab * ay) / whole
    left = seen - first * ep - second * en
    return float(first), float(second), float(np.sqrt((weights * left * left).sum() / weights.sum()))


def _tried(cycle: Cycle, pair: Pair, share: float, shift: float, smear: float) -> _Tried:
    places = cycle.places + shift
    ep = _half(pair[0], 0.0, share, smear, places)
    en = -_half(pair[1], share, 1 - share, smear, places)
    first, second, left = _solved(cycle, ep, en)
    return _Tried(Fit(pair[0], pair[1], first, second, share, left, smear), shift)


def fits_of(cycle: Cycle, ep_share: float) -> list[Fit]:
    """The best fit of each pair of shapes, the best pair first.

    Every smear is tried with every pair; for the best pairs the share and the place of the cycle are then
    moved a little round what the turns said.
    """
    found: dict[Pair, _Tried] = {}
    for smear in SMEARS:
        eps = {shape: _half(shape, 0.0, ep_share, smear, cycle.places) for shape in SHAPES}
        ens = {shape: -_half(shape, ep_share, 1 - ep_share, smear, cycle.places) for shape in SHAPES}
        for pair in product(SHAPES, SHAPES):
            first, second, left = _solved(cycle, eps[pair[0]], ens[pair[1]])
            if pair not in found or left < found[pair].fit.left:
                found[pair] = _Tried(Fit(*pair, first, second, ep_share, left, smear), 0.0)
    order = sorted(found, key=lambda pair: found[pair].fit.left)
    for pair in order[:REFINED]:
        found[pair] = _refined(cycle, pair, found[pair])
    return sorted((tried.fit for tried in found.values()), key=lambda fit: fit.left)


def _refined(cycle: Cycle, pair: Pair, best: _Tried) -> _Tried:
    """The same pair with share, place and smear moved by ever smaller steps, as long as it fits better."""
    step = 0.012
    while step > LEAST_STEP:
        fit, shift = best
        moves = (
            (1, 0, 0),
            (-1, 0, 0),
            (0, 1, 0),
            (0, -1, 0),
            (0, 0, 0.5),
            (0, 0, -0.5),
            (1, 0.5, 0),
            (-1, -0.5, 0),
        )
        tried = [
            _tried(cycle, pair, fit.ep_share + step * a, shift + step * b, max(0.0, fit.smear + step * c))
            for a, b, c in moves
            if 0.02 < fit.ep_share + step * a < 0.98
        ]
        nearest = min(tried, key=lambda each: each.fit.left)
        if nearest.fit.left < fit.left:
            best = nearest
        else:
            step /= 2
    return best
