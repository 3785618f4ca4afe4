"""What changes more slowly than the AC: a pulse, or DC between stretches of AC."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import uniform_filter1d

from anvilsong.core.flow import Found, Mix, Pulse
from anvilsong.instruments.trace.halves import turns

Floats = NDArray[np.float64]

LEAST_STEP, MOST_BETWEEN = 0.93, 0.4  # base over peak; share of the time that is neither
LEAST_PERIODS, FAR_OFF = 3, 0.12
LONG_EN = 0.6  # of a cycle, that EN lasts longer than usual where DC flows


def envelope(current: Floats, rate_hz: float, period_s: float) -> Floats:
    """The mean of |i| over one cycle round each sample: the AC is no longer seen in it."""
    return np.asarray(uniform_filter1d(np.abs(current), max(1, round(period_s * rate_hz))))


def steady_period(times: Floats) -> tuple[float, float] | None:
    """The period of what comes again, and its spread; None where it does not come evenly."""
    if len(times) < LEAST_PERIODS:
        return None
    steps = np.diff(times)
    usual = float(np.median(steps))
    order = np.concatenate([[0], np.cumsum(np.maximum(np.round(steps / usual), 1))])
    # An edge where the arc lights or goes out is none of the pulse's: it lies beside the beat of the others.
    beat = np.median(steps / np.diff(order))
    off = times - beat * order
    good = np.abs(off - np.median(off)) <= FAR_OFF * usual
    if good.sum() >= max(LEAST_PERIODS, 0.5 * len(times)):
        times, order = times[good], order[good]
    slope, start = np.polyfit(order, times, 1)
    off = times - (start + slope * order)
    if np.abs(off).max() > 0.25 * usual:
        return None
    error = float(off.std() / max(np.sqrt(((order - order.mean()) ** 2).sum()), 1e-9))
    return float(slope), error


def _sharp(edges: Floats, rate_hz: float, period_s: float, gain: Floats, rising: bool) -> Floats:
    """Edges to the sample: where, within a cycle on either side, the current goes over from one level to the
    other. ``gain`` is how much better the peak fits than the base, summed up from the beginning.
    """
    reach = round(period_s * rate_hz)
    found = []
    for edge in edges:
        first = max(int(edge * rate_hz) - reach, 0)
        part = gain[first : first + 2 * reach + 1]
        if len(part):
            found.append((first + int(np.argmin(part) if rising else np.argmax(part))) / rate_hz)
    return np.array(found)


def pulse_of(current: Floats, wave: Floats, rate_hz: float, period_s: float) -> Pulse | None:
    """The pulse that the current goes by; None where it keeps one level. ``wave`` is the current as it would
    be at the pulse's peak throughout.
    """
    levels = envelope(current, rate_hz, period_s)
    low, high = np.percentile(levels, [4, 96])
    if high <= 0 or low / high > LEAST_STEP:
        return None
    for _ in range(4):  # the levels as they are in the middle of each phase
        middle = (low + high) / 2
        tops, bottoms = levels[levels > middle], levels[levels <= middle]
        if not len(tops) or not len(bottoms):
            return None
        low, high = float(np.median(bottoms)), float(np.median(tops))
    between = (levels > low + 0.25 * (high - low)) & (levels < high - 0.25 * (high - low))
    # Past a fifth of the step on either side, so that noise at the middle is no edge.
    ups, downs = turns(levels - (low + high) / 2, rate_hz, 0.2 * (high - low), 1)
    gain = np.cumsum((current - low / high * wave) ** 2 - (current - wave) ** 2)
    ups = _sharp(ups, rate_hz, period_s, gain, True)
    downs = _sharp(downs, rate_hz, period_s, gain, False)
    found = steady_period(ups)
    if found is None or between.mean() > MOST_BETWEEN or low / high > LEAST_STEP:
        return None
    pulse_s, error = found
    following = np.searchsorted(downs, ups)
    has = following < len(downs)
    peaks = downs[following[has]] - ups[has]
    peaks = peaks[peaks < pulse_s]
    if len(peaks) < 2 or pulse_s < 2 * period_s:
        return None
    share, spread = float(peaks.mean() / pulse_s), float(peaks.std() / pulse_s / np.sqrt(len(peaks)))
    scatter = float(np.std(tops) / np.sqrt(max(len(tops) / (period_s * rate_hz), 1)))
    return Pulse(
        rate_hz=Found.within(1 / pulse_s, 2.5 * error / pulse_s**2 + 0.002 / pulse_s),
        peak_share=Found.within(share, 2 * spread + 0.005),
        base_share=Found.within(low / high, 2 * scatter / high + 0.01),
    )


def mix_of(
    current: Floats, rate_hz: float, at: tuple[Floats, Floats], halves: tuple[float, float], en_peak: float
) -> Mix | None:
    """Mixed AC and DC, by EN halves that last far longer than the others; ``halves`` are a cycle, and its EN
    half, in s.
    """
    ups, downs = at
    cycle_s, en_s = halves
    following = np.searchsorted(ups, downs)
    has = following < len(ups)
    starts, ends = downs[has], ups[following[has]]
    long = ends - starts > en_s + LONG_EN * cycle_s
    starts, ends = starts[long] + en_s, ends[long]
    found = steady_period(starts)
    if found is None:
        return None
    mix_s, error = found
    lasts = ends - starts
    share = 1 - float(lasts.mean()) / mix_s
    margin = 0.3 * lasts
    inside = [
        current[int((a + m) * rate_hz) : int((b - m) * rate_hz)]
        for a, b, m in zip(starts, ends, margin, strict=True)
    ]
    levels = np.concatenate(inside) if inside else np.empty(0)
    if not len(levels) or en_peak <= 0:
        return None
    level = -float(np.median(levels)) / en_peak
    spread = float(lasts.std() / mix_s / np.sqrt(len(lasts)))
    return Mix(
        ac_share=Found.within(share, 2 * spread + 0.5 * cycle_s / mix_s / np.sqrt(len(lasts)) + 0.005),
        cycle_s=Found.within(mix_s, 2.5 * error + 0.002 * mix_s),
        dc_level=Found.within(level, 0.02),
    )
