"""A coupon drawn from its numbers: a strip of metal with bead, ripples and cleaned border, to scale."""

from __future__ import annotations

from markupsafe import Markup

from anvilsong.core import say
from anvilsong.core.bead import Readings
from anvilsong.web.drawings.svg import Drawing, number

WIDTH, HEIGHT = 320.0, 96.0
SHOWN_MM = 16.0


def coupon_drawing(readings: Readings, words: str) -> Markup:
    """The middle of the run, 16 mm across or wider when the bead is, bead from left to right. Left border
    above, right border below, as the hand went.
    """
    shown = max(SHOWN_MM, 1.3 * (readings.bead_width_mm + readings.border_left_mm + readings.border_right_mm))
    scale = HEIGHT / shown
    middle, half = HEIGHT / 2, readings.bead_width_mm / 2 * scale
    left, right = readings.border_left_mm * scale, readings.border_right_mm * scale
    seen = (
        f"bead {say.mm(readings.bead_width_mm)}, border {say.mm(readings.border_left_mm)} left and "
        f"{say.mm(readings.border_right_mm)} right"
    )
    drawing = Drawing(WIDTH, HEIGHT, words, seen, "drawing coupon-strip")
    drawing.rect(0, 0, WIDTH, HEIGHT, "plate")
    drawing.rect(0, middle - half - left, WIDTH, left, "border")
    drawing.rect(0, middle + half, WIDTH, right, "border")
    drawing.rect(0, middle - half, WIDTH, 2 * half, "bead")
    pitch = (readings.ripple_pitch_mm or max(0.8, readings.bead_width_mm / 5)) * scale
    x = pitch
    while x < WIDTH:
        drawing.path(
            (
                f"M {number(x - 0.35 * half)} {number(middle - half)} Q {number(x + 0.45 * half)} "
                f"{number(middle)} {number(x - 0.35 * half)} {number(middle + half)}"
            ),
            "ripple",
        )
        x += pitch
    return drawing.render()
