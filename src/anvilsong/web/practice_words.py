"""What a pedal run came to, in sentences."""

from __future__ import annotations

from anvilsong.core.practice import PedalResult, WorstSecond
from anvilsong.core.said import Words
from anvilsong.core.words import sentence

GOOD_HABIT = 0.8


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
