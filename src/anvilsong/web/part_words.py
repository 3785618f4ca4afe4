"""What a computed part means for the work, in sentences and rows."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from anvilsong.core import say
from anvilsong.core.coefficients import Coefficients
from anvilsong.core.heat.edges import edge_share
from anvilsong.core.model import Situation
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.warming import GROWS_BY, MOST_RESTS, PartResult, RunTrace
from anvilsong.core.warming.job_arc import foot_amps, plate_share
from anvilsong.core.words import sentence

FALLS_BY = 0.85  # of the foot at first, from which on it is said
STANDS_LONG_S = 4.0
MOST_STOPS_NAMED, SET_ALREADY = 3, 0.99
WARM_AHEAD_C, AHEAD_PLACE = 80.0, 0.8
NEAR_MELTING_K = 30.0
GAINS = 0.03  # of the foot at the end, that is worth a word


def advice_words(result: PartResult, plate: float = 1.0, melts_c: float = math.inf) -> list[Words]:
    """The most useful first: whether it is reached, what the end wants, the marks, when it can be touched.

    Parameters
    ----------
    plate : share of the foot that the pool wants on a plate without end, as warm as this part is at first
    melts_c : where the metal begins to melt, °C
    """
    run, foot = result.run, result.foot
    lines = list[Words]()
    for number, trace in enumerate(run.runs):
        name = f"Run {number + 1}: " if len(run.runs) > 1 else ""
        lines.append(name + reached_words(result, trace, plate))
        lines += [name + line for line in _end(result, trace)]
        if number == len(run.runs) - 1:
            lines += rest_words(result)
        ahead = float(np.interp(AHEAD_PLACE * trace.way_mm[-1], trace.way_mm, trace.ahead_c))
        if ahead > WARM_AHEAD_C:
            lines.append(sentence("web.towards_end_metal_two", name=name, ahead=ahead))
        if trace.waited_s >= 1:
            lines.append(sentence("web.begins_after_waiting", name=name, waited_s=_time(trace.waited_s)))
    for mark in run.marks:
        limit: Words = ""
        if mark.most_c is not None:
            limit = say.joined(
                f", {'over' if mark.is_over else 'under'} the ", say.celsius(mark.most_c), " it may have"
            )
        lines.append(
            say.joined(
                f"{mark.name}: ",
                say.celsius(mark.peak_c),
                f" at most, after {_time(mark.peak_s)}",
                limit,
                ".",
            )
        )
    touch = "more than two hours" if run.touch_s is None else _time(run.touch_s)
    if run.end_mean_c >= melts_c - NEAR_MELTING_K:
        lines.insert(
            0,
            sentence("web.end_whole_part_has", end_mean_c=run.end_mean_c, melts_c=melts_c),
        )
    else:
        lines.append(sentence("web.end_part_mean_can", end_mean_c=run.end_mean_c, touched_c=50, touch=touch))
    lines.append(
        sentence(
            "web.kj_went_spread_once",
            heat_j=run.heat_j / 1000,
            lumped_c=run.lumped_c,
            lost_j=run.lost_j / max(run.heat_j, 1e-09),
        )
    )
    if foot.amps(plate) > result.ceiling_a * 1.02:
        lines.append(
            sentence("web.plate_without_end_pool", plate=foot.amps(plate), ceiling_a=result.ceiling_a)
        )
    return lines


def reached_words(result: PartResult, trace: RunTrace, plate: float = 1.0) -> Words:
    """Whether and where the wanted pool runs at the planned travel."""
    stood = (
        sentence("web.after_standing_start", stood_s=_time(trace.stood_s))
        if trace.stood_s >= STANDS_LONG_S
        else ""
    )
    pool = say.joined("the pool of ", say.mm(result.run.wanted_mm), " at ", say.mm_s(result.run.travel_mm_s))
    planned, slowest = result.run.travel_mm_s, min(trace.travel_mm_s)
    if trace.reached_mm is None:
        slow = sentence("web.torch_goes_slow", slowest=slowest) if slowest < 0.97 * planned else ""
        return say.joined(pool, " is not reached", stood, slow, ".")
    if trace.reached_mm < 1.5 * result.run.wanted_mm:
        return sentence("web.there_from_start", pool=pool, stood=stood)
    short = result.foot.amps(plate) > 1.02 * result.ceiling_a
    why = sentence("web.part_small_enough") if short else ""
    return say.joined(pool, " is reached after ", say.mm(trace.reached_mm, 0), stood, why, ".")


def _end(result: PartResult, trace: RunTrace) -> list[Words]:
    """What happens by the end, and what that wants without a pedal."""
    foot, first, last = result.foot, trace.first_share, trace.last_share
    if result.has_pedal and last < FALLS_BY * first:
        amps = foot.amps(last)
        return [
            sentence(
                "web.pedal_comes_off_end",
                first=foot.amps(first),
                amps=amps,
                amps_share=amps / result.ceiling_a,
            )
        ]
    if not result.has_pedal and result.held and trace.widest_mm > GROWS_BY * result.run.wanted_mm:
        begin, end = (foot.amps(share) for share in result.held)
        took = _time(trace.ends_s - trace.begins_s)
        return [
            sentence(
                "web.with_constant_amps_pool", widest_mm=trace.widest_mm, begin=begin, end=end, took=took
            )
        ]
    return []


def rest_words(result: PartResult) -> list[Words]:
    """With a torch switch: where to put the arc out, and for how long."""
    rested = result.rested
    if rested is None:
        return []
    eased = rested.share < SET_ALREADY * result.run.runs[0].share_at(0.0)
    amps = f"At the {result.foot.amps(rested.share):.0f} A that {'the start wants' if eased else 'are set'}"
    if not rested.rests:
        return [sentence("web.rests_with_arc_out", amps=amps, most_rests=MOST_RESTS)]
    several = len(result.run.runs) > 1
    stops = [
        say.joined(
            f"{_time(rest.seconds)} after ",
            say.mm(rest.way_mm, 0),
            f" of run {rest.run}" if several else "",
        )
        for rest in rested.rests
    ]
    if len(stops) > MOST_STOPS_NAMED:
        seconds = [rest.seconds for rest in rested.rests]
        named = say.joined(
            f"{len(stops)}, the first ",
            stops[0],
            f", of {_time(min(seconds))} to {_time(max(seconds))}",
        )
    else:
        named = say.listed(stops)
    return [
        sentence(
            "web.rests_with_arc_out_2",
            amps=amps,
            named=named,
            widest_mm=rested.widest_mm,
            ends_s=_time(rested.ends_s),
        )
    ]


def edge_words(at: Situation, settings: Settings, c: Coefficients) -> Words:
    """What the foot does near an edge and an end, by mirror sources: for the parts that nobody draws."""
    width, plate = float(at.aimed_width_mm(settings.travel_mm_s)), at.plate(settings.travel_mm_s)
    foot = foot_amps(at, settings, c)
    ways = ((1.0, False), (0.5, False), (1.0, True), (0.5, True))
    warm = at.job.part_temperature_c if settings.preheat_c is None else settings.preheat_c
    share = plate_share(at, warm)
    beside, near, before, end = (
        foot.amps(share * edge_share(plate, width, times * width, ahead)) for times, ahead in ways
    )
    return sentence(
        "web.without_drawing_middle_large",
        share=foot.amps(share),
        beside=beside,
        width=width,
        near=near,
        before=before,
        end=end,
    )


def compared_rows(result: PartResult) -> list[dict[str, Any]]:
    """Each way beside the one that was drawn; ``gains`` says what is better, empty where nothing is."""
    if not result.others:
        return []
    drawn, rows = result.others[0], []
    for way in result.others:
        gains = []
        if way is not drawn:
            if way.over < drawn.over:
                gains.append(sentence("web.mark_stays_under_limit"))
            if way.last_share > drawn.last_share + GAINS:
                gains.append(sentence("web.end_wants_more_amps"))
            if way.reached_mm is not None and drawn.reached_mm is None:
                gains.append(sentence("web.pool_reached"))
            if way.hottest_mark_c is not None and drawn.hottest_mark_c is not None:
                cooler = drawn.hottest_mark_c - way.hottest_mark_c
                if cooler > 10:
                    gains.append(
                        sentence(
                            "web.hottest_mark_stays_instead",
                            here_c=way.hottest_mark_c,
                            before_c=drawn.hottest_mark_c,
                        )
                    )
        rows.append({"way": way, "gains": say.joined(*gains, by=", ")})
    return rows


def _time(seconds: float) -> str:
    return f"{seconds:.0f} s" if seconds < 120 else f"{seconds / 60:.0f} min"
