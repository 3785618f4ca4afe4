"""How loud the arc is along a recording: when it burns, a machine's pulse, dabs of the rod, and what changes
for good.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d, median_filter, uniform_filter1d
from scipy.signal import find_peaks

from anvilsong.core.flow import Dabs, Event, Found, HeardPulse
from anvilsong.instruments.sound.recording import Sound

Floats = NDArray[np.float64]

STEP_S, FINE_S, HEARD_TO_HZ, SMOOTHED_S = 0.005, 0.001, 11_000.0, 0.02
BURNS_OVER_DB, BURNS_AT, BRIDGED_S = 9.0, 0.35, 0.1
PULSE_HZ, PULSE_LIKE, PULSE_DEPTH_DB, MOST_OFF_DB, STAYS_LIKE = (0.4, 12.0), 0.45, 1.5, 12.0, 0.75
DAB_SMOOTH_S, DAB_SLOW_S, DAB_APART_S, DAB_DEPTH_DB, LEAST_DABS, MOST_SPREAD = 0.06, 1.2, 0.18, 1.2, 5, 0.7
CHANGE_S, CHANGE_DB, CHANGE_SPREADS = 1.5, 2.5, 5.0


class Loudness(NamedTuple):
    """How loud a recording is, every 5 ms: in dB, of what is high in the sound, so that hum and rumble count
    for little; and where an arc may burn.
    """

    db: Floats
    burns: NDArray[np.bool_]


def loudness_of(sound: Sound, hz: float = 50.0) -> Loudness:
    """The level of the recording's changes from sample to sample, over whole cycles of an arc of so many
    hertz and at least 20 ms: what changes within a cycle is no pulse.
    """
    over = max(1, int(sound.rate_hz / HEARD_TO_HZ))
    brought = sound.samples[: len(sound.samples) // over * over].reshape(-1, over).mean(axis=1)
    size = max(1, round(FINE_S * sound.rate_hz / over))
    change = np.diff(brought)
    count = len(change) // size
    steps = change[: count * size].reshape(count, size)
    gathered = np.concatenate([[0.0], np.cumsum(np.einsum("ij,ij->i", steps, steps).astype(float))])
    fine_s = size * over / sound.rate_hz
    wide = max(1, round(SMOOTHED_S * hz)) / hz / fine_s
    places = np.arange(int(count * fine_s / STEP_S)) * STEP_S / fine_s
    first, last = np.clip(places - wide / 2, 0, count), np.clip(places + wide / 2, 0, count)
    inside = np.interp(last, np.arange(count + 1), gathered) - np.interp(
        first, np.arange(count + 1), gathered
    )
    db = 10 * np.log10(np.maximum(inside, 0) / np.maximum(last - first, 1e-9) / size + 1e-14)
    return Loudness(db, _burning(db))


def _burning(db: Floats) -> NDArray[np.bool_]:
    """Where the level is that of an arc: all of it, unless a part is far quieter than the rest."""
    smooth = maximum_filter1d(db, int(BRIDGED_S / STEP_S))
    quiet, loud = np.percentile(smooth, [2, 90])
    if loud - quiet < BURNS_OVER_DB:
        return np.ones(len(db), bool)
    return np.asarray(smooth > quiet + BURNS_AT * (loud - quiet))


def stretches(flags: NDArray[np.bool_]) -> list[tuple[int, int]]:
    """Where flags are set, from and to."""
    edges = np.flatnonzero(np.diff(np.concatenate([[0], flags.astype(int), [0]])))
    return [(int(a), int(b)) for a, b in zip(edges[::2], edges[1::2], strict=True)]


def pulse_heard(db: Floats) -> HeardPulse | None:
    """A machine's pulse: levels that come again after the same time, again and again, as only a clock does.

    The likeness of the level to itself, later by a time: a pulse has nearly the same one after one period as
    after the most whole ones that fit; a person's rhythm has lost it by then.
    """
    middle = float(np.median(db))
    level = np.clip(db, middle - MOST_OFF_DB, middle + MOST_OFF_DB)
    level = level - level.mean()
    count = len(level)
    if count * STEP_S < 4 / PULSE_HZ[0] / 2:
        return None
    size = 2 ** int(np.ceil(np.log2(2 * count)))
    spectrum = np.abs(np.fft.rfft(level, size)) ** 2
    like = np.fft.irfft(spectrum)[:count] / np.arange(count, 0, -1)
    like /= max(float(like[0]), 1e-12)
    first, last = int(1 / PULSE_HZ[1] / STEP_S), min(int(1 / PULSE_HZ[0] / STEP_S), count // 4)
    peaks, _ = find_peaks(like[:last], height=PULSE_LIKE)
    peaks = peaks[peaks >= first]
    if not len(peaks):
        return None
    highest = like[peaks].max()
    period = float(peaks[like[peaks] > 0.85 * highest][0])
    first_period = period
    for many in (2, 4, 8, 16, 32, 64):  # the period ever better, from ever more of them
        at = round(period * many)
        reach = max(1, int(0.03 * at / many) + 1)
        if at + reach + 1 >= 0.7 * count:
            break
        around = like[at - reach : at + reach + 1]
        best = at - reach + int(around.argmax())
        if like[best] < STAYS_LIKE * like[round(first_period)]:
            return None
        left, here, right = like[best - 1], like[best], like[best + 1]
        shift = 0.5 * (left - right) / min(left - 2 * here + right, -1e-9)
        period = (best + min(max(shift, -0.5), 0.5)) / many
    high, share = _two_levels(level, period)
    if high < PULSE_DEPTH_DB:
        return None
    rate, whole = 1 / (period * STEP_S), count * STEP_S
    error = max(0.3 * STEP_S / whole * rate, 0.002 * rate)
    return HeardPulse(
        rate_hz=Found.within(rate, 2 * error),
        peak_share=None if share is None else Found.within(share, max(0.04, 1.5 * STEP_S * rate)),
    )


def _two_levels(db: Floats, period: float) -> tuple[float, float | None]:
    """How far the two levels of a pulse lie apart, dB, and the share of the time at the higher one."""
    phase = (np.arange(len(db)) / period) % 1
    bins = np.minimum((phase * 40).astype(int), 39)
    mean = np.bincount(bins, db, 40) / np.maximum(np.bincount(bins, minlength=40), 1)
    low, high = np.percentile(mean, [15, 85])
    between = (mean > low + 0.3 * (high - low)) & (mean < high - 0.3 * (high - low))
    share = float((mean > (low + high) / 2).mean())
    return float(high - low), share if between.mean() < 0.2 else None


def dabs_heard(db: Floats) -> Dabs | None:
    """Dabs of the rod: short dips of the level, as the rod takes heat and light from the pool, in a person's
    rhythm.
    """
    if len(db) * STEP_S < 3:
        return None
    smooth = uniform_filter1d(db, int(DAB_SMOOTH_S / STEP_S))
    dips = median_filter(smooth[::4], int(DAB_SLOW_S / STEP_S / 4) | 1).repeat(4)[: len(smooth)] - smooth
    rough = 1.48 * float(np.median(np.abs(dips - np.median(dips))))
    depth = max(DAB_DEPTH_DB, 3.5 * rough)
    at, _ = find_peaks(dips, height=depth, distance=int(DAB_APART_S / STEP_S), prominence=0.7 * depth)
    if len(at) < LEAST_DABS:
        return None
    apart = np.diff(at) * STEP_S
    usual = float(np.median(apart))
    steady = apart[(apart > 0.3 * usual) & (apart < 2.2 * usual)]
    spread = float(steady.std() / steady.mean())
    if not 0.2 < usual < 4 or len(steady) < 0.6 * len(apart) or spread > MOST_SPREAD:
        return None
    per_s = 1 / float(steady.mean())
    return Dabs(
        per_s=Found.within(per_s, 2 * per_s * max(spread, 0.02) / np.sqrt(len(steady))),
        spread=spread,
        count=len(at),
    )


def events_of(loudness: Loudness, most: int) -> list[Event]:
    """When the arc lit and went out, and where its level changed for good."""
    found = list[Event]()
    for begin, end in stretches(loudness.burns):
        if begin > 0:
            found.append(Event(at_s=round(begin * STEP_S, 2), kind="lit"))
        found += _changes(loudness.db[begin:end], begin)
        if end < len(loudness.db):
            found.append(Event(at_s=round(end * STEP_S, 2), kind="out"))
    return found[:most]


def _changes(db: Floats, offset: int) -> list[Event]:
    """Where the median level of the next second and a half lies clearly off that of the one before."""
    wide = int(CHANGE_S / STEP_S)
    if len(db) < 3 * wide:
        return []
    smooth = median_filter(db[::8], wide // 8 | 1)
    reach = wide // 8
    steps = smooth[reach:] - smooth[:-reach]
    rough = 1.48 * float(np.median(np.abs(steps - np.median(steps))))
    least = max(CHANGE_DB, CHANGE_SPREADS * rough)
    at, _ = find_peaks(np.abs(steps), height=least, distance=reach)
    return [
        Event(
            at_s=round((offset + (each + reach / 2) * 8) * STEP_S, 1),
            kind="louder" if steps[each] > 0 else "quieter",
        )
        for each in at.tolist()
    ]
