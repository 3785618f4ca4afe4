"""The crack-range drawing: filler at the left end, base metal at the right, the weld metal a point between
them.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from anvilsong.core.metal.chemistry import Composed, crack_sensitivity, mix, watch_over
from anvilsong.core.words import sentence
from anvilsong.web.drawings.svg import Drawing, Drawn, Point

WIDTH, HEIGHT = 440.0, 240.0
LEFT, RIGHT, TOP, BOTTOM = 34.0, 424.0, 16.0, 190.0
MOST_CURVES, LABELLED_AT = 4, 0.4


def curve(base: Composed, filler: Composed, steps: int = 100) -> list[Point]:
    """Sensitivity against dilution, 0 to 1."""
    return [
        (share, crack_sensitivity(mix(base, filler, share)))
        for share in np.linspace(0, 1, steps + 1).tolist()
    ]


def _at(share: float, sensitivity: float) -> Point:
    return LEFT + share * (RIGHT - LEFT), BOTTOM - sensitivity * (BOTTOM - TOP)


def crack_drawing(
    base: Composed, base_name: str, candidates: Sequence[tuple[str, Composed]], dilution: float
) -> Drawn:
    """Curves of the candidates, best first; the first one strong, with its weld metal at ``dilution``."""
    words = sentence("web.hot_crack_sensitivity_from", base_name=base_name, watch_over=watch_over())
    drawing = Drawing(WIDTH, HEIGHT, sentence("web.crack_range_weld_metal"), words, "drawing crack")
    low, high = _at(0, watch_over()), _at(1, 1)
    drawing.rect(low[0], high[1], high[0] - low[0], low[1] - high[1], "crack-zone")
    drawing.line(low, _at(1, watch_over()), "crack-watch")
    drawing.text((LEFT + 8, TOP + 20), "cracks readily", "label")
    taken: list[Point] = []
    curves = [(name, curve(base, filler)) for name, filler in candidates[:MOST_CURVES]]
    for place, (_, points) in reversed(list(enumerate(curves))):
        drawing.polyline(
            [_at(*point) for point in points], "crack-curve first" if place == 0 else "crack-curve"
        )
    for place, (name, points) in enumerate(curves):
        # The name stands on the flank, where the curves are far apart.
        x, y = _at(*next((point for point in points if point[1] > LABELLED_AT), points[-1]))
        while any(abs(x - other[0]) < 46 and abs(y - other[1]) < 20 for other in taken):
            y -= 20
        taken.append((x, y))
        drawing.text((x - 7, y), name, "label strong" if place == 0 else "label", "end")
    if candidates:
        spot = _at(dilution, crack_sensitivity(mix(base, candidates[0][1], dilution)))
        drawing.line((spot[0], BOTTOM), spot, "leader")
        drawing.circle(spot, 8, "weld-metal")
    drawing.line((LEFT, BOTTOM), (RIGHT, BOTTOM), "axis")
    drawing.text((LEFT, BOTTOM + 20), "filler", "label")
    drawing.text((RIGHT, BOTTOM + 20), base_name, "label", "end")
    if candidates:
        drawing.text(
            (_at(dilution, 0)[0], BOTTOM + 42), f"dilution {dilution * 100:.0f} %", "label strong", "middle"
        )
    return drawing.render()
