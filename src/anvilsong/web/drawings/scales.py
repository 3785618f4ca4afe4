"""What each place of a tap scale looks like, as a small drawing."""

from __future__ import annotations

import math
from collections.abc import Callable

from anvilsong.web.drawings.svg import Drawing, Drawn, Point, number, scattered

WIDTH, HEIGHT = 66.0, 34.0
MIDDLE = HEIGHT / 2
GOLDEN = 0.6180339887
SPECKS = (0, 3, 8, 18)
SHEENS = (0, 1, 3, 5)


def scale_drawing(key: str, place: int, words: str) -> Drawn:
    """The place of a scale, 0 to 3, drawn; ``words`` is what it is called."""
    drawing = Drawing(WIDTH, HEIGHT, words, "", "drawing scale-drawing")
    _DRAWN[key](drawing, place)
    return drawing.render()


def _scattered(count: int) -> list[Point]:
    """Points spread over the strip, the same ones each time."""
    return [(4 + (WIDTH - 8) * x, 9 + (HEIGHT - 18) * y) for x, y in scattered(count)]


def _strip(drawing: Drawing) -> None:
    drawing.rect(0, 0, WIDTH, HEIGHT, "plate")
    drawing.rect(0, 6, WIDTH, HEIGHT - 12, "bead")


def _bright(drawing: Drawing, place: int) -> None:
    _strip(drawing)
    for n in range(SHEENS[place]):
        x = 6 + n * 11
        drawing.line((x, HEIGHT - 9), (x + 9, 9), "sheen")


def _specks(drawing: Drawing, place: int) -> None:
    _strip(drawing)
    for at in _scattered(SPECKS[place]):
        drawing.circle(at, 1.7, "speck")


def _soot(drawing: Drawing, place: int) -> None:
    _strip(drawing)
    for n in range(3 * place):
        x, y = 6 + (n * GOLDEN * 54) % 54, 5.0 if n % 2 else HEIGHT - 5
        drawing.circle((x, y), 3.0 + place, "soot")


def _toes(drawing: Drawing, place: int) -> None:
    """A bead in section: from one that overhangs its toes to one that runs out flat."""
    foot, top = (12.0, 9.0, 6.0, 2.0)[place], (5.0, 9.0, 13.0, 17.0)[place]
    bulge = (-6.0, 1.0, 7.0, 14.0)[place]
    floor = HEIGHT - 8
    drawing.rect(0, floor, WIDTH, 8, "plate")
    half = WIDTH / 2
    right = WIDTH - 8 - foot
    drawing.path(
        f"M {number(8 + foot)} {number(floor)} C {number(8 + foot + bulge)} {number(top + 4)} "
        f"{number(half - 8)} {number(top)} {number(half)} {number(top)} S {number(right - bulge)} "
        f"{number(top + 4)} {number(right)} {number(floor)} Z",
        "bead",
    )


def _even(drawing: Drawing, place: int) -> None:
    _strip(drawing)
    loose = (3 - place) * 2.6
    for n in range(1, 9):
        x = n * 7.4 + loose * math.sin(n * 2.4)
        lean = 5 + loose * math.cos(n * 1.7)
        drawing.path(
            f"M {number(x - lean)} 6 Q {number(x + 4)} {number(MIDDLE)} {number(x - lean)} {number(HEIGHT - 6)}",
            "ripple",
        )


def _milky(drawing: Drawing, place: int) -> None:
    drawing.rect(0, 0, WIDTH, HEIGHT, "plate")
    drawing.circle((WIDTH / 2, MIDDLE), 13, "pool")
    for x, y in _scattered(5 * place):
        drawing.circle((WIDTH / 2 + (x - WIDTH / 2) * 0.34, y), 2.8, "cloud")


def _wander(drawing: Drawing, place: int) -> None:
    high = (0.0, 3.0, 8.0, 14.0)[place]
    line = [(4 + n * 2.9, MIDDLE + high * math.sin(n * 1.9) * (n % 3 - 1 or 1)) for n in range(21)]
    drawing.polyline(line, "wave-line")


def _noise(drawing: Drawing, place: int) -> None:
    for n in range(9):
        tall = (3.0, 7.0, 12.0, 16.0)[place] * (0.55 + 0.45 * math.cos(n * 2.1))
        drawing.line((7 + n * 6.5, MIDDLE - tall), (7 + n * 6.5, MIDDLE + tall), "wave-line")


def _ease(drawing: Drawing, place: int) -> None:
    _wander(drawing, 3 - place)


_DRAWN: dict[str, Callable[[Drawing, int], None]] = {
    "bright": _bright,
    "specks": _specks,
    "soot": _soot,
    "toes": _toes,
    "even": _even,
    "milky": _milky,
    "wander": _wander,
    "noise": _noise,
    "ease": _ease,
}
