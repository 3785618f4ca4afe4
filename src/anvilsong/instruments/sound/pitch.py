"""The AC frequency of an arc by its sound: what all its lines are multiples of.

The arc's power dips at each turn of the current, twice a cycle, so that the even lines are the louder ones;
the odd ones are there as far as the halves differ. Of the lines that stand still over the noise, a frequency
explains those that lie on its multiples. A line that is there by chance lies on them with the probability
c = 2·d/f, d how well a line's place is known: a low frequency explains much by chance, a high one leaves out
many. The best is where Σ w·ln((1 − ε)/c) over the lines explained and Σ w·ln(ε) over the others, less what it
takes to say which of its multiples are there (N·H(n/N), n of N), is largest.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from anvilsong.instruments.sound.spectrum import Spectrum

Floats = NDArray[np.float64]

LOWEST_HZ, HIGHEST_HZ = 18.0, 420.0
SEARCH_TOP_HZ, HALF_WAY_HZ, COMB_TOP_HZ, MOST_SEARCHED = 2200.0, 120.0, 4500.0, 60
PROPOSED, APART, RATIOS = 4, 0.01, (1 / 3, 1 / 2, 2 / 3, 3 / 2, 2.0, 3.0)
MAINS, MAINS_TOP_HZ, MAINS_WIDE_HZ = (50.0, 60.0), 720.0, 1.3
LEAST_OVER, SPREADS_OVER = 0.45, 4.0  # decades, and spreads of the noise, that a line stands over it
PLACE, STRAY = 0.4, 0.12  # bins that a line's place is known to; the share of lines of another origin
CLEAR_WEIGHT = 1.0
LEAST_LINES, AUDIBLE_HZ, HALF_STANDS, SIDE_HZ = 6, 90.0, 4.5, 9.0
# A motor has no lines so high up, a chord has many that are none of the comb.
MIDDLE_HZ, HIGH_HZ, LEAST_HIGH, HIGH_PART = 350.0, 550.0, 3, 0.1
MOTOR_HZ, MOTOR_TOP_HZ = 40.0, 1000.0


class Line(NamedTuple):
    """Lines that stand: where, and how far they count."""

    hz: Floats
    weight: Floats


class Comb(NamedTuple):
    """A frequency, its error, how many lines it explains, what share by weight of those over 350 Hz, and by
    how much it explains them better (ln) than any other frequency.
    """

    hz: float
    error_hz: float
    lines: int
    share: float
    margin: float
    by_one: bool
    """Whether a line stands at half of it, as a sine's of unlike halves does: half may be meant."""


def lines_of(levels: Floats, bin_hz: float) -> Line:
    """The lines that stand over the noise, without those of the mains."""
    inner = levels[1:-1]
    spread = 1.48 * float(np.median(np.abs(levels - np.median(levels))))
    least = max(LEAST_OVER, float(np.median(levels)) + SPREADS_OVER * spread)
    at = np.flatnonzero((inner > least) & (inner >= levels[:-2]) & (inner > levels[2:])) + 1
    left, here, right = levels[at - 1], levels[at], levels[at + 1]
    bend = np.minimum(left - 2 * here + right, -1e-9)
    hz: Floats = ((at + np.clip(0.5 * (left - right) / bend, -0.5, 0.5)) * bin_hz).astype(float)
    inside = (hz > 0.9 * LOWEST_HZ) & (hz < COMB_TOP_HZ) & _highest_of_its_own(hz, here)
    for mains in MAINS:
        on = np.abs(hz - mains * np.round(hz / mains)) < MAINS_WIDE_HZ
        inside &= ~(on & (hz < MAINS_TOP_HZ))
    weight: Floats = np.clip(0.5 + (here[inside] - least), 0.5, 1.5).astype(float)
    return Line(hz[inside].astype(float), weight)


def _highest_of_its_own(hz: Floats, levels: Floats) -> NDArray[np.bool_]:
    """Lines that are the highest as far as the lines of a pulse about them reach, which lie nearer than any
    two lines of an arc.
    """
    near = np.abs(hz[:, None] - hz[None]) < SIDE_HZ
    return np.asarray(np.where(near, levels[None], -np.inf).max(axis=1, initial=-np.inf) <= levels)


def _explained(lines: Line, bin_hz: float, candidates: Floats) -> Floats:
    """How well each candidate explains the lines."""
    near = PLACE * bin_hz
    off = lines.hz[None] / candidates[:, None]
    off -= np.rint(off)
    np.abs(off, out=off)
    on = off < (near / candidates)[:, None]
    chance = np.minimum(2 * near / candidates, 0.9)
    gain = np.log((1 - STRAY) / chance) - np.log(STRAY)
    told = gain * (on @ lines.weight) + np.log(STRAY) * lines.weight.sum()
    # Of its multiples up to the highest line, those that are there: half the frequency has every other one.
    possible = np.maximum((lines.hz.max() - np.maximum(candidates, AUDIBLE_HZ)) / candidates + 1, 1.0)
    there = np.clip(on.sum(axis=1) / possible, 1e-6, 1 - 1e-6)
    return np.asarray(told + possible * (there * np.log(there) + (1 - there) * np.log(1 - there)))


def _grid(bin_hz: float, low_hz: float, high_hz: float, top_hz: float) -> Floats:
    """Candidates so close that a line at the top moves by less than its place is known to."""
    ratio = 1 + 0.8 * PLACE * bin_hz / top_hz
    count = int(np.log(high_hz / low_hz) / np.log(ratio)) + 1
    return np.asarray(low_hz * ratio ** np.arange(count))


def _proposed(lines: Line, bin_hz: float) -> list[float]:
    """The best candidates of low frequencies, by the lines up to a few thousand hertz, and of high ones, by
    all; and those that stand in a simple ratio to the best.
    """
    found: list[float] = []
    for low_hz, high_hz, top_hz in (
        (LOWEST_HZ, HALF_WAY_HZ, SEARCH_TOP_HZ),
        (HALF_WAY_HZ, HIGHEST_HZ, COMB_TOP_HZ),
    ):
        inside = np.flatnonzero(lines.hz < top_hz)
        inside = inside[np.argsort(lines.weight[inside])[-MOST_SEARCHED:]]
        if len(inside) < LEAST_LINES:
            continue
        candidates = _grid(bin_hz, low_hz, high_hz, top_hz)
        scores = _explained(Line(lines.hz[inside], lines.weight[inside]), bin_hz, candidates)
        for _ in range(PROPOSED):
            best = float(candidates[int(np.argmax(scores))])
            found.append(best)
            scores[np.abs(candidates / best - 1) < APART] = -np.inf
    found += [hz * ratio for hz in found for ratio in RATIOS]
    return [hz for hz in found if LOWEST_HZ <= hz <= HIGHEST_HZ]


def comb_of(levels: Floats, bin_hz: float) -> Comb | None:
    """The frequency of the lines that stand; None where they have none in common."""
    lines = lines_of(levels, bin_hz)
    if len(lines.hz) < LEAST_LINES:
        return None
    fits = [_fitted(lines, bin_hz, hz) for hz in _proposed(lines, bin_hz)]
    fits = [fit for fit in fits if fit[2] >= LEAST_LINES and LOWEST_HZ <= fit[0] <= HIGHEST_HZ]
    if not fits:
        return None
    scores = _explained(lines, bin_hz, np.array([fit[0] for fit in fits]))
    best = int(np.argmax(scores))
    hz, error, count, share = fits[best]
    nothing = float(np.log(STRAY) * lines.weight.sum())
    # Of halves alike but for their size, only the first odd line is heard: a sine's.
    halved = (np.abs(lines.hz - hz / 2) < PLACE * bin_hz) & (lines.weight > CLEAR_WEIGHT)
    others = [score for fit, score in zip(fits, scores, strict=True) if abs(fit[0] / hz - 1) > APART]
    margin = float(scores[best]) - float(max(others, default=nothing))
    explained = np.abs(lines.hz / hz - np.rint(lines.hz / hz)) * hz < PLACE * bin_hz * 1.5
    if hz < MOTOR_HZ and lines.hz[explained].max() < MOTOR_TOP_HZ:
        return None
    return Comb(hz, error, count, share, margin, bool(halved.any()))


def _fitted(lines: Line, bin_hz: float, hz: float) -> tuple[float, float, int, float]:
    """The frequency by all lines it explains: Σ w·n·f / Σ w·n²; its error, their number and share."""
    numbers, on = np.rint(lines.hz / hz), np.zeros(len(lines.hz), bool)
    for _ in range(3):
        numbers = np.rint(lines.hz / hz)
        on = (np.abs(lines.hz - numbers * hz) < PLACE * bin_hz * 1.5) & (numbers > 0)
        if not on.any():
            return hz, hz, 0, 0.0
        n, w, f = numbers[on], lines.weight[on], lines.hz[on]
        hz = float((w * n * f).sum() / (w * n * n).sum())
    left = float(np.sqrt((w * (f - n * hz) ** 2).sum() / w.sum()))
    error = left / float(np.sqrt((n * n).sum())) + 1e-4 * hz
    middle = lines.hz > MIDDLE_HZ
    possible = max((lines.hz.max() - HIGH_HZ) / hz, 1.0)
    if (on & (lines.hz > HIGH_HZ)).sum() < max(LEAST_HIGH, HIGH_PART * possible):
        return hz, error, 0, 0.0
    return hz, error, int(on.sum()), float(lines.weight[on & middle].sum() / lines.weight[middle].sum())


def heard_in(spectrum: Spectrum, hz: float) -> NDArray[np.bool_]:
    """In which frames the comb of a frequency stands as it does in most."""
    top = min(COMB_TOP_HZ, (spectrum.frames.shape[1] - 2) * spectrum.bin_hz)
    places = hz * np.arange(1, max(2, int(top / hz)))
    bins, rests = ((places + shift * hz) / spectrum.bin_hz for shift in (0.0, 0.3))
    stands = np.maximum(spectrum.steady[bins.astype(int)], spectrum.steady[bins.astype(int) + 1]) > LEAST_OVER
    if not stands.any():
        return np.zeros(len(spectrum.frames), bool)
    lines, between = bins[stands].astype(int), rests[stands].astype(int)
    over = np.maximum(spectrum.frames[:, lines], spectrum.frames[:, lines + 1]).mean(axis=1)
    over = over - np.maximum(spectrum.frames[:, between], spectrum.frames[:, between + 1]).mean(axis=1)
    steady = float(np.maximum(spectrum.steady[lines], spectrum.steady[lines + 1]).mean())
    return np.asarray(over > 0.35 * steady)


def half_may_be_meant(levels: Floats, bin_hz: float, hz: float) -> bool:
    """Whether something stands half way between the lines, too weak for lines of their own: then the halves
    of the cycle are nearly alike, and the true frequency may be half.
    """
    if hz / 2 < LOWEST_HZ:
        return False
    top = min(COMB_TOP_HZ, (len(levels) - 2) * bin_hz)
    odd: Floats = hz * (np.arange(int(top / hz)) + 0.5).astype(float)
    for mains in MAINS:
        odd = odd[(np.abs(odd - mains * np.round(odd / mains)) > MAINS_WIDE_HZ) | (odd > MAINS_TOP_HZ)]
    if len(odd) < 4:
        return False
    here = _highest(levels, bin_hz, odd)
    beside: Floats = np.concatenate([odd + shift * hz for shift in (-0.27, -0.15, 0.15, 0.27)])
    rest = _highest(levels, bin_hz, beside)
    stands = (here.mean() - rest.mean()) / (max(float(rest.std()), 0.05) / np.sqrt(len(here)))
    return bool(stands > HALF_STANDS)


def _highest(levels: Floats, bin_hz: float, places_hz: Floats) -> Floats:
    """The higher of the two bins about each frequency."""
    bins = np.clip(places_hz / bin_hz, 0, len(levels) - 2).astype(int)
    return np.asarray(np.maximum(levels[bins], levels[bins + 1]))
