"""Outlines out of drawings that people have: closed lines of an SVG or DXF file, in mm, y up.

The bytes are untrusted. Sizes are judged before anything is computed from them: bytes, elements, corners,
and how far the corners that a curve is drawn by lie apart, since a curve of a kilometre has a corner every
few millimetres. Entities, references and pictures are refused by what they are, not by how they are spelled.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from anvilsong.core.errors import BadInput, Problem
from anvilsong.core.said import Words
from anvilsong.core.words import sentence
from anvilsong.instruments.drawn_lines import JOINS_MM, MOST_CORNERS, Corners, Found, check_size, refused
from anvilsong.instruments.dxf_lines import from_dxf
from anvilsong.instruments.limits import OUTLINE_BYTES
from anvilsong.instruments.loops import joined
from anvilsong.instruments.svg_lines import from_svg

MOST_OUTLINES, LEAST_AREA_MM2 = 60, 4.0
GAP_MM = 0.5  # between ends that were meant to meet


@dataclass(frozen=True)
class Drawing:
    """What was read: closed lines, and in sentences what was done to read them."""

    outlines: list[Outline]
    said: list[Words]


@dataclass(frozen=True)
class Outline:
    """A closed line: corners of shape (n, 2), mm; ``is_hole`` where it lies within another."""

    corners: Corners
    is_hole: bool


def read_outlines(data: bytes, name: str, wide_mm: float | None = None) -> Drawing:
    """The closed lines of a file, the largest first, its lower left corner at 0.

    Lines whose ends lie within 0.5 mm are joined. ``wide_mm`` is how wide the drawing is; it has to be given
    where the drawing does not say its size.

    Raises
    ------
    BadInput : neither SVG nor DXF, too large, nothing closed in it, or of no size
    """
    if len(data) > OUTLINE_BYTES:
        raise refused(f"{len(data) / 1e6:.1f} MB", f"up to {OUTLINE_BYTES / 1e6:.0f} MB")
    try:
        found = from_svg(data) if is_xml(data) else from_dxf(data)
    except (BadInput, MemoryError):
        raise
    except Exception as error:  # libraries for drawings fail in many ways on what is none
        raise refused(name[:60], sentence("instruments.svg_dxf_drawing_can")) from error
    if not found.closed and len(found.loose) < 2:
        raise refused(
            name[:60], sentence("instruments.drawing_with_least_one", left_out=_left_words(found.left_out))
        )
    if wide_mm is None and not found.says_size:
        text = sentence("instruments.does_not_say_size")
        raise BadInput(Problem("outline_wide", "nothing", text))
    # Told by all its lines first, then by those that close: a frame that does not is no part of the width.
    scale = wide_mm / max(_wide([*found.closed, *found.loose]), 1e-9) if wide_mm is not None else 1.0
    lines, gaps = _closed(found, scale)
    if wide_mm is not None and lines:
        more = wide_mm / max(_wide(lines), 1e-9)
        lines, gaps = [line * more for line in lines], [gap * more for gap in gaps]
    closed = [line for line in lines if len(line) >= 3 and abs(_area(line)) >= LEAST_AREA_MM2]
    if not closed:
        raise refused(
            name[:60], sentence("instruments.drawing_with_least_one", left_out=_left_words(found.left_out))
        )
    found.left_out["smaller line"] += len(lines) - min(len(closed), MOST_OUTLINES)
    closed = sorted(closed, key=lambda line: -abs(_area(line)))[:MOST_OUTLINES]
    every = np.concatenate(closed)
    check_size(every)
    low, size = every.min(axis=0), np.ptp(every, axis=0)
    closed = [_thinned(line - low) for line in closed]
    outlines = [
        Outline(np.round(line, 3), any(_is_within(line, other) for other in closed[:number]))
        for number, line in enumerate(closed)
    ]
    said: list[Words] = [sentence("instruments.drawing_was_read_wide", wide_mm=size[0], high_mm=size[1])]
    if gaps:
        said.append(sentence("instruments.gaps_up_were_closed", widest_mm=max(gaps), count=len(gaps)))
    if words := _left_words(found.left_out):
        said.append(f"{words[2:].capitalize()}.")
    return Drawing(outlines, said)


def _wide(lines: Sequence[Corners]) -> float:
    return float(np.ptp(np.concatenate(lines)[:, 0]))


def _closed(found: Found, scale: float) -> tuple[list[Corners], list[float]]:
    """Every closed line, mm, and the gaps, mm, that were closed for it."""
    exact = joined([line * scale for line in found.loose], JOINS_MM, MOST_OUTLINES)
    near = joined(exact.left, GAP_MM, MOST_OUTLINES)
    found.left_out["open line"] += len(near.left)
    whole = [line * scale for line in found.closed]
    gaps = [gap for gap in near.gaps if gap >= JOINS_MM]
    return [_open(line) for line in (*whole, *exact.closed, *near.closed)], gaps


def _left_words(left_out: Counter[str]) -> str:
    """``; left out: 3 texts, 1 open line``, or nothing."""
    parts = [f"{count} {kind}{'s' if count > 1 else ''}" for kind, count in sorted(left_out.items()) if count]
    return f"; left out: {', '.join(parts)}" if parts else ""


def is_xml(data: bytes) -> bool:
    """Whether it begins as XML does, in whatever coding of letters."""
    start = data[:400].replace(b"\0", b"").lstrip(b"\xef\xbb\xbf\xff\xfe \t\r\n")
    return start.startswith(b"<")


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
