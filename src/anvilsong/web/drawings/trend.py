"""Coupons over a setting, with the model's line and the band that nine of ten lie in."""

from __future__ import annotations

from collections.abc import Callable

from anvilsong.core import say
from anvilsong.core.bead import Trend
from anvilsong.core.shown import figure, unit_words
from anvilsong.core.units import Dimension, UnitSystem
from anvilsong.core.words import sentence
from anvilsong.web.drawings.svg import Drawing, Drawn
from anvilsong.web.drawings.ticks import round_ticks

WIDTH, HEIGHT, LEFT, BOTTOM, EDGE = 560.0, 280.0, 58.0, 46.0, 16.0
MARKS = 5
Axis = tuple[str, Dimension, Callable[[float], str]]  # name, dimension, how a value is said


def trend_drawing(trend: Trend, words: str, setting: Axis, system: UnitSystem) -> Drawn:
    """A trend with its axes.

    Parameters
    ----------
    words : what is drawn upwards, a length
    setting : what is drawn to the right
    """
    name, dimension, said = setting
    across = [*trend.at, *(dot.at for dot in trend.dots)]
    upward = [*trend.high, *(dot.value for dot in trend.dots)]
    low, high, top = min(across), max(across), 1.08 * max(max(upward), 0.5)

    def x(at: float) -> float:
        return LEFT + 10 + (WIDTH - LEFT - 30) * (at - low) / ((high - low) or 1.0)

    def y(value: float) -> float:
        return EDGE + (HEIGHT - EDGE - BOTTOM) * (1 - value / top)

    count = len(trend.dots)
    drawing = Drawing(
        WIDTH,
        HEIGHT,
        words,
        sentence("web.over_model_band_coupons", words=words, name=say.within(name), count=count),
        "drawing trend",
    )
    band = [*zip(trend.at, trend.high, strict=True), *reversed(list(zip(trend.at, trend.low, strict=True)))]
    drawing.polygon([(x(at), y(value)) for at, value in band], "trend-band")
    drawing.polyline(
        [(x(at), y(value)) for at, value in zip(trend.at, trend.line, strict=True)], "trend-line"
    )
    for at in round_ticks(low, high, MARKS, dimension, system):
        drawing.text((x(at), HEIGHT - BOTTOM + 20), said(at), "label small", "middle")
    for value in round_ticks(0.0, top, MARKS, "length", system):
        drawing.text((LEFT - 4, y(value) + 5), figure(value, "length", system), "label small", "end")
        drawing.line((LEFT, y(value)), (WIDTH - 12, y(value)), "trend-rule")
    drawing.text((WIDTH - 14, HEIGHT - 4), name, "label small", "end")
    drawing.text((LEFT - 4, EDGE + 2), unit_words("length", system), "label small", "end")
    for dot in trend.dots:
        place = (x(dot.at), y(dot.value))
        drawing.circle(place, 5, "run-left-out" if dot.left_out else "run-in")
    return drawing.render()
