"""A coupon drawn from its numbers: a strip of metal with bead, ripples, cleaned border and what was judged."""

from __future__ import annotations

from collections.abc import Sequence

from anvilsong.core.bead import Looks
from anvilsong.core.said import Words
from anvilsong.core.words import sentence
from anvilsong.web.drawings.svg import Drawing, Drawn, Point, number, scattered

WIDTH, HEIGHT = 320.0, 96.0
SHOWN_MM = 16.0
MEASURES = ("bead_width_mm", "border_left_mm", "border_right_mm")
SPECKS, SHEENS, SOOT = (0, 6, 16, 40), (0, 3, 7, 12), (0, 6, 12, 22)


def coupon_drawing(
    looks: Looks, words: Words, beside: Sequence[Looks] = (), expected: Looks | None = None
) -> Drawn:
    """The middle of the run, 16 mm across or wider when the bead is, bead from left to right. Left border
    above, right border below, as the hand went. What is drawn ``beside`` it has the same scale. What was not
    measured is drawn in dashes, as ``expected``.
    """
    bead, left_mm, right_mm = _filled(looks, expected)
    shown = max(SHOWN_MM, *(1.3 * sum(_filled(each, expected)) for each in (looks, *beside)))
    scale = HEIGHT / shown
    middle, half = HEIGHT / 2, bead / 2 * scale
    left, right = left_mm * scale, right_mm * scale
    drawing = Drawing(WIDTH, HEIGHT, words, _seen(looks), "drawing coupon-strip")
    guessed = {name: " unmeasured" for name in MEASURES if getattr(looks, name) is None}
    drawing.rect(0, 0, WIDTH, HEIGHT, "plate")
    drawing.rect(0, middle - half - left, WIDTH, left, "border" + guessed.get("border_left_mm", ""))
    drawing.rect(0, middle + half, WIDTH, right, "border" + guessed.get("border_right_mm", ""))
    for x, y in _spread(SOOT[looks.judged.get("soot", 0)], middle, half + max(left, right) + 6):
        drawing.circle((x, y), 6, "soot")
    drawing.rect(0, middle - half, WIDTH, 2 * half, "bead" + guessed.get("bead_width_mm", ""))
    _ripples(drawing, looks, middle, half, scale)
    for x, y in _spread(SHEENS[looks.judged.get("bright", 0)], middle, 0.5 * half):
        drawing.line((x - 5, y + 3), (x + 5, y - 3), "sheen")
    for at in _spread(SPECKS[looks.judged.get("specks", 0)], middle, half):
        drawing.circle(at, 1.6, "speck")
    if looks.crater in ("hollow", "cracked"):
        drawing.circle((WIDTH - 14, middle), 0.55 * half, "plate")
    if looks.crater == "cracked":
        drawing.polyline(
            [(WIDTH - 20, middle - 4), (WIDTH - 14, middle + 2), (WIDTH - 8, middle - 3)], "crack"
        )
    return drawing.render()


def _filled(looks: Looks, expected: Looks | None) -> tuple[float, float, float]:
    """Bead and borders, mm; as expected where they were not measured, one border as the other."""
    otherwise = [getattr(expected, name, None) or 0.0 for name in MEASURES]
    bead, left, right = (getattr(looks, name) for name in MEASURES)
    border = next((side for side in (left, right) if side is not None), otherwise[1])
    return (
        otherwise[0] if bead is None else bead,
        border if left is None else left,
        border if right is None else right,
    )


def _seen(looks: Looks) -> Words:
    """The figures of the drawing in words, as far as they were measured."""
    bead, left, right = (getattr(looks, name) for name in MEASURES)
    if bead is not None and left is not None and right is not None:
        return sentence(
            "web.bead_border_left_right", bead_width_mm=bead, border_left_mm=left, border_right_mm=right
        )
    return sentence("web.drawn_as_expected")


def _ripples(drawing: Drawing, looks: Looks, middle: float, half: float, scale: float) -> None:
    """Ripples as far apart as they were measured; the less even they were judged, the looser."""
    pitch = (looks.ripple_pitch_mm or max(0.8, 2 * half / scale / 5)) * scale
    loose = 0.12 * pitch * (3 - looks.judged.get("even", 3))
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
