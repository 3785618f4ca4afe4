"""A coupon drawn from its numbers: a strip of metal with bead, ripples, cleaned border and what was judged."""

from __future__ import annotations

from collections.abc import Sequence

from anvilsong.core.bead import Readings
from anvilsong.core.words import sentence
from anvilsong.web.drawings.svg import Drawing, Drawn, Point, number, scattered

WIDTH, HEIGHT = 320.0, 96.0
SHOWN_MM = 16.0
SPECKS, SHEENS, SOOT = (0, 6, 16, 40), (0, 3, 7, 12), (0, 6, 12, 22)


def coupon_drawing(readings: Readings, words: str, beside: Sequence[Readings] = ()) -> Drawn:
    """The middle of the run, 16 mm across or wider when the bead is, bead from left to right. Left border
    above, right border below, as the hand went. What is drawn ``beside`` it has the same scale.
    """
    shown = max(SHOWN_MM, *(1.3 * _across_mm(each) for each in (readings, *beside)))
    scale = HEIGHT / shown
    middle, half = HEIGHT / 2, readings.bead_width_mm / 2 * scale
    left, right = readings.border_left_mm * scale, readings.border_right_mm * scale
    seen = sentence(
        "web.bead_border_left_right",
        bead_width_mm=readings.bead_width_mm,
        border_left_mm=readings.border_left_mm,
        border_right_mm=readings.border_right_mm,
    )
    drawing = Drawing(WIDTH, HEIGHT, words, seen, "drawing coupon-strip")
    drawing.rect(0, 0, WIDTH, HEIGHT, "plate")
    drawing.rect(0, middle - half - left, WIDTH, left, "border")
    drawing.rect(0, middle + half, WIDTH, right, "border")
    for x, y in _spread(SOOT[readings.judged.get("soot", 0)], middle, half + max(left, right) + 6):
        drawing.circle((x, y), 6, "soot")
    drawing.rect(0, middle - half, WIDTH, 2 * half, "bead")
    _ripples(drawing, readings, middle, half, scale)
    for x, y in _spread(SHEENS[readings.judged.get("bright", 0)], middle, 0.5 * half):
        drawing.line((x - 5, y + 3), (x + 5, y - 3), "sheen")
    for at in _spread(SPECKS[readings.judged.get("specks", 0)], middle, half):
        drawing.circle(at, 1.6, "speck")
    if readings.crater in ("hollow", "cracked"):
        drawing.circle((WIDTH - 14, middle), 0.55 * half, "plate")
    if readings.crater == "cracked":
        drawing.polyline(
            [(WIDTH - 20, middle - 4), (WIDTH - 14, middle + 2), (WIDTH - 8, middle - 3)], "crack"
        )
    return drawing.render()


def _across_mm(readings: Readings) -> float:
    return readings.bead_width_mm + readings.border_left_mm + readings.border_right_mm


def _ripples(drawing: Drawing, readings: Readings, middle: float, half: float, scale: float) -> None:
    """Ripples as far apart as they were measured; the less even they were judged, the looser."""
    pitch = (readings.ripple_pitch_mm or max(0.8, readings.bead_width_mm / 5)) * scale
    loose = 0.12 * pitch * (3 - readings.judged.get("even", 3))
    # One path for all of them: a ladder shows dozens of strips.
    bow = f"{number(middle - half)}q{number(0.8 * half)} {number(half)} 0 {number(2 * half)}"
    begins = (
        n * pitch + loose * (2 * aside - 1) - 0.35 * half
        for n, (aside, _) in enumerate(scattered(int(WIDTH / pitch)), 1)
    )
    drawing.path("".join(f"M{number(at)} {bow}" for at in begins), "ripple")


def _spread(count: int, middle: float, reach: float) -> list[Point]:
    """So many places spread over the strip, the same ones each time."""
    return [(6 + (WIDTH - 12) * x, middle + reach * (2 * y - 1)) for x, y in scattered(count)]
