"""A knob's curve: known points, the monotone line through them, and the band of how sure it is."""

from __future__ import annotations

import numpy as np

from anvilsong.core.machine import Knob
from anvilsong.core.words import sentence
from anvilsong.web.drawings.svg import Drawing, Drawn
from anvilsong.web.scale_text import Counting

WIDTH, HEIGHT = 440.0, 280.0
LEFT, RIGHT, TOP, BOTTOM = 46.0, 424.0, 16.0, 240.0


def knob_drawing(knob: Knob, shown_as: str, count: Counting, words: str) -> Drawn:
    """Value against position, in the units that are typed."""
    low, high = knob.points[0].position, knob.points[-1].position
    places = np.linspace(low, high, 80).tolist()
    values = [count.figure(knob.value_at(place)) for place in places]
    spread = [2 * knob.sd_at(place) / count.factor for place in places]
    bottom, top = (
        min(v - s for v, s in zip(values, spread, strict=True)),
        max(v + s for v, s in zip(values, spread, strict=True)),
    )
    drawing = Drawing(
        WIDTH,
        HEIGHT,
        f"{words} along the knob",
        sentence("web.known_points_band_two", points=len(knob.points)),
        "drawing knob-curve",
    )

    def at(place: float, value: float) -> tuple[float, float]:
        return LEFT + (place - low) / (high - low) * (RIGHT - LEFT), BOTTOM - (value - bottom) / (
            top - bottom or 1
        ) * (BOTTOM - TOP)

    above = [at(p, v + s) for p, v, s in zip(places, values, spread, strict=True)]
    below = [at(p, v - s) for p, v, s in zip(places, values, spread, strict=True)]
    drawing.polygon([*above, *reversed(below)], "knob-band")
    drawing.polyline([at(p, v) for p, v in zip(places, values, strict=True)], "crack-curve first")
    drawing.line((LEFT, BOTTOM), (RIGHT, BOTTOM), "axis")
    drawing.line((LEFT, BOTTOM), (LEFT, TOP), "axis")
    for point in knob.points:
        x, y = at(point.position, count.figure(point.value))
        drawing.circle((x, y), 6, "weld-metal")
        place = (
            f"{int(point.position - 1) % 12 + 1}:{round(point.position % 1 * 60):02d}"
            if shown_as == "clock"
            else f"{point.position:g}"
        )
        drawing.text((x, BOTTOM + 20), place, "label", "middle")
        has_room = y > TOP + 24  # a figure at the top stands under its point
        drawing.text(
            (x, y - 12 if has_room else y + 24), f"{count.figure(point.value):.4g}", "label", "middle"
        )
    return drawing.render()
