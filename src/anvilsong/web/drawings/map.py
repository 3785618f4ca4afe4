"""The map of two settings: where nothing is broken, where it can be done with an eye on something, and where
not; each edge by the limit that makes it, lines of equal pool or border, and the point that can be dragged.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Any, Literal, NamedTuple

import numpy as np

from anvilsong.core import say
from anvilsong.core.board import AXES, LIMIT_WORDS, AxisKey, SettingsMap
from anvilsong.core.checks import STOPS
from anvilsong.core.said import Words
from anvilsong.core.shown import figure, unit_words
from anvilsong.core.units import UnitSystem
from anvilsong.core.words import sentence
from anvilsong.web.drawings.svg import Drawing, Drawn, Point, number
from anvilsong.web.drawings.ticks import nice, round_ticks

WIDTH, HEIGHT = 720.0, 532.0
LEFT, RIGHT, TOP, BOTTOM = 74.0, 704.0, 40.0, 446.0
# Used of a limit: the most that counts, and how far from its edge one stands that is used to the last all over.
MOST_DRAWN, ASIDE = 50.0, 0.003
FINER, KEPT = 4, "over_machine"  # a stop that is always asked
LINES, LEAST_EDGE = 6, 4  # of equal pool or border; places of an edge that is worth its name
Lines = Literal["pool", "border"]
Spread = tuple[float, float]
# How high words are, and half the width of a letter: as a phone shows them, which is half as large again.
HIGH, HALF_LETTER = 31.0, 7.0


@dataclass(frozen=True)
class MapLook:
    """What is drawn over the region: lines, the point's spread along x and y, and marks of the schools."""

    lines: Lines = "pool"
    spread: Spread = (0.0, 0.0)
    marks_x: tuple[tuple[str, float], ...] = ()
    marks_y: tuple[tuple[str, float], ...] = ()


def map_drawing(found: SettingsMap, look: MapLook, system: UnitSystem) -> Drawn:
    """The map; a script reads its ``data-`` attributes to get from the picture to values and back."""
    sheet = _Sheet(found)
    x, y = AXES[found.x_key], AXES[found.y_key]
    drawing = Drawing(WIDTH, HEIGHT, f"{x.words} and {y.words}", _words(found), "map-drawing")
    drawing.role = "group"  # what can be taken hold of must not lie inside a picture
    drawing.data = {
        "x-low": f"{found.x[0]:.6g}", "x-high": f"{found.x[-1]:.6g}",
        "y-low": f"{found.y[0]:.6g}", "y-high": f"{found.y[-1]:.6g}",
        "left": number(LEFT), "right": number(RIGHT), "top": number(TOP), "bottom": number(BOTTOM),
    }  # fmt: skip
    drawing.rect(LEFT, TOP, RIGHT - LEFT, BOTTOM - TOP, "map-outside")
    fine = _finer(found)
    drawing.path(_area(fine, sheet, fine.worst_stop), "map-watched")
    drawing.path(_area(fine, sheet, fine.worst), "map-allowed")
    taken = [_Word(*sheet.at(*found.point), half=8.0)]
    # Where a stop is the first to break, its edge is both regions'.
    edges = _edges(fine, fine.worst, False) | _edges(fine, fine.worst_stop, True)
    # Their names before any other word.
    names = {key: _name_at(sheet, pieces, taken, LIMIT_WORDS[key]) for key, pieces in edges.items()}
    _equal_lines(drawing, found, sheet, look.lines, taken)
    _aim_lines(drawing, found, sheet)
    for key, pieces in edges.items():
        kind = "map-stop" if key in STOPS else "map-watch"
        drawing.add(f'<path class="map-edge {kind} map-{key}" d="{_path(sheet, pieces)}"/>')
    for key, place in names.items():
        if place is not None:
            drawing.text((place.x, place.y), LIMIT_WORDS[key], "label halo map-name", "middle")
    _axes(drawing, found, sheet, system)
    _marks(drawing, sheet, look)
    _point(drawing, found, sheet, look.spread)
    return drawing.render()


class _Word(NamedTuple):
    """Where a word stands: its middle, its base line, and half its width."""

    x: float
    y: float
    half: float

    def apart(self, other: _Word) -> float:
        """How far two words stand apart; from 1 on neither touches the other."""
        return max(abs(self.y - other.y) / HIGH, abs(self.x - other.x) / (self.half + other.half))


def _word(x: float, y: float, letters: int) -> _Word:
    """A word of so many letters about a place, moved so that it stays on the sheet."""
    half = letters * HALF_LETTER
    return _Word(min(max(x, LEFT + half), RIGHT - half), min(max(y, TOP + HIGH / 2), BOTTOM - 6), half)


class _Sheet:
    def __init__(self, found: SettingsMap) -> None:
        self.x, self.y = found.x, found.y

    def at(self, x: float, y: float) -> Point:
        across = (x - self.x[0]) / (self.x[-1] - self.x[0])
        up = (y - self.y[0]) / (self.y[-1] - self.y[0])
        return LEFT + across * (RIGHT - LEFT), BOTTOM - up * (BOTTOM - TOP)


def _generator(found: SettingsMap, values: Any) -> Any:
    from contourpy import contour_generator  # read when the first map is drawn

    return contour_generator(found.x, found.y, np.ma.masked_invalid(np.asarray(values, dtype=float)))


def _path(sheet: _Sheet, lines: Iterable[Any], closed: bool = False) -> str:
    pieces = []
    for line in lines:
        if len(line) < 2:
            continue
        pieces.append("M" + "L".join(f"{number(x)} {number(y)}" for x, y in (sheet.at(*p) for p in line)))
    return "".join(piece + ("Z" if closed else "") for piece in pieces)


def _finer(found: SettingsMap) -> SettingsMap:
    """The limits that break somewhere, each by straight lines on a finer grid: the most of several has corners
    where they meet, and a line through the grid's own places would cut them off.
    """
    x, y = (np.linspace(axis[0], axis[-1], FINER * (axis.size - 1) + 1) for axis in (found.x, found.y))

    def spread(layer: Any) -> Any:
        along = np.stack([np.interp(x, found.x, row) for row in layer])
        return np.stack([np.interp(y, found.y, column) for column in along.T]).T

    used = {
        key: spread(np.where(layer > 1, layer, layer - ASIDE))
        for key, layer in found.used.items()
        if layer.max() > 1 or key == KEPT
    }
    return replace(found, x=x, y=y, used=used)


def _area(found: SettingsMap, sheet: _Sheet, worst: Any) -> str:
    """The region where nothing of this is over 1 as one path, holes and all."""
    polygons, offsets = _generator(found, np.minimum(worst, MOST_DRAWN)).filled(-1.0, 1.0)
    rings: list[Any] = []
    for polygon, offset in zip(polygons, offsets, strict=True):
        rings += [polygon[a:b] for a, b in itertools.pairwise(offset)]
    return _path(sheet, rings, closed=True) or "M0 0"


def _equal_lines(
    drawing: Drawing, found: SettingsMap, sheet: _Sheet, lines: Lines, taken: list[_Word]
) -> None:
    values = found.pool_mm if lines == "pool" else found.border_mm
    within = values[found.is_allowed] if found.is_allowed.any() else values
    low, high = float(np.min(within)), float(np.max(within))
    low, high = low - 0.4 * (high - low), high + 0.6 * (high - low)
    if not high > low + 1e-6:
        return
    step = nice((high - low) / LINES)
    made = _generator(found, values)
    for level in np.arange(np.ceil(low / step) * step, high, step):
        every = [line for line in made.lines(float(level)) if len(line) > LEAST_EDGE]
        if not every:
            continue
        drawing.add(f'<path class="map-line" d="{_path(sheet, every)}"/>')
        longest = max(every, key=len)
        figure_words = say.mm(float(level))
        letters = len(say.in_units(figure_words))
        for share in (0.5, 0.56, 0.44, 0.62, 0.38, 0.68, 0.32, 0.74, 0.26, 0.8, 0.2, 0.86, 0.14, 0.92, 0.08):
            x, y = sheet.at(*longest[int(len(longest) * share)])
            place = _word(x, y + 5, letters)
            if place.x == x and all(place.apart(other) > 1 for other in taken):
                taken.append(place)
                drawing.text((place.x, place.y), figure_words, "label halo map-level", "middle")
                break


def _aim_lines(drawing: Drawing, found: SettingsMap, sheet: _Sheet) -> None:
    """The border that is wanted, from and to, as thin lines of their own: no limit, an aim."""
    made = _generator(found, found.border_mm)
    for aim in found.aim_mm:
        lines = [line for line in made.lines(float(aim)) if len(line) > LEAST_EDGE]
        if lines:
            drawing.add(f'<path class="map-aim" d="{_path(sheet, lines)}"/>')


def _edges(found: SettingsMap, worst: Any, stops: bool) -> dict[str, list[Any]]:
    """The rim of a region, cut into the stretches that each limit makes."""
    pieces: dict[str, list[Any]] = {}
    for line in _generator(found, np.minimum(worst, MOST_DRAWN)).lines(1.0):
        limits = found.limit_at(line[:, 0], line[:, 1], stops)
        begin = 0
        for end in range(1, len(limits) + 1):
            if end == len(limits) or limits[end] != limits[begin]:
                pieces.setdefault(limits[begin], []).append(line[begin : min(end + 1, len(line))])
                begin = end
    return pieces


def _name_at(sheet: _Sheet, lines: list[Any], taken: list[_Word], words: str) -> _Word | None:
    """Where on an edge's longest stretch its name has the most room; a mere corner has none."""
    longest = max(lines, key=len)
    if len(longest) < FINER * LEAST_EDGE:
        return None
    on_edge = (sheet.at(*longest[len(longest) * n // 12]) for n in (6, 5, 7, 4, 8, 3, 9, 2, 10, 1, 11))
    places = [_word(x, y - 6, len(words)) for x, y in on_edge]
    # All that is free is alike: then nearest the middle.
    best = max(places, key=lambda place: min((1.0, *(place.apart(other) for other in taken))))
    taken.append(best)
    return best


def _axes(drawing: Drawing, found: SettingsMap, sheet: _Sheet, system: UnitSystem) -> None:
    for key, values, upright in ((found.x_key, found.x, False), (found.y_key, found.y, True)):
        axis = AXES[key]
        for value in round_ticks(float(values[0]), float(values[-1]), 5, axis.dimension, system):
            x, y = sheet.at(found.x[0] if upright else value, value if upright else found.y[0])
            said = figure(value, axis.dimension, system, axis.decimals)
            if upright:
                drawing.line((x - 5, y), (x, y), "trade-axis")
                drawing.text((x - 8, y + 6), said, "label", "end")
            else:
                drawing.line((x, y), (x, y + 5), "trade-axis")
                drawing.text((x, y + 25), said, "label", "middle")
    drawing.rect(LEFT, TOP, RIGHT - LEFT, BOTTOM - TOP, "map-frame")
    for key, at, anchor in (
        (found.x_key, ((LEFT + RIGHT) / 2, BOTTOM + 60), "middle"),
        (found.y_key, (LEFT, TOP - 7), "start"),
    ):
        unit = _unit(key, system)
        drawing.text(at, f"{AXES[key].words}{', ' + unit if unit else ''}", "label strong", anchor)


def _unit(key: AxisKey, system: UnitSystem) -> str:
    return "Hz" if key == "frequency_hz" else unit_words(AXES[key].dimension, system)


def _marks(drawing: Drawing, sheet: _Sheet, look: MapLook) -> None:
    for words, value in look.marks_x:
        x, _ = sheet.at(value, sheet.y[0])
        if LEFT < x < RIGHT:
            drawing.line((x, BOTTOM), (x, BOTTOM - 9), "map-mark")
            drawing.text((x, BOTTOM - 12), words, "label halo map-school", "middle")
    for words, value in look.marks_y:
        _, y = sheet.at(sheet.x[0], value)
        if TOP < y < BOTTOM:
            drawing.line((LEFT, y), (LEFT + 9, y), "map-mark")
            drawing.text((LEFT + 12, y + 5), words, "label halo map-school")


def _point(drawing: Drawing, found: SettingsMap, sheet: _Sheet, spread: Spread) -> None:
    x, y = sheet.at(*found.point)
    side = sheet.at(found.point[0] + spread[0], found.point[1] + spread[1])
    rx, ry = max(abs(side[0] - x), 3.0), max(abs(side[1] - y), 3.0)
    drawing.add('<g id="map-point" tabindex="0" role="slider" aria-label="The settings on the map">')
    drawing.add(
        f'<ellipse class="map-spread" cx="{number(x)}" cy="{number(y)}" rx="{number(rx)}" ry="{number(ry)}"/>'
    )
    drawing.add(f'<circle class="grip-area" cx="{number(x)}" cy="{number(y)}" r="48"/>')
    drawing.add(f'<circle class="map-here" cx="{number(x)}" cy="{number(y)}" r="8"/></g>')


def _words(found: SettingsMap) -> Words:
    edges = [
        LIMIT_WORDS[key] for key in found.used if np.nanmax(found.used[key]) > 1 >= np.nanmin(found.used[key])
    ]
    bright, watched = float(found.is_allowed.mean()), float((found.worst_stop <= 1).mean())
    return sentence(
        "web.map_nothing_broken_more",
        bright=bright,
        watched=watched - bright,
        edges=", ".join(edges) or "none",
    )
