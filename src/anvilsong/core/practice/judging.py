"""What a pedal run came to: how long the pool was as wide as wanted, and its worst seconds with what to do
there.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from anvilsong.core.monotone import Array
from anvilsong.core.practice.ideal import Ideal
from anvilsong.core.practice.modes import MODES
from anvilsong.core.practice.pedal_run import PedalRun, PedalTask
from anvilsong.core.practice.practised import MOST_PLACES, Advice, PedalResult, Trace, WorstSecond
from anvilsong.core.practice.seen import BAND, PEDAL_UP, Seen
from anvilsong.core.warming.result import LAST_POOLS

WORST, WORST_S, APART_S = 3, 1.0, 2.0
LATE_S, LATE_TIMES = 2.0, 3.0  # how long the pool may take to come, and of what Part's own took
FULL, SOON_S = 0.95, 0.6  # of the pedal's travel, and how soon after the arc starts, "hot and fast"
HELD_S = 3.0  # of welding, without which nothing is said of how still the pedal was held
GENTLE = 0.5  # of the pedal's travel a second, at most, "patient"
FIRST_POOLS, SHORT = 1.5, 0.2  # pools, and at most of the length, that do not count
PLACES = 160


def judged(run: PedalRun, ideal: Ideal | None) -> PedalResult:
    """A run, ended or given up, against the wanted pool.

    ``counted_s`` runs from a little after the start, or from when that was due, to where the edge holds the
    heat back; ``started_s`` until the pool was there, None where it never was. ``habit`` is what the mode is
    about besides the pool, 0 to 1; None where it is about nothing else.

    Parameters
    ----------
    ideal : the way of Part's own pedal, for what is said of the worst seconds; None with a torch switch
    """
    task, seen = run.task, run.seen
    time = np.array([one.time_s for one in seen])
    way = np.array([one.way_mm for one in seen])
    pool = _pool(task, time, np.array([one.width_mm for one in seen])) / task.arc.width_mm
    lit = next((one.time_s for one in seen if one.pedal > PEDAL_UP), -1.0)
    there = np.flatnonzero(pool >= BAND[0])
    started = float(time[there[0]]) - lit if there.size else None
    first_mm, ends_mm = _counted_mm(task)
    due = lit + max(LATE_S, LATE_TIMES * (ideal.stood_s if ideal is not None else 0.0))
    due += (first_mm - task.begins_mm) / task.arc.travel_mm_s
    counts = ((way >= first_mm) | (time >= due)) & (way <= ends_mm) & (lit >= 0)
    first = float(time[int(np.argmax(counts))]) if counts.any() else float(time[-1])
    step = np.diff(time, prepend=0.0)
    inside = (pool >= BAND[0]) & (pool <= BAND[1])
    counted, good = float(step[counts].sum()), float(step[counts & inside].sum())
    burnt = round(seen[-1].way_mm, 1) if seen[-1].state == "burnt" else None
    return PedalResult(
        mode=task.mode,
        length_mm=round(task.length_mm, 1),
        wanted_mm=task.arc.width_mm,
        counted_s=round(counted, 2),
        in_band_s=round(good, 2),
        wide_s=round(float(step[counts & (pool > BAND[1])].sum()), 2),
        narrow_s=round(float(step[counts & (pool < BAND[0])].sum()), 2),
        started_s=None if started is None else round(started, 2),
        widest=round(float(pool[counts].max()), 3) if counts.any() else 0.0,
        burnt_mm=burnt,
        way_mm=round(float(way[-1]), 1),
        habit=_habit(task, seen, time, first),
        worst=_worst(task, seen, (time, pool, counts), ideal),
        trace=trace_of(run),
        ideal=None if ideal is None else _trace(ideal.way_mm, ideal.pedal, ideal.pool),
    )


def score_of(task: PedalTask, result: PedalResult) -> int:
    """Per cent of the counted time with the pool in its band; what is left of the weld, after a melt-through
    or where it was given up, counts as out of it.
    """
    first_mm, ends_mm = _counted_mm(task)
    left_s = max(0.0, ends_mm - max(result.way_mm, first_mm)) / task.arc.travel_mm_s
    whole_s = result.counted_s + left_s
    return round(100 * result.in_band_s / whole_s) if whole_s > 0 else 0


def _counted_mm(task: PedalTask) -> tuple[float, float]:
    """Where counting begins and ends: past the start, where a pool that begins to move is narrow, and before
    the other edge, which holds the heat back; of a short weld its middle.
    """
    pool, length = task.arc.width_mm, task.length_mm
    first = task.begins_mm + min(FIRST_POOLS * pool, SHORT * length)
    return first, length - min(LAST_POOLS * pool, SHORT * length)


def _pool(task: PedalTask, time: Array, width: Array) -> Array:
    """Width of the pool, mm; its mean over the last pulse where it breathes with each."""
    if not MODES[task.mode].over_a_pulse:
        return width
    pulse_s = 1 / task.pulse.rate_hz
    whole = np.concatenate(([0.0], np.cumsum(width * np.diff(time, prepend=0.0))))
    begins = np.searchsorted(time, time - pulse_s)
    spans = np.maximum(time - time[begins], 1e-9)
    mean = (whole[1:] - whole[begins + 1]) / spans
    return np.asarray(np.where(time >= pulse_s, mean, width))


def _habit(task: PedalTask, seen: list[Seen], time: Array, first: float) -> float | None:
    """What the mode asks of the pedal besides the pool, 0 to 1."""
    pedal = np.array([one.pedal for one in seen])
    lit = np.flatnonzero(pedal > PEDAL_UP)
    if not lit.size:
        return None if task.mode in ("hold", "switch") else 0.0
    moved = np.abs(np.diff(pedal)) / np.maximum(np.diff(time), 1e-6)
    after = time >= first
    match task.mode:
        case "hot":
            soon = (time >= time[lit[0]]) & (time <= time[lit[0]] + SOON_S)
            return round(float(min(1.0, pedal[soon].max() / FULL)), 3)
        case "patient":
            quick = np.abs(np.diff(pedal))[moved > GENTLE]
            return round(1 / (1 + float(quick.sum())), 3)
        case "pulse":
            held = after & (pedal > PEDAL_UP)
            return _stillness(pedal[held], time[held])
        case "pedal_pulse":
            return _pumped(pedal[after], time[after], 1 / task.pulse.rate_hz)
        case "hold" | "switch":
            return None


def _stillness(pedal: Array, time: Array) -> float:
    """How little the pedal goes back and forth: 0.1 of its travel a second is halfway."""
    if time.size < 3 or time[-1] - time[0] < HELD_S:
        return 0.0
    back_and_forth = float(np.abs(np.diff(pedal)).sum()) - abs(float(pedal[-1] - pedal[0]))
    return round(1 / (1 + 10 * back_and_forth / float(time[-1] - time[0])), 3)


def _pumped(pedal: Array, time: Array, wanted: float) -> float:
    """How near the presses come to the wanted rhythm: rate and evenness together."""
    if time.size < 10:
        return 0.0
    middle = (pedal.max() + pedal.min()) / 2
    presses = time[1:][(pedal[1:] > middle) & (pedal[:-1] <= middle)]
    gaps = np.diff(presses)
    if gaps.size < 3 or pedal.max() - pedal.min() < 0.1:
        return 0.0
    off = abs(float(np.mean(gaps)) / wanted - 1) + float(np.std(gaps)) / wanted
    return round(max(0.0, 1 - off), 3)


def _worst(
    task: PedalTask, seen: list[Seen], of: tuple[Array, Array, NDArray[np.bool_]], ideal: Ideal | None
) -> tuple[WorstSecond, ...]:
    """The seconds with the pool furthest from the wanted one, apart from one another, in their order."""
    time, pool, counts = of
    if not counts.any():
        return ()
    off = np.where(counts, np.maximum(np.maximum(pool - BAND[1], BAND[0] - pool), 0.0), 0.0)
    step = np.diff(time, prepend=0.0)
    sums = np.concatenate(([0.0], np.cumsum(off * step)))
    begins = np.searchsorted(time, time - WORST_S)
    badness = sums[1:] - sums[begins]
    found: list[int] = []
    while len(found) < WORST and badness.max(initial=0.0) > 1e-3:
        at = int(np.argmax(badness))
        found.append(at)
        badness = np.where(np.abs(time - time[at]) < APART_S, 0.0, badness)
    return tuple(
        _second(task, seen, int((begins[at] + at) // 2), float(pool[at]), ideal) for at in sorted(found)
    )


def _second(task: PedalTask, seen: list[Seen], at: int, pool: float, ideal: Ideal | None) -> WorstSecond:
    one = seen[at]
    wanted = None
    if ideal is not None:
        wanted = round(ideal.pedal_at(one.way_mm), 3)
    return WorstSecond(
        time_s=round(one.time_s, 2),
        way_mm=round(one.way_mm, 1),
        pool=round(pool, 3),
        pedal=round(one.pedal, 3),
        ideal=wanted,
        advice=_advice(task, one, pool, wanted),
    )


def _advice(task: PedalTask, one: Seen, pool: float, ideal: float | None) -> Advice:
    """What would have helped: the pedal is wrong there, or was before and is already on its way."""
    if one.pedal <= PEDAL_UP:
        return "lit"
    if task.mode == "switch" or ideal is None:
        return "faster" if pool > 1 else "slower"
    if pool > 1:
        return "off_more" if one.pedal >= ideal else "off_earlier"
    return "on_more" if one.pedal <= ideal else "on_earlier"


def trace_of(run: PedalRun) -> Trace:
    """What is kept of a run for the next one's picture: about one place each 1/160 of the way."""
    every = run.task.length_mm / PLACES
    kept, after = list[Seen](), -1.0
    for one in run.seen:
        if one.way_mm >= after:
            kept.append(one)
            after = one.way_mm + every
    wanted_mm = run.task.arc.width_mm
    return _trace(
        [one.way_mm for one in kept], [one.pedal for one in kept], [one.width_mm / wanted_mm for one in kept]
    )


def _trace(way_mm: Sequence[float], pedal: Sequence[float], pool: Sequence[float]) -> Trace:
    """Thinned out and rounded to what a picture shows."""
    every = max(1, math.ceil(len(way_mm) / MOST_PLACES))
    return Trace(
        way_mm=tuple(round(one, 1) for one in way_mm[::every]),
        pedal=tuple(round(one, 3) for one in pedal[::every]),
        pool=tuple(round(one, 3) for one in pool[::every]),
    )
