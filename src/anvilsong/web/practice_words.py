"""What a pedal run came to, in sentences."""

from __future__ import annotations

from anvilsong.core.practice import PedalResult, RhythmResult, WorstSecond
from anvilsong.core.said import Words
from anvilsong.core.words import sentence

GOOD_HABIT = 0.8
EVEN_SHARE, OFF_TEMPO, LATE_SHARE = 0.08, 0.03, 0.12  # of a beat; of the tempo; of a beat


def headline(result: PedalResult) -> Words:
    """How the run ended, in one sentence."""
    if result.burnt_mm is not None:
        return sentence("web.run_burnt", way_mm=result.burnt_mm)
    if result.started_s is None:
        return sentence("web.run_never", wanted_mm=result.wanted_mm)
    return sentence(
        "web.run_done", in_band_s=result.in_band_s, counted_s=result.counted_s, started_s=result.started_s
    )


def advice_lines(result: PedalResult) -> list[Words]:
    """The worst seconds with what to do there, then what the way of practising asks for."""
    lines = [_second(one) for one in result.worst]
    if not lines and result.started_s is not None and result.burnt_mm is None:
        lines.append(sentence("web.run_no_worst"))
    if result.habit is not None:
        lines.append(_habit(result, result.habit >= GOOD_HABIT))
    return lines


def _second(one: WorstSecond) -> Words:
    match one.advice:
        case "off_more":
            does = sentence("web.do_off_more", ideal=100 * (one.ideal or 0))
        case "off_earlier":
            does = sentence("web.do_off_earlier")
        case "on_more":
            does = sentence("web.do_on_more", ideal=100 * (one.ideal or 0))
        case "on_earlier":
            does = sentence("web.do_on_earlier")
        case "slower":
            does = sentence("web.do_slower")
        case "faster":
            does = sentence("web.do_faster")
        case "lit":
            does = sentence("web.do_lit")
    return sentence(
        "web.worst_second",
        way_mm=one.way_mm,
        time_s=one.time_s,
        pool=100 * one.pool,
        pedal=100 * one.pedal,
        does=does,
    )


def _habit(result: PedalResult, is_good: bool) -> Words:
    """What the mode is about besides the pool."""
    match result.mode:
        case "hot":
            return sentence("web.habit_hot_good") if is_good else sentence("web.habit_hot_poor")
        case "patient":
            return sentence("web.habit_patient_good") if is_good else sentence("web.habit_patient_poor")
        case "pulse":
            return sentence("web.habit_pulse_good") if is_good else sentence("web.habit_pulse_poor")
        case _:
            return sentence("web.habit_beat_good") if is_good else sentence("web.habit_beat_poor")


def rhythm_lines(result: RhythmResult) -> list[Words]:
    """What taps came to: missed and extra ones, tempo, evenness, lateness, and what to do."""
    lines: list[Words] = [
        sentence("web.rhythm_counted", beats=result.beats, missed=result.missed, extra=result.extra)
    ]
    if result.tempo is None or result.spread_s is None or result.late_s is None:
        return [*lines, sentence("web.rhythm_too_few")]
    spread = result.spread_s * result.rate_hz
    even = sentence("web.rhythm_even") if spread <= EVEN_SHARE else sentence("web.rhythm_uneven")
    lines.append(
        sentence(
            "web.rhythm_figures",
            tempo=result.tempo * result.rate_hz,
            spread=1000 * result.spread_s,
            even=even,
        )
    )
    if abs(result.tempo - 1) > OFF_TEMPO:
        faster = result.tempo > 1
        lines.append(sentence("web.rhythm_runs") if faster else sentence("web.rhythm_drags"))
    elif abs(result.late_s) * result.rate_hz > LATE_SHARE:
        lines.append(sentence("web.rhythm_late") if result.late_s > 0 else sentence("web.rhythm_early"))
    return lines
