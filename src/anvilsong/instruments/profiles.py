"""Profiles across a strip, one a window of the run: how bright, and how rough along the run."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.ndimage import gaussian_filter1d

from anvilsong.instruments.strip import Floats, Strip

WINDOW_MM, LEAST_WINDOWS, MOST_WINDOWS = 2.5, 8, 48
MOST_SHIFT_MM = 2.0
LEAST_SEEN = 0.5  # of the pixels of a window's column that must say something


@dataclass(frozen=True)
class Profiles:
    """By window and place across, set to one middle: logarithms of brightness and of roughness.

    ``shift_mm`` is how far the middle of the bead lies beside the drawn line in each window.
    """

    s_mm: Floats
    u_mm: Floats
    bright: Floats
    rough: Floats
    shift_mm: Floats


def profiles_of(strip: Strip) -> Profiles:
    """Windows of a strip, lined up with one another: nobody draws a line along the middle of a bead."""
    count = int(np.clip(strip.line.long_mm / WINDOW_MM, LEAST_WINDOWS, MOST_WINDOWS))
    pieces = np.array_split(np.arange(strip.s_mm.size), count)
    step_s = strip.s_mm[1] - strip.s_mm[0]
    filled = _filled(strip.bright)
    fine = filled - gaussian_filter1d(filled, max(0.8 / step_s, 1.0), axis=0, mode="nearest")
    fine[np.isnan(strip.bright)] = np.nan
    bright = np.array([middle(strip.bright[piece].T) for piece in pieces])
    rough = np.array([mean(np.abs(fine[piece]).T) for piece in pieces])
    seen = np.array([np.mean(~np.isnan(strip.bright[piece]), axis=0) for piece in pieces])
    bright[seen < LEAST_SEEN] = np.nan
    rough[seen < LEAST_SEEN] = np.nan
    rough = np.log(rough + 0.003)
    s = np.array([strip.s_mm[piece].mean() for piece in pieces])
    return _lined_up(Profiles(s, strip.u_mm, bright, rough, np.zeros(count)))


def _filled(bright: Floats) -> Floats:
    """What glares is filled with the strip's own middle, only so that a filter may pass over it."""
    return np.where(np.isnan(bright), np.nan_to_num(middle_of(bright.ravel())), bright)


def middle(rows: Floats) -> Floats:
    """The median of each row of what it says; nan where it says nothing."""
    found = np.full(rows.shape[0], np.nan)
    some = ~np.all(np.isnan(rows), axis=1)
    if np.any(some):
        found[some] = np.nanmedian(rows[some], axis=1)
    return found


def middle_of(values: Floats) -> float:
    """The median of what is said; nan where nothing is."""
    return float(middle(values[None, :])[0])


def mean(rows: Floats) -> Floats:
    """The mean of each row of what it says; nan where it says nothing."""
    said = np.sum(~np.isnan(rows), axis=1)
    return np.where(said > 0, np.nansum(rows, axis=1) / np.maximum(said, 1), np.nan)


def centred(profile: Floats) -> Floats:
    """Less its own median, by window: a lamp that is nearer at one end makes no edge."""
    return np.asarray(profile - middle(profile)[:, None])


def whole(profile: Floats) -> Floats:
    """One profile of all windows: the median, which a speck or a scratch does not move."""
    return middle(profile.T)


def _lined_up(given: Profiles) -> Profiles:
    """Shift each window to agree with the rest, along a smooth path."""
    step = given.u_mm[1] - given.u_mm[0]
    most = int(MOST_SHIFT_MM / step)
    path = np.zeros(given.s_mm.size)
    now = given
    for _ in range(3):
        shifts = _shifts(now, most)
        path = path + _smooth_path(given.s_mm, shifts * step)
        now = _shifted(given, path)
    return now


def _shifts(now: Profiles, most: int) -> Floats:
    """How many columns each window lies beside the whole: the shift of least difference."""
    parts = [_scaled(centred(now.bright)), _scaled(now.rough)]
    wholes = [whole(part) for part in parts]
    width = now.u_mm.size
    inner = slice(most, width - most)
    misses = []
    for shift in range(-most, most + 1):
        miss = np.zeros(now.s_mm.size)
        for part, one in zip(parts, wholes, strict=True):
            moved = part[:, most + shift : width - most + shift]
            difference = np.abs(moved - one[inner])
            miss += mean(np.minimum(difference, 2.0))
        misses.append(miss + 0.02 * abs(shift) / most)
    best = np.argmin(np.nan_to_num(np.array(misses), nan=9e9), axis=0)
    return np.asarray(best - most, dtype=np.float64)


def _scaled(part: Floats) -> Floats:
    spread = float(np.std(part[~np.isnan(part)])) if np.any(~np.isnan(part)) else 0.0
    return part / spread if spread > 0 else part


def _smooth_path(s_mm: Floats, shifts: Floats) -> Floats:
    """A parabola through most of the shifts."""
    weights = np.ones(shifts.size)
    fit: Floats = np.zeros(3)
    for _ in range(6):
        fit = np.polyfit(s_mm - s_mm.mean(), shifts, 2, w=np.sqrt(weights))
        off = np.abs(shifts - np.polyval(fit, s_mm - s_mm.mean()))
        weights = 1 / (1 + (off / max(1.5 * np.median(off), 0.05)) ** 2)
    return np.asarray(np.polyval(fit, s_mm - s_mm.mean()), dtype=np.float64)


def _shifted(given: Profiles, path: Floats) -> Profiles:
    def moved(part: Floats) -> Floats:
        return np.array(
            [
                np.interp(given.u_mm + off, given.u_mm, row, left=np.nan, right=np.nan)
                for off, row in zip(path, part, strict=True)
            ]
        )

    return Profiles(given.s_mm, given.u_mm, moved(given.bright), moved(given.rough), path)
