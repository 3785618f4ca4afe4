"""Where no current flows in a trace, and where the arc burns."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]

QUIET, MORE_THAN_NOISE = 0.012, 1.35  # of the span, of the noise: how far a still level scatters
MEDIAN_SCATTERS = 1.25  # times as far as a mean
ALIKE = 0.05  # of the span, that two still levels may lie apart
LEAST_QUIET_S, WINDOW_S, LEAST_WINDOW = 0.012, 0.004, 12
BURNS = 0.12  # of the current's usual size


def _windows(raw: Floats, rate_hz: float) -> tuple[Floats, int]:
    size = max(LEAST_WINDOW, int(WINDOW_S * rate_hz))
    return raw[: len(raw) // size * size].reshape(-1, size), size


def quiet_level(raw: Floats, rate_hz: float) -> tuple[float, float] | None:
    """The level of no current and its error, one standard deviation: where the trace lies still at its
    beginning or its end; None where it does nowhere. A level that comes again in the middle is the DC of a
    mix, and not nothing.
    """
    windows, size = _windows(raw, rate_hz)
    if len(windows) < 8:
        return None
    span = float(np.subtract(*np.percentile(raw, [98, 2])))
    still = windows.std(axis=1) < MORE_THAN_NOISE * _noise(raw) + QUIET * span
    means = windows.mean(axis=1)
    # One window alone that is not still, between two still ones of its own level, is noise.
    apart = np.maximum(np.abs(means[:-2] - means[1:-1]), np.abs(means[2:] - means[1:-1]))
    alike = still[:-2] & still[2:] & (apart < ALIKE * span)
    still |= np.concatenate([[False], alike, [False]])
    if still.all() or not still.any():
        return None
    least = max(2, int(np.ceil(LEAST_QUIET_S * rate_hz / size)))
    first, last = (_alike(still[::way], means[::way], least, ALIKE * span) for way in (1, -1))
    for begin, end in sorted(
        ((0, first), (len(still) - last, len(still))), key=lambda each: each[0] - each[1]
    ):
        if end - begin < least:
            continue
        # Without the window in which the arc lights or goes out.
        quiet = means[begin : end - 1] if begin == 0 else means[begin + 1 : end]
        level = float(np.median(quiet))
        again = still & (np.abs(means - level) < ALIKE * span)
        again[begin:end] = False
        if _longest(again) < max(2, (end - begin) / 3):
            return level, MEDIAN_SCATTERS * float(quiet.std() + _noise(raw) / np.sqrt(size)) / np.sqrt(
                len(quiet)
            )
    return None


def _alike(still: NDArray[np.bool_], means: Floats, least: int, near: float) -> int:
    """How many windows from the first on lie still at one level: a mix may begin with its DC at once."""
    level = float(np.median(means[:least]))
    ends = np.flatnonzero(~still | (np.abs(means - level) > near))
    return int(ends[0]) if len(ends) else len(still)


def _longest(flags: NDArray[np.bool_]) -> int:
    """The most that are set one after the other."""
    changes = np.flatnonzero(np.diff(np.concatenate([[0], flags.astype(int), [0]])))
    return int((changes[1::2] - changes[::2]).max()) if len(changes) else 0


def _noise(raw: Floats) -> float:
    """One standard deviation of the noise, by how unlike neighbours are; edges do not count."""
    return float(np.median(np.abs(np.diff(raw, 2))) / (0.6745 * np.sqrt(6)))


def burning(current: Floats, rate_hz: float) -> tuple[int, int] | None:
    """The samples between which the arc burns; None where it does nowhere."""
    windows, size = _windows(np.abs(current), rate_hz)
    usual = float(np.percentile(np.abs(current), 97))
    on = np.flatnonzero(windows.max(axis=1) > BURNS * usual + 4 * _noise(current))
    if not usual or not len(on):
        return None
    return int(on[0] * size), int((on[-1] + 1) * size)
