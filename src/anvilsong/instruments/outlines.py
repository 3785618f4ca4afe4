"""Outlines out of drawings that people have: closed lines of an SVG or DXF file, in mm, y up.

The bytes are untrusted: few megabytes, no entities, no references that multiply, few corners.
"""

from __future__ import annotations

import io
import math
import re
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from anvilsong.core.errors import BadInput

MOST_BYTES, MOST_OUTLINES, MOST_CORNERS = 2_000_000, 60, 1500
SAGITTA_MM, JOINS_MM, LEAST_AREA_MM2 = 0.15, 0.02, 4.0
_MULTIPLIES = re.compile(rb"<!\s*(DOCTYPE|ENTITY)|<\s*(\w+:)?use\b|<\s*(\w+:)?image\b", re.IGNORECASE)
_INCHES = {1: 25.4, 2: 304.8, 4: 1.0, 5: 10.0, 6: 1000.0}  # what $INSUNITS of a DXF says, in mm

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
    if len(data) > MOST_BYTES:
        raise BadInput.one("outline", f"{len(data) / 1e6:.1f} MB", f"up to {MOST_BYTES / 1e6:.0f} MB")
    try:
        lines = _from_svg(data) if b"<svg" in data[:20_000].lower() else _from_dxf(data)
    except BadInput:
        raise
    except Exception as error:  # libraries for drawings fail in many ways on what is none
        raise BadInput.one("outline", name[:60], "an SVG or DXF drawing that can be read") from error
    closed = [line for line in lines if len(line) >= 3 and abs(_area(line)) >= LEAST_AREA_MM2]
    if not closed:
        raise BadInput.one("outline", name[:60], "a drawing with at least one closed line")
    closed = sorted(closed, key=lambda line: -abs(_area(line)))[:MOST_OUTLINES]
    every = np.concatenate(closed)
    if not np.isfinite(every).all() or np.ptp(every, axis=0).max() > 3000:
        raise BadInput.one("outline", name[:60], "a part of up to 3000 mm")
    low = every.min(axis=0)
    closed = [_thinned(line - low) for line in closed]
    return [
        Outline(np.round(line, 3), any(_is_within(line, other) for other in closed[:number]))
        for number, line in enumerate(closed)
    ]


def _from_svg(data: bytes) -> list[Corners]:
    """Filled and drawn shapes. A drawing that gives its size in mm or inches is taken at it; else its units
    are mm.
    """
    if found := _MULTIPLIES.search(data):
        said = found.group(0).decode("ascii", "replace")
        raise BadInput.one("outline", said, "plain shapes: save the drawing without references and pictures")
    from svgelements import SVG, Path, Shape

    lines: list[Corners] = []
    for element in SVG.parse(io.BytesIO(data), ppi=25.4).elements():
        if not isinstance(element, Shape) or len(lines) > 4 * MOST_OUTLINES:
            continue
        for piece in Path(element).as_subpaths():
            sub = Path(piece)
            length = float(sub.length(error=1e-3))
            if not math.isfinite(length) or length <= 0:
                continue
            straight = all(type(segment).__name__ in ("Move", "Line", "Close") for segment in sub)
            if straight:
                points = [(segment.end.x, segment.end.y) for segment in sub if segment.end is not None]
            else:
                count = int(min(max(24, length / 0.8), MOST_CORNERS))
                points = [tuple(point) for point in sub.npoint(np.linspace(0, 1, count, endpoint=False))]
            line = np.asarray(points, dtype=float) * (1, -1)
            lines.append(_open(line))
    return lines


def _from_dxf(data: bytes) -> list[Corners]:
    """Closed polylines, circles and the like, and loops of single lines and arcs."""
    import ezdxf
    from ezdxf import path

    text = data.decode("utf-8", "replace")
    document = ezdxf.read(io.StringIO(text))  # type: ignore[attr-defined]
    scale = _INCHES.get(int(document.header.get("$INSUNITS", 4)), 1.0)
    closed: list[Corners] = []
    loose: list[Corners] = []
    for number, entity in enumerate(document.modelspace()):
        if number > 20_000:
            break
        if entity.dxftype() not in ("LWPOLYLINE", "POLYLINE", "CIRCLE", "ELLIPSE", "SPLINE", "LINE", "ARC"):
            continue
        made = path.make_path(entity)
        line = np.array([(point.x, point.y) for point in made.flattening(SAGITTA_MM / scale)]) * scale
        if len(line) < 2:
            continue
        (closed if np.hypot(*(line[0] - line[-1])) < JOINS_MM and len(line) > 2 else loose).append(line)
    return [_open(line) for line in (*closed, *_loops(loose))]


def _loops(loose: list[Corners]) -> list[Corners]:
    """Single lines and arcs joined end to end, as far as they close."""
    found: list[Corners] = []
    rest = list(loose)
    while rest and len(found) < MOST_OUTLINES:
        chain = rest.pop()
        grew = True
        while grew and np.hypot(*(chain[0] - chain[-1])) >= JOINS_MM:
            grew = False
            for number, line in enumerate(rest):
                if np.hypot(*(line[0] - chain[-1])) < JOINS_MM:
                    chain, grew = np.concatenate((chain, line[1:])), True
                elif np.hypot(*(line[-1] - chain[-1])) < JOINS_MM:
                    chain, grew = np.concatenate((chain, line[::-1][1:])), True
                if grew:
                    del rest[number]
                    break
        if len(chain) > 3 and np.hypot(*(chain[0] - chain[-1])) < JOINS_MM:
            found.append(chain)
    return found


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
