"""Outlines out of drawings that people have: closed lines of an SVG or DXF file, in mm, y up.

The bytes are untrusted. Sizes are judged before anything is computed from them: bytes, elements, corners,
and how far the corners that a curve is drawn by lie apart, since a curve of a kilometre has a corner every
few millimetres. Entities, references and pictures are refused by what they are, not by how they are spelled.
"""

from __future__ import annotations

import io
import math
import re
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from anvilsong.core.errors import BadInput
from anvilsong.instruments.limits import OUTLINE_BYTES
from anvilsong.instruments.loops import joined

MOST_OUTLINES, MOST_CORNERS = 60, 1500
MOST_MM, MOST_ELEMENTS, MOST_DEEP, MOST_DRAWN = 3000.0, 20_000, 60, 400_000
SAGITTA_MM, JOINS_MM, LEAST_AREA_MM2 = 0.15, 0.02, 4.0
STEP_MM, MOST_STEPS = 0.8, 400  # along a curve of an SVG
MOST_TYPED = 60_000  # corners that an SVG writes down: each is read by itself
_NUMBER = re.compile(r"\d+")
_MULTIPLIES = frozenset({"use", "image", "foreignobject", "script"})
_INCHES = {1: 25.4, 2: 304.8, 4: 1.0, 5: 10.0, 6: 1000.0}  # what $INSUNITS of a DXF says, in mm
_TAKEN = ("LWPOLYLINE", "POLYLINE", "CIRCLE", "ELLIPSE", "SPLINE", "LINE", "ARC")

Corners = NDArray[np.float64]


@dataclass(frozen=True)
class Outline:
    """A closed line: corners of shape (n, 2), mm; ``is_hole`` where it lies within another."""

    corners: Corners
    is_hole: bool


def read_outlines(data: bytes, name: str) -> list[Outline]:
    """The closed lines of a file, the largest first, its lower left corner at 0.

    Raises
    ------
    BadInput : neither SVG nor DXF, too large, or nothing closed in it
    """
    if len(data) > OUTLINE_BYTES:
        raise _refused(f"{len(data) / 1e6:.1f} MB", f"up to {OUTLINE_BYTES / 1e6:.0f} MB")
    try:
        lines = _from_svg(data) if _is_xml(data) else _from_dxf(data)
    except (BadInput, MemoryError):
        raise
    except Exception as error:  # libraries for drawings fail in many ways on what is none
        raise _refused(name[:60], "an SVG or DXF drawing that can be read") from error
    closed = [line for line in lines if len(line) >= 3 and abs(_area(line)) >= LEAST_AREA_MM2]
    if not closed:
        raise _refused(name[:60], "a drawing with at least one closed line")
    closed = sorted(closed, key=lambda line: -abs(_area(line)))[:MOST_OUTLINES]
    every = np.concatenate(closed)
    _check_size(every)
    low = every.min(axis=0)
    closed = [_thinned(line - low) for line in closed]
    return [
        Outline(np.round(line, 3), any(_is_within(line, other) for other in closed[:number]))
        for number, line in enumerate(closed)
    ]


def _refused(given: str, allowed: str) -> BadInput:
    return BadInput.one("outline", given, allowed)


def _check_size(corners: Corners) -> None:
    """That corners, of a line or those a curve is drawn by, are those of a part."""
    if not np.isfinite(corners).all() or np.ptp(corners, axis=0).max() > MOST_MM:
        raise _refused("this drawing", f"a part of up to {MOST_MM:.0f} mm")


def _is_xml(data: bytes) -> bool:
    """Whether it begins as XML does, in whatever coding of letters."""
    start = data[:400].replace(b"\0", b"").lstrip(b"\xef\xbb\xbf\xff\xfe \t\r\n")
    return start.startswith(b"<")


def _from_svg(data: bytes) -> list[Corners]:
    """Filled and drawn shapes. A drawing that gives its size in mm or inches is taken at it; else its units
    are mm.
    """
    from svgelements import SVG, Path, Shape

    lines: list[Corners] = []
    drawn = 0
    for element in SVG.parse(io.BytesIO(_harmless(data)), ppi=25.4).elements():
        if not isinstance(element, Shape):
            continue
        for piece in Path(element).as_subpaths():
            line = np.asarray(list(_corners_of(Path(piece))), dtype=float) * (1, -1)
            drawn += len(line)
            if drawn > MOST_DRAWN:
                raise _refused("this drawing", f"up to {MOST_DRAWN} corners in all")
            if len(line) >= 2:
                lines.append(_open(line))
    return lines


def _harmless(data: bytes) -> bytes:
    """The drawing written anew after it was read: no entities, no references, no pictures, not too much of
    it.
    """
    from xml.etree.ElementTree import tostring

    from defusedxml.common import DefusedXmlException
    from defusedxml.ElementTree import fromstring

    plain = "plain shapes: save the drawing without references and pictures"
    try:
        root = fromstring(data, forbid_dtd=True)
    except DefusedXmlException:
        raise _refused("an entity or a document type", plain) from None
    if _local(root) != "svg":
        raise _refused("an XML file that is no SVG", "an SVG or DXF drawing")
    corners = 0
    for number, (element, depth) in enumerate(_walk(root)):
        corners += sum(len(_NUMBER.findall(element.get(name, ""))) for name in ("d", "points")) // 2
        if corners > MOST_TYPED:
            raise _refused("this drawing", f"up to {MOST_TYPED} corners in all")
        if number >= MOST_ELEMENTS or depth > MOST_DEEP:
            raise _refused("this drawing", f"up to {MOST_ELEMENTS} shapes, {MOST_DEEP} groups deep")
        if _local(element) in _MULTIPLIES:
            raise _refused(f"<{_local(element)}>", plain)
    return bytes(tostring(root))


def _local(element: Any) -> str:
    """An element's name without the name of its language."""
    return str(element.tag).rpartition("}")[2].rpartition(":")[2].lower()


def _walk(root: Any) -> Iterator[tuple[Any, int]]:
    """Every element and how deep it lies, without calling itself."""
    waiting = [(root, 0)]
    while waiting:
        element, depth = waiting.pop()
        yield element, depth
        waiting += [(inner, depth + 1) for inner in element]


def _corners_of(line: Any) -> Iterator[tuple[float, float]]:
    """The ends of straight pieces, and places along curved ones; their size is judged first."""
    for segment in line:
        kind = type(segment).__name__
        if segment.end is None:
            continue
        if kind in ("Move", "Line", "Close"):
            yield segment.end.x, segment.end.y
            continue
        drawn_by = _drawn_by(segment, kind)
        _check_size(drawn_by)
        long = float(np.hypot(*np.diff(drawn_by, axis=0).T).sum())
        steps = int(min(max(long / STEP_MM, 8), MOST_STEPS))
        for place in segment.npoint(np.linspace(0, 1, steps + 1)[1:]):
            yield float(place[0]), float(place[1])


def _drawn_by(segment: Any, kind: str) -> Corners:
    """Corners that a curve lies within: those of its control lines, or of the box round an arc's ellipse."""
    if kind == "Arc":
        reach = max(abs(segment.rx), abs(segment.ry))
        x, y = segment.center.x, segment.center.y
        box = [(x - reach, y - reach), (x + reach, y - reach), (x + reach, y + reach), (x - reach, y + reach)]
        return np.asarray(box, dtype=float)
    points = [getattr(segment, name, None) for name in ("start", "control", "control1", "control2", "end")]
    return np.asarray([(point.x, point.y) for point in points if point is not None], dtype=float)


def _from_dxf(data: bytes) -> list[Corners]:
    """Closed polylines, circles and the like, and loops of single lines and arcs."""
    import ezdxf

    document = ezdxf.read(io.StringIO(data.decode("utf-8", "replace")))  # type: ignore[attr-defined]
    scale = _INCHES.get(int(document.header.get("$INSUNITS", 4)), 1.0)
    closed: list[Corners] = []
    loose: list[Corners] = []
    drawn = 0
    for number, entity in enumerate(document.modelspace()):
        if number >= MOST_ELEMENTS or drawn > MOST_DRAWN:
            raise _refused("this drawing", f"up to {MOST_ELEMENTS} lines of {MOST_DRAWN} corners in all")
        if entity.dxftype() not in _TAKEN:
            continue
        line = _flattened(entity, scale)
        drawn += len(line)
        if len(line) < 2:
            continue
        (closed if np.hypot(*(line[0] - line[-1])) < JOINS_MM and len(line) > 2 else loose).append(line)
    return [_open(line) for line in (*closed, *joined(loose, JOINS_MM, MOST_OUTLINES))]


def _flattened(entity: Any, scale: float) -> Corners:
    """The corners of a line of a DXF, mm; its size is judged by the corners it is drawn by."""
    from ezdxf import path

    if entity.dxftype() == "LINE":
        ends = (entity.dxf.start, entity.dxf.end)
        line = np.array([(end.x, end.y) for end in ends]) * scale
        _check_size(line)
        return line
    if entity.dxftype() == "SPLINE" and (
        entity.dxf.degree > 9 or len(entity.control_points) + len(entity.fit_points) > MOST_CORNERS
    ):
        raise _refused("a spline", f"one of up to {MOST_CORNERS} corners")
    made = path.make_path(entity)
    if len(made) == 0:
        return np.empty((0, 2))
    drawn_by = np.array([(point.x, point.y) for point in made.control_vertices()]) * scale
    _check_size(drawn_by)
    return np.array([(point.x, point.y) for point in made.flattening(SAGITTA_MM / scale)]) * scale


def _open(line: Corners) -> Corners:
    """Without the last corner where it is the first again."""
    return line[:-1] if len(line) > 3 and np.hypot(*(line[0] - line[-1])) < JOINS_MM else line


def _area(line: Corners) -> float:
    x, y = line.T
    return float(np.dot(x, np.roll(y, -1)) - np.dot(y, np.roll(x, -1))) / 2


def _thinned(line: Corners) -> Corners:
    """Every so manieth corner where there are too many."""
    return line[:: math.ceil(len(line) / MOST_CORNERS)]


def _is_within(line: Corners, other: Corners) -> bool:
    """Whether a corner of one lies in the other (even-odd rule)."""
    x, y = line[0]
    x0, y0 = other.T
    x1, y1 = np.roll(other, -1, axis=0).T
    crosses = (y0 > y) != (y1 > y)
    with np.errstate(divide="ignore", invalid="ignore"):
        left = x < x0 + (y - y0) / (y1 - y0) * (x1 - x0)
    return bool((crosses & left).sum() % 2)
