"""How a run goes along: how it begins and ends, where it goes out, where a half is missing, and its power."""

from __future__ import annotations

from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import median_filter

from anvilsong.core.arc.voltage import arc_length_mm
from anvilsong.core.flow import Found, Slope, TraceReading
from anvilsong.core.said import Words
from anvilsong.core.words import sentence
from anvilsong.instruments.trace.halves import Halves
from anvilsong.instruments.trace.slow import envelope

Floats = NDArray[np.float64]

LEVEL, FIRST_CYCLES, LEAST_SLOPE = (
    0.95,
    3.0,
    4.0,
)  # of the steady level; cycles of each end; cycles of a slope
OUT_AT, OUT_CYCLES = 0.1, 1.5  # of the steady level, for so many cycles: the arc is out
MIXED = 0.3  # of EN's mean, where EP should flow; of the halves that are missing
MISSING_FROM, THIN = 0.01, 0.25  # of the time; of its usual mean, that a missing half still has
FLAT = 0.5  # of the peak: where the arc's voltage is taken


class Run(NamedTuple):
    """The arc of a trace from lighting to going out, its rate, and the samples of it that are steady."""

    current: Floats
    rate_hz: float
    first: int
    last: int


def slopes_of(run: Run, period_s: float, en_a: float) -> tuple[Slope | None, Slope | None]:
    """How the current rises to its level and falls from it: from the amps of the first cycles, and to those
    of the last ones, in seconds; in amps of the EN half's peak, as if the wave were the same. None where it
    is there at once.
    """
    level = envelope(run.current, run.rate_hz, period_s)
    steady = float(np.median(level[run.first : run.last]))
    wide = max(1, round(FIRST_CYCLES * period_s * run.rate_hz))
    if steady <= 0 or len(level) < 4 * wide:
        return None, None
    # The mean over a cycle reaches over either end of the arc, by half a cycle.
    skip = max(1, round(0.5 * period_s * run.rate_hz))

    def side(levels: Floats) -> Slope | None:
        reached = np.flatnonzero(levels > LEVEL * steady)
        if not len(reached) or reached[0] < LEAST_SLOPE * period_s * run.rate_hz:
            return None
        # Straight from the middle of the first cycles through 95 % of the level: back to the end, on to all.
        early, middle = float(levels[skip : skip + wide].mean()) / steady, skip + wide / 2
        per_sample = (LEVEL - early) / max(float(reached[0]) - middle, 1.0)
        if per_sample <= 0:
            return None
        least = max(early - per_sample * middle, 0.0)
        return Slope(amps=least * en_a, seconds=(1 - least) / per_sample / run.rate_hz)

    return side(level), side(level[::-1])


def gone_out(run: Run, period_s: float) -> int:
    """How often the arc goes out between its beginning and its end."""
    level = envelope(run.current, run.rate_hz, period_s)[run.first : run.last]
    if not len(level):
        return 0
    out = level < OUT_AT * float(np.median(level))
    edges = np.flatnonzero(np.diff(np.concatenate([[0], out.astype(int), [0]])))
    long = (edges[1::2] - edges[::2]) > OUT_CYCLES * period_s * run.rate_hz
    return int(long.sum())


def missing_halves(run: Run, halves: Halves) -> dict[str, float]:
    """The share of the cycles of a steady arc in which a half hardly flows, EP and EN: the arc rectifies.

    Counted by the beat of the cycles, half by half, over the places where each half should lie.
    """
    cycle_s = float(np.median(halves.cycle_s))
    share = float(np.median(halves.ep_s)) / cycle_s
    steady = run.current[run.first : run.last]
    area = np.concatenate([[0.0], np.cumsum(steady)]) / run.rate_hz
    count = int((len(steady) / run.rate_hz - halves.begins_s[0]) / cycle_s)
    begins = halves.begins_s[0] + cycle_s * np.arange(count)
    # The beat is carried on from the nearest whole cycle.
    nearest = np.clip(np.searchsorted(halves.begins_s, begins), 0, len(halves.begins_s) - 1)
    begins = begins + (halves.begins_s[nearest] - begins + cycle_s / 2) % cycle_s - cycle_s / 2

    def mean(start: Floats, long_s: float) -> Floats:
        at = [np.interp(each * run.rate_hz, np.arange(len(area)), area) for each in (start, start + long_s)]
        return np.asarray((at[1] - at[0]) / long_s)

    ep, en = mean(begins, share * cycle_s), -mean(begins + share * cycle_s, (1 - share) * cycle_s)
    usual = float(np.median(ep)), float(np.median(en))
    if len(ep) < 2 or min(usual) <= 0:
        return {"ep": 0.0, "en": 0.0}
    # A half is missing where it is thin against those on either side, which flow as the arc goes just then.
    ep, en = ep / usual[0], en / usual[1]
    missing_ep = np.abs(ep[1:]) < THIN * np.minimum(en[1:], en[:-1])
    missing_en = np.abs(en[:-1]) < THIN * np.minimum(ep[1:], ep[:-1])
    if (ep < -MIXED).sum() > MIXED * missing_ep.sum():
        return {"ep": 0.0, "en": 0.0}  # where EP should flow, EN does: DC between stretches of AC
    return {"ep": float(missing_ep.mean()), "en": float(missing_en.mean())}


def power_of(run: Run, volts: Floats, period_s: float) -> dict[str, Any]:
    """Where a voltage was recorded too: the mean arc voltage, the power, W, and the arc's length, mm, with
    how it wanders along the run (nine tenths of it).

    P = mean of u·i; the length by U = 10 + 0.02·I + 0.8·(length − 2), the mean voltage where the current is
    over half its peak.
    """
    current, seen = run.current[run.first : run.last], volts[run.first : run.last]
    size = np.abs(current)
    flows = (size > FLAT * np.percentile(size, 98)) & np.isfinite(seen)
    if flows.sum() < 100:
        return {}
    whole = max(1, round(0.2 / period_s)) * period_s
    step = max(1, round(whole * run.rate_hz))
    count = len(current) // step
    lengths = []
    for place in range(count):
        part = slice(place * step, (place + 1) * step)
        on = flows[part]
        if on.mean() > 0.2:
            lengths.append(arc_length_mm(float(size[part][on].mean()), float(np.abs(seen[part][on]).mean())))
    found: dict[str, Any] = {
        "volts": float(np.abs(seen[flows]).mean()),
        "power_w": float(np.abs(np.nanmean(seen * current))),
    }
    if len(lengths) >= 3:
        smooth = median_filter(np.array(lengths), 3)
        low, high = np.percentile(smooth, [5, 95])
        found["arc_mm"] = Found(value=float(np.median(smooth)), low=float(low), high=float(high))
    return found


def told_of(reading: TraceReading) -> list[Words]:
    """What the course of a run says in words."""
    said: list[Words] = []
    if reading.went_out:
        said.append(sentence("instruments.trace_went_out", times=reading.went_out))
    if reading.missing_ep > MISSING_FROM:
        said.append(sentence("instruments.trace_no_ep", percent=100 * reading.missing_ep))
    if reading.missing_en > MISSING_FROM:
        said.append(sentence("instruments.trace_no_en", percent=100 * reading.missing_en))
    return said
