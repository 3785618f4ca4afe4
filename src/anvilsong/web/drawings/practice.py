"""A pedal run along its weld: the pool against its band, the pedal against Part's own, and the run before."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from anvilsong.core import say
from anvilsong.core.practice import PedalResult
from anvilsong.core.practice.practised import Trace
from anvilsong.core.practice.seen import BAND
from anvilsong.core.words import sentence
from anvilsong.web.drawings.svg import Drawing, Drawn, Point

WIDTH, HEIGHT, LEFT, RIGHT = 560.0, 300.0, 62.0, 546.0
POOL_TOP, POOL_BOTTOM, WIDEST = 22.0, 132.0, 2.0  # of the wanted width
PEDAL_TOP, PEDAL_BOTTOM = 172.0, 262.0
Place = Callable[[float, float], Point]


def pedal_drawing(result: PedalResult, before: PedalResult | None = None) -> Drawn:
    """The run; ``before`` is the one before it, drawn thinner."""
    whole, trace = max(result.length_mm, 1e-6), result.trace
    pool = np.array(trace.pool or (0.0,))
    told = sentence(
        "web.pedal_run_told",
        mean=100 * float(pool.mean()),
        widest=100 * result.widest,
        first=100 * (trace.pedal[0] if trace.pedal else 0.0),
        last=100 * (trace.pedal[-1] if trace.pedal else 0.0),
    )
    drawing = Drawing(WIDTH, HEIGHT, sentence("web.pedal_run_title"), told, "pedal-run")

    def pool_at(way: float, share: float) -> Point:
        up = min(share, WIDEST) / WIDEST
        return LEFT + way / whole * (RIGHT - LEFT), POOL_BOTTOM - up * (POOL_BOTTOM - POOL_TOP)

    def pedal_at(way: float, share: float) -> Point:
        return LEFT + way / whole * (RIGHT - LEFT), PEDAL_BOTTOM - share * (PEDAL_BOTTOM - PEDAL_TOP)

    top, bottom = (pool_at(0, edge)[1] for edge in reversed(BAND))
    drawing.rect(LEFT, top, RIGHT - LEFT, bottom - top, "pedal-band")
    drawing.line(pool_at(0, 0), pool_at(whole, 0), "trade-axis")
    drawing.line(pedal_at(0, 0), pedal_at(whole, 0), "trade-axis")
    drawing.line(pedal_at(0, 1), pedal_at(whole, 1), "trade-end")
    for trace_of, css in ((before.trace if before else None, "pedal-before"), (result.trace, "pedal-pool")):
        if trace_of is not None:
            drawing.polyline(_path(trace_of, trace_of.pool, pool_at), css)
    for shown, css in (
        (before.trace if before else None, "pedal-before"),
        (result.ideal, "pedal-ideal"),
        (result.trace, "pedal-hand"),
    ):
        if shown is not None:
            drawing.polyline(_path(shown, shown.pedal, pedal_at), css)
    for one in result.worst:
        drawing.circle(pool_at(one.way_mm, one.pool), 5, "pedal-worst")
    if result.burnt_mm is not None:
        x = pool_at(result.burnt_mm, 0)[0]
        drawing.line((x, POOL_TOP), (x, PEDAL_BOTTOM), "pedal-burnt")
    drawing.text((LEFT - 6, pool_at(0, 1)[1] + 5), say.mm(result.wanted_mm), "label", "end")
    drawing.text((LEFT - 6, pedal_at(0, 1)[1] + 5), "100 %", "label", "end")
    drawing.text((LEFT + 4, POOL_TOP - 4), "pool width", "label halo")
    drawing.text((LEFT + 4, PEDAL_TOP - 6), "pedal" if result.ideal else "torch switch", "label halo")
    for share in (0.0, 0.5, 1.0):
        anchor = ("start", "middle", "end")[round(2 * share)]
        x = pedal_at(share * whole, 0)[0]
        drawing.text((x, PEDAL_BOTTOM + 20), say.mm(share * whole, 0), "label", anchor)
    return drawing.render()


def _path(trace: Trace, values: tuple[float, ...], at: Place) -> list[Point]:
    return [at(way, value) for way, value in zip(trace.way_mm, values, strict=True)]
