"""Each sign of a fault as a small drawing: the bead from above or in section, the tip, the pool, the machine."""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import cache

from anvilsong.web.drawings.svg import Drawing, Drawn, Point, number, scattered

WIDTH, HEIGHT = 66.0, 34.0
MIDDLE, HALF = HEIGHT / 2, WIDTH / 2
FLOOR = HEIGHT - 9


@cache
def sign_drawing(key: str, words: str) -> Drawn:
    """The sign of that name; a plain strip for one that nobody has drawn yet."""
    drawing = Drawing(WIDTH, HEIGHT, words, "", "drawing scale-drawing")
    _DRAWN.get(key, _strip)(drawing)
    return drawing.render()


def _strip(drawing: Drawing, border: float = 3.0, half: float = 6.0) -> None:
    """A bead from above with its cleaned border."""
    drawing.rect(0, 0, WIDTH, HEIGHT, "plate")
    drawing.rect(0, MIDDLE - half - border, WIDTH, 2 * (half + border), "border")
    drawing.rect(0, MIDDLE - half, WIDTH, 2 * half, "bead")


def _dots(drawing: Drawing, count: int, css: str, radius: float, tall: float = 5.0) -> None:
    for x, y in scattered(count):
        drawing.circle((4 + (WIDTH - 8) * x, MIDDLE - tall + 2 * tall * y), radius, css)


def _ripples(drawing: Drawing, apart: float, loose: float = 0.0) -> None:
    x, n = apart, 0
    while x < WIDTH:
        lean = 4 + loose * math.cos(n * 1.7)
        d = f"M {number(x - lean)} {number(MIDDLE - 6)} Q {number(x + 4)} {number(MIDDLE)} "
        drawing.path(d + f"{number(x - lean)} {number(MIDDLE + 6)}", "ripple")
        x, n = x + apart + loose * math.sin(n * 2.4), n + 1


def _tip(drawing: Drawing, ball: float = 0.0, css: str = "tungsten") -> None:
    """The tungsten from the side, its tip to the right."""
    drawing.rect(0, MIDDLE - 6, 36, 12, css)
    if ball:
        drawing.circle((40, MIDDLE), ball, css)
    else:
        drawing.polygon([(36, MIDDLE - 6), (58, MIDDLE), (36, MIDDLE + 6)], css)


def _section(drawing: Drawing, bead: list[Point], sag: float = 0.0) -> None:
    """A bead in section on its plate."""
    drawing.rect(0, FLOOR, WIDTH, 8, "plate")
    drawing.polygon(bead, "bead")
    if sag:
        drawing.polygon([(HALF - 9, FLOOR + 7), (HALF, FLOOR + 7 + sag), (HALF + 9, FLOOR + 7)], "bead")


def _fillet(drawing: Drawing) -> None:
    drawing.rect(0, FLOOR, WIDTH, 8, "plate")
    drawing.rect(20, 0, 8, FLOOR, "plate")


def _border_wide(drawing: Drawing) -> None:
    _strip(drawing, 10, 5)


def _border_thin(drawing: Drawing) -> None:
    _strip(drawing, 0.6, 7)


def _milky_pool(drawing: Drawing) -> None:
    drawing.rect(0, 0, WIDTH, HEIGHT, "plate")
    drawing.circle((HALF, MIDDLE), 13, "pool")
    for n in range(8):
        drawing.circle((HALF + 8 * math.cos(n * 2.4), MIDDLE + 8 * math.sin(n * 2.4)), 3, "cloud")


def _tip_balls(drawing: Drawing) -> None:
    _tip(drawing, 10, "tungsten balls")


def _hard_start(drawing: Drawing) -> None:
    _tip(drawing)
    drawing.polyline([(58, MIDDLE), (61, 8), (57, 13), (65, 3)], "wave-line")


def _tip_blue(drawing: Drawing) -> None:
    _tip(drawing)
    drawing.polygon(
        [(28, MIDDLE - 6), (36, MIDDLE - 6), (58, MIDDLE), (36, MIDDLE + 6), (28, MIDDLE + 6)], "soot"
    )


def _black_specks(drawing: Drawing) -> None:
    _strip(drawing)
    _dots(drawing, 9, "speck", 1.7)


def _soot(drawing: Drawing) -> None:
    _strip(drawing)
    _dots(drawing, 9, "soot", 4.5, 12)


def _pores(drawing: Drawing) -> None:
    _section(drawing, _dome(20, 17))
    for x, y in ((26, 17), (33, 12), (40, 18), (34, 20)):
        drawing.circle((x, y), 2, "plate")


def _dome(half: float, tall: float) -> list[Point]:
    steps = [n / 10 * math.pi for n in range(11)]
    return [(HALF - half * math.cos(a), FLOOR - tall * math.sin(a)) for a in steps]


def _crater(drawing: Drawing) -> None:
    _strip(drawing)
    drawing.circle((52, MIDDLE), 6, "plate")
    drawing.polyline([(47, MIDDLE - 3), (52, MIDDLE + 1), (57, MIDDLE - 2)], "wave-line")


def _crack_along(drawing: Drawing) -> None:
    _strip(drawing)
    drawing.polyline([(n * 6.0, MIDDLE + (1.5 if n % 2 else -1.5)) for n in range(12)], "wave-line")


def _bead_high(drawing: Drawing) -> None:
    _section(drawing, _dome(10, 21))


def _bead_wide(drawing: Drawing) -> None:
    _section(drawing, _dome(29, 5), 5)


def _melts_through(drawing: Drawing) -> None:
    drawing.rect(0, FLOOR - 6, HALF - 8, 8, "plate")
    drawing.rect(HALF + 8, FLOOR - 6, HALF - 8, 8, "plate")
    drawing.circle((HALF, FLOOR + 3), 5, "pool")


def _no_root(drawing: Drawing) -> None:
    _fillet(drawing)
    drawing.polygon([(28, FLOOR - 16), (31, FLOOR - 5), (34, FLOOR - 3), (46, FLOOR)], "bead")
    drawing.circle((30, FLOOR - 2), 1.6, "speck")


def _undercut(drawing: Drawing) -> None:
    _fillet(drawing)
    drawing.polygon([(28, FLOOR - 12), (28, FLOOR), (46, FLOOR)], "bead")
    drawing.polygon([(28, FLOOR - 19), (24.5, FLOOR - 15), (28, FLOOR - 12)], "speck")


def _rod_balls(drawing: Drawing) -> None:
    drawing.rect(0, FLOOR, WIDTH, 8, "plate")
    drawing.line((62, 2), (44, 11), "wave-line")
    drawing.circle((41, 13), 5, "bead")


def _lumps(drawing: Drawing) -> None:
    drawing.rect(0, FLOOR, WIDTH, 8, "plate")
    for x in (12, 30, 52):
        drawing.circle((x, FLOOR - 3), 6, "bead")


def _ripples_uneven(drawing: Drawing) -> None:
    _strip(drawing)
    _ripples(drawing, 7, 4)


def _pool_slow(drawing: Drawing) -> None:
    drawing.rect(0, 0, WIDTH, HEIGHT, "plate")
    drawing.circle((HALF, MIDDLE), 4, "pool")
    drawing.circle((HALF, MIDDLE), 12, "ring")


def _pool_runs_away(drawing: Drawing) -> None:
    drawing.rect(0, 0, WIDTH, HEIGHT, "plate")
    drawing.polygon([(0, MIDDLE - 3), (66, MIDDLE - 14), (66, MIDDLE + 14), (0, MIDDLE + 3)], "bead")


def _end_grey(drawing: Drawing) -> None:
    _strip(drawing)
    drawing.rect(44, MIDDLE - 6, 22, 12, "soot")


def _machine(drawing: Drawing) -> None:
    drawing.rect(16, 5, 34, 24, "plate", 2)
    drawing.rect(20, 9, 16, 7, "bead")
    drawing.circle((43, 13), 3, "bead")


def _machine_stops(drawing: Drawing) -> None:
    _machine(drawing)
    drawing.line((12, 31), (54, 3), "wave-line")


def _torch_hot(drawing: Drawing) -> None:
    drawing.rect(4, MIDDLE, 40, 9, "plate", 4)
    drawing.polygon([(44, MIDDLE - 2), (60, MIDDLE + 2), (60, MIDDLE + 9), (44, MIDDLE + 11)], "cup")
    for x in (14, 24, 34):
        drawing.polyline([(x, MIDDLE - 2), (x + 3, MIDDLE - 6), (x, MIDDLE - 10), (x + 3, 3)], "wave-line")


def _harsh_noise(drawing: Drawing) -> None:
    _machine(drawing)
    for n in range(3):
        drawing.line((53 + 4 * n, MIDDLE - 5 - 3 * n), (53 + 4 * n, MIDDLE + 5 + 3 * n), "wave-line")


def _no_cleaning(drawing: Drawing) -> None:
    _strip(drawing, 0, 6)
    _dots(drawing, 24, "soot", 1.6, 5)


_DRAWN: dict[str, Callable[[Drawing], None]] = {
    "border_wide": _border_wide,
    "border_thin": _border_thin,
    "milky_pool": _milky_pool,
    "tip_balls": _tip_balls,
    "hard_start": _hard_start,
    "tip_blue": _tip_blue,
    "black_specks": _black_specks,
    "soot": _soot,
    "pores": _pores,
    "crater": _crater,
    "crack_along": _crack_along,
    "bead_high": _bead_high,
    "bead_wide": _bead_wide,
    "melts_through": _melts_through,
    "no_root": _no_root,
    "undercut": _undercut,
    "rod_balls": _rod_balls,
    "lumps": _lumps,
    "ripples_uneven": _ripples_uneven,
    "pool_slow": _pool_slow,
    "pool_runs_away": _pool_runs_away,
    "end_grey": _end_grey,
    "machine_stops": _machine_stops,
    "torch_hot": _torch_hot,
    "harsh_noise": _harsh_noise,
    "no_cleaning": _no_cleaning,
}
