"""Where the current turns: the cycles of a trace and their halves."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import uniform_filter1d
from scipy.signal import fftconvolve

Floats = NDArray[np.float64]

LEAST_HZ, MOST_HZ = 12.0, 1200.0
LEAST_STRETCH, EVEN = 6, 0.02  # cycles; of a cycle, that each may begin beside its beat
SAME_PERIOD = 0.12  # a cycle within so much of the usual one is one of AC


@dataclass(frozen=True)
class Halves:
    """Every whole cycle of AC: when its EP half begins, how long that is, how long the cycle is, s; and the
    mean of |i| over each half.
    """

    begins_s: Floats
    ep_s: Floats
    cycle_s: Floats
    ep_mean: Floats
    en_mean: Floats


def rough_period_s(current: Floats, rate_hz: float) -> float | None:
    """About how long a cycle is, s, by the current's likeness with itself; None where nothing comes again.

    The shortest shift at which it is nearly as like itself as at any: the current may be like itself after
    two cycles or ten as well.
    """
    count = min(len(current), 2**19)
    part = current[(len(current) - count) // 2 :][:count]
    # More finely than 60 samples of the quickest cycle is of no use here.
    coarse = max(1, int(rate_hz / (MOST_HZ * 60)))
    part = part[: len(part) // coarse * coarse].reshape(-1, coarse).mean(axis=1)
    rate = rate_hz / coarse
    part = part - part.mean()
    most = min(len(part) // 2, int(rate / LEAST_HZ) + 2)
    least = max(2, int(rate / MOST_HZ))
    if most <= least + 2 or not part.std():
        return None
    same = fftconvolve(part, part[::-1])[len(part) - 1 :][:most]
    same = same / np.arange(len(part), len(part) - most, -1) / part.var()
    peaks = [n for n in range(least, most - 1) if same[n] >= same[n - 1] and same[n] > same[n + 1]]
    if not peaks:
        return None
    best = max(same[peak] for peak in peaks)
    if best < 0.25:
        return None
    first = next(peak for peak in peaks if same[peak] > 0.85 * best)
    # Between the samples, by the parabola through the peak.
    left, mid, right = same[first - 1], same[first], same[first + 1]
    bend = left - 2 * mid + right
    return float((first + (0.5 * (left - right) / bend if bend else 0.0)) / rate)


def turns(current: Floats, rate_hz: float, level: float, smooth: int) -> tuple[Floats, Floats]:
    """When the current goes up and down through nothing, s, once it was past ``level`` on either side."""
    seen = uniform_filter1d(current, smooth) if smooth > 1 else current
    side = np.where(seen > level, 1, np.where(seen < -level, -1, 0))
    known = np.flatnonzero(side)
    if len(known) < 2:
        return np.empty(0), np.empty(0)
    changes = np.flatnonzero(np.diff(side[known]))
    before, after = known[changes], known[changes + 1]
    rising = side[after] > 0
    at = np.array([_crossing(seen, a, b) for a, b in zip(before, after, strict=True)]) / rate_hz
    return at[rising], at[~rising]


def _crossing(seen: Floats, before: int, after: int) -> float:
    """Where between two samples on either side the current is nothing: the middle of its crossings there."""
    part = seen[before : after + 1]
    places = np.flatnonzero(np.sign(part[:-1]) * np.sign(part[1:]) <= 0)
    at = places[len(places) // 2]
    here, there = part[at], part[at + 1]
    return float(before + at + (here / (here - there) if here != there else 0.5))


def halves_of(current: Floats, rate_hz: float, ups: Floats, downs: Floats, period_s: float) -> Halves:
    """The whole cycles of AC between the turns; what is much longer or shorter is none."""
    if len(ups) < 2 or not len(downs):
        return Halves(*(np.empty(0) for _ in range(5)))
    following = np.searchsorted(downs, ups[:-1])
    has = following < len(downs)
    begins, ends = ups[:-1][has], ups[1:][has]
    down = downs[following[has]]
    cycle = ends - begins
    good = (down < ends) & (np.abs(cycle / period_s - 1) < SAME_PERIOD)
    begins, down, cycle = begins[good], down[good], cycle[good]
    area = np.concatenate([[0.0], np.cumsum(current)]) / rate_hz

    def between(start: Floats, end: Floats) -> Floats:
        # Samples lie in the middle of their own time.
        places = [np.interp(each * rate_hz + 0.5, np.arange(len(area)), area) for each in (start, end)]
        return np.asarray(places[1] - places[0])

    ep = between(begins, down) / np.maximum(down - begins, 1e-12)
    en = -between(down, begins + cycle) / np.maximum(cycle - (down - begins), 1e-12)
    return Halves(begins, down - begins, cycle, ep, en)


def straightened(halves: Halves, rate_hz: float) -> Halves:
    """The same cycles begun evenly, stretch by stretch: where one sample jumps over nothing, its turn is only
    known to half a sample, and the stretch's own beat is known better. What is not even stays as it is.
    """
    begins, cycle = halves.begins_s.copy(), halves.cycle_s.copy()
    follows = np.abs(begins[1:] - (begins + cycle)[:-1]) < 1e-9
    bounds = np.concatenate([[0], np.flatnonzero(~follows) + 1, [len(begins)]])
    for first, last in pairwise(bounds):
        if last - first < LEAST_STRETCH:
            continue
        order = np.arange(last - first)
        slope, start = np.polyfit(order, begins[first:last], 1)
        if np.abs(begins[first:last] - start - slope * order).max() < max(1.0 / rate_hz, EVEN * slope):
            begins[first:last], cycle[first:last] = start + slope * order, slope
    return Halves(begins, halves.ep_s, cycle, halves.ep_mean, halves.en_mean)
