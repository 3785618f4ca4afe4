"""The lines of an SVG. Its bytes are untrusted: sizes are judged before anything is computed from them."""

from __future__ import annotations

import io
import re
from collections.abc import Iterator
from typing import Any

import numpy as np

from anvilsong.core.words import sentence
from anvilsong.instruments.drawn_lines import (
    JOINS_MM,
    LEFT_OUT,
    MOST_DEEP,
    MOST_DRAWN,
    MOST_ELEMENTS,
    Corners,
    Found,
    check_size,
    refused,
)

STEP_MM, MOST_STEPS = 0.8, 400  # along a curve of an SVG
MOST_TYPED = 60_000  # corners that an SVG writes down: each is read by itself
_NUMBER = re.compile(r"\d+")
_MULTIPLIES = frozenset({"use", "image", "foreignobject", "script"})
_PHYSICAL = ("mm", "cm", "in", "pt", "pc", "q")  # units of an SVG's width that say how large it is


def from_svg(data: bytes) -> Found:
    """Filled and drawn shapes, and lines. It says its size where its width is in mm, inches or points."""
    from svgelements import SVG, Path, Shape

    found = Found()
    drawn = 0
    plain, width = _harmless(data)
    found.says_size = width.endswith(_PHYSICAL)
    for element in SVG.parse(io.BytesIO(plain), ppi=25.4).elements():
        if not isinstance(element, Shape):
            if words := LEFT_OUT.get(type(element).__name__.lower()):
                found.left_out[words] += 1
            continue
        is_filled = element.fill is not None and element.fill.value is not None
        for piece in Path(element).as_subpaths():
            line = np.asarray(list(_corners_of(Path(piece))), dtype=float) * (1, -1)
            drawn += len(line)
            if drawn > MOST_DRAWN:
                raise refused("this drawing", sentence("instruments.up_corners_all", most_drawn=MOST_DRAWN))
            if len(line) >= 2:
                meets = len(line) > 3 and np.hypot(*(line[0] - line[-1])) < JOINS_MM
                is_closed = len(line) > 2 and (is_filled or meets)
                (found.closed if is_closed else found.loose).append(line)
    return found


def _harmless(data: bytes) -> tuple[bytes, str]:
    """The drawing written anew after it was read, and the width it gives: no entities, no references, no
    pictures, not too much of it.
    """
    from xml.etree.ElementTree import tostring

    from defusedxml.common import DefusedXmlException
    from defusedxml.ElementTree import fromstring

    plain = sentence("instruments.plain_shapes_save_drawing")
    try:
        root = fromstring(data, forbid_dtd=True)
    except DefusedXmlException:
        raise refused(sentence("instruments.entity_document_type"), plain) from None
    if _local(root) != "svg":
        raise refused(sentence("instruments.xml_file_no_svg"), sentence("instruments.svg_dxf_drawing"))
    corners = 0
    for number, (element, depth) in enumerate(_walk(root)):
        corners += sum(len(_NUMBER.findall(element.get(name, ""))) for name in ("d", "points")) // 2
        if corners > MOST_TYPED:
            raise refused("this drawing", sentence("instruments.up_corners_all_2", most_typed=MOST_TYPED))
        if number >= MOST_ELEMENTS or depth > MOST_DEEP:
            raise refused(
                "this drawing",
                sentence(
                    "instruments.up_shapes_groups_deep", most_elements=MOST_ELEMENTS, most_deep=MOST_DEEP
                ),
            )
        if _local(element) in _MULTIPLIES:
            raise refused(f"<{_local(element)}>", plain)
    return bytes(tostring(root)), root.get("width", "").strip().lower()


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
        check_size(drawn_by)
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
