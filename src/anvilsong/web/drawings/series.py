"""A test series: what each run gave with its error, beside what was expected of it."""

from __future__ import annotations

from collections.abc import Sequence

from anvilsong.core.said import Words
from anvilsong.core.shown import figure, unit_words
from anvilsong.core.trials import Told
from anvilsong.core.units import UnitSystem
from anvilsong.core.words import sentence
from anvilsong.web.drawings.svg import Drawing, Drawn
from anvilsong.web.drawings.ticks import round_ticks

WIDTH, HEIGHT, LEFT, BOTTOM, EDGE = 560.0, 260.0, 58.0, 44.0, 22.0
ERRORS = 1.96


def series_drawing(
    words: str,
    told: Told,
    expected_mm: Sequence[float],
    names: Sequence[Words],
    aim_mm: tuple[float, float] | None,
    system: UnitSystem,
) -> Drawn:
    """Runs from left to right: the line is the model's, dots are means of what was measured with 1.96 errors
    to either side, the band is what is wanted.
    """
    tops = [
        (mean or 0.0) + ERRORS * (error or 0.0) for mean, error in zip(told.means, told.errors, strict=True)
    ]
    top = 1.1 * max([0.5, *expected_mm, *tops, *(aim_mm or ())])
    count = len(expected_mm)

    def x(place: int) -> float:
        return LEFT + (WIDTH - LEFT - 12) * (place + 0.5) / count

    def y(value: float) -> float:
        return float(EDGE + (HEIGHT - EDGE - BOTTOM) * (1 - max(value, 0.0) / top))

    measured = sum(mean is not None for mean in told.means)
    drawing = Drawing(
        WIDTH, HEIGHT, words, sentence("web.series_drawn", runs=count, measured=measured), "drawing trend"
    )
    if aim_mm is not None:
        low, high = aim_mm
        drawing.polygon(
            [(LEFT, y(low)), (WIDTH - 12, y(low)), (WIDTH - 12, y(high)), (LEFT, y(high))], "trend-band"
        )
    for value in round_ticks(0.0, top, 5, "length", system):
        drawing.text((LEFT - 4, y(value) + 5), figure(value, "length", system), "label small", "end")
        drawing.line((LEFT, y(value)), (WIDTH - 12, y(value)), "trend-rule")
    drawing.text((LEFT - 4, EDGE - 8), unit_words("length", system), "label small", "end")
    drawing.polyline([(x(place), y(value)) for place, value in enumerate(expected_mm)], "trend-line")
    for place, (mean, error) in enumerate(zip(told.means, told.errors, strict=True)):
        if mean is not None and error is not None:
            drawing.line(
                (x(place), y(mean - ERRORS * error)), (x(place), y(mean + ERRORS * error)), "error-bar"
            )
            drawing.circle((x(place), y(mean)), 6, "run-in")
    for place in range(count):
        drawing.text((x(place), HEIGHT - BOTTOM + 18), str(place + 1), "label small", "middle")
        if count <= 6:
            drawing.text((x(place), HEIGHT - BOTTOM + 36), names[place], "label small", "middle")
    return drawing.render()
