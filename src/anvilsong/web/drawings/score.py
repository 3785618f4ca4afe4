"""How near each rung of a ladder came: border and bead in tolerances, what is wanted as a band."""

from __future__ import annotations

from collections.abc import Sequence

from anvilsong.core.bead import Verdict
from anvilsong.core.words import sentence
from anvilsong.web.drawings.svg import Drawing, Drawn

WIDTH, HEIGHT, LEFT, RIGHT, EDGE, MOST = 560.0, 190.0, 108.0, 70.0, 26.0, 3.0
WORD_HIGH = 18.0


def score_drawing(rungs: Sequence[tuple[int, Verdict]]) -> Drawn:
    """The rungs from left to right by number; what lies further off than three tolerances stands at the rim."""

    def x(place: int) -> float:
        return LEFT + 14 + (WIDTH - LEFT - RIGHT - 28) * place / max(len(rungs) - 1, 1)

    def y(miss: float) -> float:
        return HEIGHT / 2 - (HEIGHT / 2 - EDGE) * max(-1.0, min(1.0, miss / MOST))

    near = sum(abs(v.border_miss) <= 1 and abs(v.width_miss) <= 1 for _, v in rungs)
    said = sentence("web.coupons_them_with_border", rungs=len(rungs), near=near)
    drawing = Drawing(WIDTH, HEIGHT, sentence("web.how_near_each_coupon"), said, "drawing score-chart")
    drawing.polygon(
        [(LEFT, y(1)), (WIDTH - RIGHT, y(1)), (WIDTH - RIGHT, y(-1)), (LEFT, y(-1))], "trend-band"
    )
    drawing.text((LEFT - 8, y(1) - 4), "too wide", "label small", "end")
    drawing.text((LEFT - 8, y(0) + 5), "wanted", "label small", "end")
    drawing.text((LEFT - 8, y(-1) + 14), "too narrow", "label small", "end")
    last = rungs[-1][1]
    lines = [
        (
            "border",
            "frost",
            [verdict.border_miss for _, verdict in rungs],
            last.border_miss >= last.width_miss,
        ),
        ("bead", "ember", [verdict.width_miss for _, verdict in rungs], last.width_miss > last.border_miss),
    ]
    crowded = abs(y(last.border_miss) - y(last.width_miss)) < WORD_HIGH
    for words, css, misses, is_upper in lines:
        path = [(x(place), y(miss)) for place, miss in enumerate(misses)]
        drawing.polyline(path, f"score-line {css}")
        for at in path:
            drawing.circle(at, 5, f"score-dot {css}")
        off = (-WORD_HIGH / 2 if is_upper else WORD_HIGH / 2) if crowded else 0.0
        drawing.text((path[-1][0] + 10, path[-1][1] + 5 + off), words, "label small")
    for place, (number, _) in enumerate(rungs):
        drawing.text((x(place), HEIGHT - 4), str(number), "label small", "middle")
    return drawing.render()
