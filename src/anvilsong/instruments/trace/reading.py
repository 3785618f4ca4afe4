"""What flows, read out of a recording of the current: its wave, pulse or mix, with ranges, or why not.

The current turns where it goes through nothing; between the turns lie the halves. The cycles are laid over
each other, and the wave of five shapes that fits them best gives share and peaks (`trace.fit`). What is
slower is read off the mean of |i| over one cycle (`trace.slow`).
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from anvilsong.core.flow import MOST_COLUMNS_DRAWN, MOST_TURNS, Found, TracePicture, TraceReading
from anvilsong.core.said import Words
from anvilsong.core.words import sentence
from anvilsong.instruments.trace.course import (
    MISSING_FROM,
    Run,
    gone_out,
    missing_halves,
    power_of,
    slopes_of,
    told_of,
)
from anvilsong.instruments.trace.fit import Cycle, Fit, fits_of, laid_over
from anvilsong.instruments.trace.halves import Halves, halves_of, rough_period_s, straightened, turns
from anvilsong.instruments.trace.recording import Recording
from anvilsong.instruments.trace.slow import envelope, mix_of, pulse_of
from anvilsong.instruments.trace.zero import burning, quiet_level

Floats = NDArray[np.float64]

LEAST_IN_A_HALF, LEAST_CYCLES = 10, 6
SMOOTHED, TURNS_AT = 0.012, 0.3  # of a cycle; of the usual current, or of the base of a pulse
STEADY = 0.85  # of the usual level: what lies under it is a slope
CLEARER, CLEAR = 1.25, 0.004  # how much better the told shape fits than any other; of the rms
NARROW_PULSE = 0.02
NARROW = {"frequency_hz": 0.005, "ep_share": 0.01, "en_a": 0.02, "ep_a": 0.02}  # half a range of what is sure
POOR_FIT = 0.12  # of the rms, beside the noise: no wave of ours


def read_trace(recording: Recording, zero: float | None = None) -> TraceReading:
    """What flows in a recording; ``zero`` is the level of no current, where somebody knows it, in amps."""
    return _read(recording, zero)[0]


def drawn_trace(recording: Recording, zero: float | None = None) -> tuple[TraceReading, TracePicture]:
    """What flows in a recording, and what a page draws of it."""
    reading, seen = _read(recording, zero)
    current = recording.amps - reading.zero_a
    count = min(len(current), MOST_COLUMNS_DRAWN)
    edges = np.linspace(0, len(current), count + 1).astype(int)[:-1]
    cycle, begins = seen or (None, np.empty(0))
    picture = TracePicture(
        seconds=recording.seconds,
        lows=_rounded(np.minimum.reduceat(current, edges)),
        highs=_rounded(np.maximum.reduceat(current, edges)),
        cycle=tuple(zip(_rounded(cycle.places), _rounded(cycle.current), strict=True)) if cycle else (),
        begins_s=_rounded(begins[np.linspace(0, len(begins) - 1, min(len(begins), MOST_TURNS)).astype(int)]),
    )
    return reading, picture


def _rounded(values: Floats) -> tuple[float, ...]:
    """Values to five figures of the largest of them."""
    most = float(np.abs(values).max(initial=0.0))
    places = 5 - int(np.ceil(np.log10(most))) if most > 0 else 0
    return tuple(np.round(values, places).tolist())


def _read(recording: Recording, zero: float | None) -> tuple[TraceReading, tuple[Cycle, Floats] | None]:
    """What flows; and the mean cycle with where the cycles begin in the recording, s, if any."""
    said: list[Words] = list(recording.said)
    raw, rate = recording.amps, recording.rate_hz
    found = quiet_level(raw, rate) if zero is None else (zero, 0.0)
    nothing, unsure = found or (0.0, 0.0)
    current = raw - nothing
    base: dict[str, Any] = {
        "zero_a": nothing, "is_scaled": recording.is_scaled, "dropped": recording.dropped
    }  # fmt: skip
    lit = burning(current, rate)
    if lit is None:
        return TraceReading(**base, said=(*said, sentence("instruments.trace_no_arc"))), None
    arc = current[lit[0] : lit[1]]
    base |= {
        "starts_s": lit[0] / rate,
        "ends_s": lit[1] / rate,
        "mean_a": float(np.abs(arc).mean()),
        "rms_a": float(np.sqrt((arc**2).mean())),
    }
    if found is None:
        said.append(sentence("instruments.trace_zero_taken"))
    period = rough_period_s(arc, rate)
    if period is None:
        return TraceReading(**base, said=(*said, sentence("instruments.trace_no_ac"))), None
    first, last = _steady(arc, rate, period)
    steady = arc[first:last]
    smooth = max(1, round(SMOOTHED * period * rate))
    level = TURNS_AT * float(np.percentile(envelope(steady, rate, period), 8))
    ups, downs = turns(steady, rate, level, smooth)
    halves = halves_of(steady, rate, ups, downs, period)
    if len(halves.cycle_s) < LEAST_CYCLES:
        reason = sentence("instruments.trace_few_cycles", cycles=len(halves.cycle_s), least=LEAST_CYCLES)
        return TraceReading(**base, said=(*said, reason)), None
    reading = _of_halves(steady, rate, halves, (ups, downs), unsure)
    said += reading.pop("said")
    cycle, begins_s = reading.pop("cycle", None), halves.begins_s + (lit[0] + first) / rate
    if not recording.is_scaled:
        said.append(sentence("instruments.trace_no_amps"))
    sure = reading.pop("sure") and recording.is_scaled and found is not None
    run = Run(arc, rate, first, last)
    base |= _course(run, halves, reading)
    if recording.volts is not None and recording.is_scaled:
        base |= power_of(run, recording.volts[lit[0] : lit[1]], float(np.median(halves.cycle_s)))
    told = TraceReading(**base, **reading, sure=sure)
    told = told.model_copy(update={"said": (*said, *told_of(told))})
    return told, None if cycle is None else (cycle, begins_s)


def _course(run: Run, halves: Halves, reading: dict[str, Any]) -> dict[str, Any]:
    """How the run goes along, where neither pulse nor mix goes through it."""
    period, en = float(np.median(halves.cycle_s)), reading.get("en_a")
    missing = missing_halves(run, halves)
    if max(missing.values()) > MISSING_FROM:
        reading |= {"mix": None, "pulse": None}  # what looks like one is halves that do not flow
    if reading.get("pulse") is not None or reading.get("mix") is not None:
        return {}
    rise, fall = (None, None) if en is None else slopes_of(run, period, en.value)
    return {
        "rise": rise,
        "fall": fall,
        "went_out": gone_out(run, period),
        "missing_ep": missing["ep"],
        "missing_en": missing["en"],
    }


def _steady(arc: Floats, rate_hz: float, period_s: float) -> tuple[int, int]:
    """Where the arc lies between its slopes at either end, in samples of it."""
    levels = envelope(arc, rate_hz, period_s)
    step = max(1, round(4 * period_s * rate_hz))
    tops = np.array([levels[at : at + step].max() for at in range(0, len(levels), step)])
    high = np.flatnonzero(tops > STEADY * np.median(tops))
    first, last = high[0] * step, min((high[-1] + 1) * step, len(arc))
    return (int(first), int(last)) if last - first > 0.3 * len(arc) else (0, len(arc))


def _of_halves(
    current: Floats, rate: float, halves: Halves, at: tuple[Floats, Floats], unsure: float
) -> dict[str, Any]:
    """Wave, pulse and mix of a steady arc whose zero is unsure by so many amps."""
    cycle_s, error = _period(halves)
    share = float(halves.ep_s.sum() / halves.cycle_s.sum())
    found: dict[str, Any] = {
        "frequency_hz": Found.within(1 / cycle_s, 2.5 * error / cycle_s**2 + 2e-4 / cycle_s),
        "said": [],
        "sure": False,
    }
    in_a_half = min(share, 1 - share) * cycle_s * rate
    if in_a_half < LEAST_IN_A_HALF:
        found["said"].append(
            sentence("instruments.trace_few_samples", count=in_a_half, least=LEAST_IN_A_HALF)
        )
        return found
    halves = straightened(halves, rate)
    peak = _at_peak(halves)
    cycle = laid_over(current, rate, halves.begins_s[peak], halves.cycle_s[peak])
    fits = fits_of(cycle, share)
    best = fits[0]
    size = float(np.sqrt(np.average(cycle.current**2, weights=cycle.counts)))
    noise = cycle.scatter / np.sqrt(max(float(np.median(cycle.counts)), 1.0))
    found |= {
        "fit": best.left / size,
        "cycle": cycle,
        "cycle_mean_a": float(np.average(np.abs(cycle.current), weights=cycle.counts)),
        "cycle_rms_a": size,
        "dc_a": float(np.average(cycle.current, weights=cycle.counts)),
    }
    if best.left > POOR_FIT * size + 2 * noise or min(best.ep, best.en) <= 0:
        found["said"].append(sentence("instruments.trace_no_wave_of_ours"))
        return found
    found |= _wave(cycle, fits, (size, noise), rate * cycle_s, unsure)
    mix = mix_of(current, rate, at, (cycle_s, (1 - best.ep_share) * cycle_s), best.en)
    found["mix"] = mix
    if mix is None:
        found["pulse"] = pulse_of(current, _wave_throughout(current, rate, halves, cycle), rate, cycle_s)
    found["sure"] = (
        found["shape_en"] is not None
        and found["shape_ep"] is not None
        and all(_is_narrow(found[name], name) for name in NARROW)
        and (found.get("pulse") is None or _is_narrow(found["pulse"].rate_hz, "pulse_hz"))
        and best.left < 0.05 * size + 2 * noise
    )
    return found


def _wave_throughout(current: Floats, rate: float, halves: Halves, cycle: Cycle) -> Floats:
    """The mean cycle laid along the whole arc, in step with its cycles."""
    numbers = np.concatenate(
        [[0.0], np.cumsum(np.maximum(np.round(np.diff(halves.begins_s) / np.median(halves.cycle_s)), 1))]
    )
    phase = np.interp(np.arange(len(current)) / rate, halves.begins_s, numbers)
    return np.asarray(np.interp(phase % 1, cycle.places, cycle.current, period=1.0))


def _is_narrow(found: Found, name: str) -> bool:
    """Whether a figure's range is narrow enough to be relied on."""
    width = (found.high - found.low) / 2
    return width <= NARROW.get(name, NARROW_PULSE) * (1.0 if name == "ep_share" else abs(found.value))


def _period(halves: Halves) -> tuple[float, float]:
    """The cycle in s and its error, from stretches of cycles that follow each other without a gap."""
    ends = halves.begins_s + halves.cycle_s
    follows = np.concatenate([[False], np.abs(halves.begins_s[1:] - ends[:-1]) < 1e-9])
    stretch = np.cumsum(~follows)
    counts = np.bincount(stretch)[1:]
    spans = np.bincount(stretch, halves.cycle_s)[1:]
    good = counts >= max(2, 0.2 * counts.max())
    jitter = float(np.std(halves.cycle_s)) / np.sqrt(2)
    total = float(counts[good].sum())
    error = jitter * np.sqrt(2 * good.sum()) / total
    return float(spans[good].sum() / total), error


def _at_peak(halves: Halves) -> NDArray[np.bool_]:
    """The cycles at the peak of a pulse; all of them where there is none."""
    size = (halves.ep_mean * halves.ep_s + halves.en_mean * (halves.cycle_s - halves.ep_s)) / halves.cycle_s
    high = float(np.percentile(size, 90))
    return np.asarray((size > 0.96 * high) & (size < 1.06 * high)) if size.min() < 0.9 * high else size > 0


def _wave(
    cycle: Cycle, fits: list[Fit], sizes: tuple[float, float], samples: float, unsure: float
) -> dict[str, Any]:
    """Share, peaks and shapes, as far as they can be told apart, with ranges over all that fit as well.
    ``sizes`` are the rms of the current and of the noise in it.
    """
    best, (size, noise) = fits[0], sizes
    limit = max(CLEARER * best.left, best.left + CLEAR * size, best.left + 0.5 * noise)
    alike = [fit for fit in fits if fit.left <= limit]
    counted = float(cycle.counts.sum())
    spread = 2 * cycle.scatter / np.sqrt(max(counted * min(best.ep_share, 1 - best.ep_share), 1))
    told = {
        name: getattr(best, name) if len({getattr(fit, name) for fit in alike}) == 1 else None
        for name in ("shape_ep", "shape_en")
    }

    def ranged(name: str, least: float) -> Found:
        values = [getattr(fit, name) for fit in alike]
        return Found(value=getattr(best, name), low=min(values) - least, high=max(values) + least)

    return {
        "ep_share": ranged("ep_share", 0.002 + 0.3 / samples / np.sqrt(max(counted / samples, 1))),
        "ep_a": ranged("ep", float(spread + 2.5 * unsure + 0.006 * best.ep)),
        "en_a": ranged("en", float(spread + 2.5 * unsure + 0.006 * best.en)),
        **told,
    }
