"""What the foot does along a run: amps over the way, with the ceiling, and how fast the hand can go."""

from __future__ import annotations

import numpy as np

from anvilsong.core import say
from anvilsong.core.said import Words
from anvilsong.core.warming import FIRST_PLACE, LAST_PLACE, PartResult, RunTrace
from anvilsong.core.words import sentence
from anvilsong.web.drawings.svg import Drawing, Drawn, Point

WIDTH, HEIGHT, LEFT, RIGHT, TOP, BOTTOM = 520.0, 272.0, 68.0, 506.0, 26.0, 144.0
POOL_TOP, POOL_BOTTOM, WIDEST = 206.0, 260.0, 1.8  # the pool's own strip; of the wanted width
SLOW = 0.97  # of the planned travel: under this the hand waits for its pool


def foot_drawing(result: PartResult, number: int) -> Drawn:
    """The curve of one run, by its number from 0."""
    trace, foot = result.run.runs[number], result.foot
    amps = [foot.amps(share) for share in trace.share]
    steady, ceiling = foot.amps(1.0), result.ceiling_a
    top = 1.06 * max(*amps, steady, ceiling)
    whole = max(trace.way_mm[-1], 1e-6)

    def at(way: float, amp: float) -> Point:
        return LEFT + way / whole * (RIGHT - LEFT), BOTTOM - amp / top * (BOTTOM - TOP)

    words = said_of(result, number)
    drawing = Drawing(
        WIDTH, HEIGHT, sentence("web.run_welding_amps_along", number=number + 1), words, "foot-curve"
    )
    for begin, end in _slow_stretches(trace, result.run.travel_mm_s):
        drawing.rect(at(begin, 0)[0], TOP, at(end, 0)[0] - at(begin, 0)[0], BOTTOM - TOP, "foot-slow")
    drawing.line((LEFT, BOTTOM), (RIGHT, BOTTOM), "trade-axis")
    drawing.line((LEFT, TOP), (LEFT, BOTTOM), "trade-axis")
    drawing.line(at(0, ceiling), at(whole, ceiling), "trade-end")
    if abs(steady - ceiling) > 0.15 * top:
        drawing.line(at(0, steady), at(whole, steady), "foot-steady")
        drawing.text((LEFT - 6, at(0, steady)[1] + 5), f"{steady:.0f}", "label", "end")
    drawing.text((LEFT - 6, at(0, ceiling)[1] + 5), f"{ceiling:.0f} A", "label", "end")
    drawing.polyline([at(*pair) for pair in zip(trace.way_mm, amps, strict=True)], "trade-curve")
    for share in (0.0, 0.5, 1.0):
        anchor = ("start", "middle", "end")[round(2 * share)]
        drawing.text((at(share * whole, 0)[0], BOTTOM + 18), say.mm(share * whole, 0), "label", anchor)
    for way in (FIRST_PLACE * whole, LAST_PLACE * whole):
        amp = foot.amps(trace.share_at(way))
        x, y = at(way, amp)
        drawing.circle((x, y), 4, "trade-here")
        drawing.text((x, y + 22 if y < TOP + 30 else y - 10), f"{amp:.0f} A", "label halo", "middle")
    drawing.text(
        ((LEFT + RIGHT) / 2, BOTTOM + 44),
        sentence("web.dashed_machine_amps_shaded"),
        "label",
        "middle",
    )
    _pool(drawing, trace, result.run.wanted_mm)
    return drawing.render()


def _pool(drawing: Drawing, trace: RunTrace, wanted_mm: float) -> None:
    """Width of the pool along the same way, against the one that is wanted."""
    whole = max(trace.way_mm[-1], 1e-6)

    def at(way: float, width: float) -> Point:
        up = min(width / wanted_mm, WIDEST) / WIDEST
        return LEFT + way / whole * (RIGHT - LEFT), POOL_BOTTOM - up * (POOL_BOTTOM - POOL_TOP)

    drawing.line(at(0, 0), at(whole, 0), "trade-axis")
    drawing.line(at(0, wanted_mm), at(whole, wanted_mm), "foot-steady")
    drawing.text((LEFT - 6, at(0, wanted_mm)[1] + 5), say.mm(wanted_mm), "label", "end")
    drawing.polyline([at(*pair) for pair in zip(trace.way_mm, trace.width_mm, strict=True)], "foot-pool")
    drawing.text((LEFT + 4, POOL_TOP + 8), "width of the pool", "label halo")


def said_of(result: PartResult, number: int) -> Words:
    """The run in words: cold, in the middle, at the end; without a foot, how the pool grows."""
    trace, foot = result.run.runs[number], result.foot
    whole = trace.way_mm[-1]
    places = [FIRST_PLACE * whole, 0.5 * whole, LAST_PLACE * whole]
    amps = [foot.amps(trace.share_at(way)) for way in places]
    if not result.has_pedal:
        wide = [say.mm(float(np.interp(way, trace.way_mm, trace.width_mm))) for way in places]
        return sentence(
            "web.all_way_pool_wide",
            amps=amps[0],
            first=wide[0],
            between=wide[1],
            after_mm=places[1],
            last=wide[2],
        )
    return sentence(
        "web.once_moves_after_end",
        first=amps[0],
        between=amps[1],
        after_mm=places[1],
        last=amps[2],
        percent=100 * amps[2] / result.ceiling_a,
    )


def _slow_stretches(trace: RunTrace, planned: float) -> list[tuple[float, float]]:
    found: list[tuple[float, float]] = []
    before = 0.0
    for way, travel in zip(trace.way_mm, trace.travel_mm_s, strict=True):
        if travel < SLOW * planned:
            if found and abs(found[-1][1] - before) < 1e-9:
                found[-1] = (found[-1][0], way)
            else:
                found.append((before, way))
        before = way
    return found
