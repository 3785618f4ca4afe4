"""The bead that taps would lay, under the one that is wanted."""

from __future__ import annotations

from collections.abc import Sequence

from anvilsong.core.practice import RhythmResult, beats_of, laid
from anvilsong.core.words import sentence
from anvilsong.web.drawings.svg import Drawing, Drawn, number

WIDTH, HEIGHT, LEFT, RIGHT = 640.0, 150.0, 70.0, 620.0
ROWS = (("wanted", 42.0), ("yours", 108.0))
HALF = 22.0  # of the bead, drawn


def rhythm_drawing(result: RhythmResult) -> Drawn:
    """Both beads, a ripple a dab."""
    wanted = [beat.way_mm for beat in beats_of(result.bead, result.rate_hz, result.pitch_mm)]
    told = sentence("web.rhythm_told", beats=len(wanted), taps=len(result.taps_s))
    drawing = Drawing(WIDTH, HEIGHT, sentence("web.rhythm_title"), told, "rhythm-beads")
    end = max(max(wanted), 1e-6)
    for (words, middle), ways in zip(ROWS, (wanted, laid(result)), strict=True):
        drawing.text((LEFT - 26, middle + 5), words, "label", "end")
        _bead(drawing, ways, middle, end)
    return drawing.render()


def _bead(drawing: Drawing, ways: Sequence[float], middle: float, end: float) -> None:
    def x(way: float) -> float:
        return LEFT + way / end * (RIGHT - LEFT)

    drawing.rect(LEFT - 14, middle - HALF, RIGHT - LEFT + 20, 2 * HALF, "rhythm-bead", HALF)
    for way in ways:
        at = number(x(way))
        curve = f"M{at},{number(middle - HALF)} A{number(0.55 * HALF)},{number(HALF)} 0 0 0 {at},{number(middle + HALF)}"
        drawing.path(curve, "rhythm-ripple")
