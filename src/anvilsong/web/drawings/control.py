"""A control chart: one figure over the runs, its mean and limits, what lies outside marked."""

from __future__ import annotations

from anvilsong.core import say
from anvilsong.core.bead import Chart
from anvilsong.core.shown import figure
from anvilsong.core.units import UnitSystem
from anvilsong.web.drawings.svg import Drawing, Drawn

WIDTH, HEIGHT, LEFT, EDGE = 560.0, 190.0, 58.0, 22.0
MOST_SHOWN = 40


def control_drawing(chart: Chart, words: str, system: UnitSystem) -> Drawn:
    """The newest runs from left to right; lengths in the reader's units."""
    values, out = chart.values[-MOST_SHOWN:], chart.out[-MOST_SHOWN:]
    bottom, top = min(*values, chart.low), max(*values, chart.high)
    room = (top - bottom) or 1.0

    def y(value: float) -> float:
        return EDGE + (HEIGHT - 2 * EDGE) * (1 - (value - bottom) / room)

    def x(place: int) -> float:
        return LEFT + 14 + (WIDTH - LEFT - 40) * place / max(len(values) - 1, 1)

    said = say.joined(
        f"{words}: mean ",
        say.mm(chart.mean),
        ", limits ",
        say.mm(chart.low),
        " to ",
        say.mm(chart.high),
    )
    drawing = Drawing(WIDTH, HEIGHT, words, said, "drawing control-chart")
    for value, css in ((chart.low, "limit-line"), (chart.mean, "mean-line"), (chart.high, "limit-line")):
        drawing.line((LEFT, y(value)), (WIDTH - 8, y(value)), css)
        drawing.text((LEFT - 6, y(value) + 5), figure(value, "length", system), "label small", "end")
    drawing.polyline([(x(n), y(value)) for n, value in enumerate(values)], "wave-line")
    for n, value in enumerate(values):
        drawing.circle((x(n), y(value)), 6 if out[n] else 4, "run-out" if out[n] else "run-in")
    return drawing.render()
