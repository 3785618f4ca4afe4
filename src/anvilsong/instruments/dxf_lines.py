"""The lines of a DXF. Its bytes are untrusted: sizes are judged before anything is computed from them."""

from __future__ import annotations

import io
from typing import Any

import numpy as np

from anvilsong.core.words import sentence
from anvilsong.instruments.drawn_lines import (
    JOINS_MM,
    LEFT_OUT,
    MOST_CORNERS,
    MOST_DRAWN,
    MOST_ELEMENTS,
    Corners,
    Found,
    check_size,
    refused,
)

SAGITTA_MM, FINE = 0.15, 1 / 500  # of a curve, and of the box it lies in where no size is said
_INCHES = {1: 25.4, 2: 304.8, 4: 1.0, 5: 10.0, 6: 1000.0}  # what $INSUNITS of a DXF says, in mm
_TAKEN = ("LWPOLYLINE", "POLYLINE", "CIRCLE", "ELLIPSE", "SPLINE", "LINE", "ARC")


def from_dxf(data: bytes) -> Found:
    """Polylines, circles and the like, single lines and arcs, those of blocks too."""
    import ezdxf
    from ezdxf.disassemble import recursive_decompose

    document = ezdxf.read(io.StringIO(data.decode("utf-8", "replace")))  # type: ignore[attr-defined]
    units = int(document.header.get("$INSUNITS", 0))
    found = Found(says_size=units in _INCHES)
    scale = _INCHES.get(units, 1.0)
    drawn = 0
    for number, entity in enumerate(recursive_decompose(document.modelspace())):
        if number >= MOST_ELEMENTS or drawn > MOST_DRAWN:
            raise refused(
                "this drawing",
                sentence(
                    "instruments.up_lines_corners_all", most_elements=MOST_ELEMENTS, most_drawn=MOST_DRAWN
                ),
            )
        if entity.dxftype() not in _TAKEN:
            found.left_out[LEFT_OUT.get(entity.dxftype(), entity.dxftype().lower())] += 1
            continue
        line = _flattened(entity, scale)
        drawn += len(line)
        if len(line) < 2:
            continue
        meets = np.hypot(*(line[0] - line[-1])) < JOINS_MM and len(line) > 2
        (found.closed if meets else found.loose).append(line)
    return found


def _flattened(entity: Any, scale: float) -> Corners:
    """The corners of a line of a DXF, mm; its size is judged by the corners it is drawn by."""
    from ezdxf import path

    if entity.dxftype() == "LINE":
        ends = (entity.dxf.start, entity.dxf.end)
        line = np.array([(end.x, end.y) for end in ends]) * scale
        check_size(line)
        return line
    if entity.dxftype() == "SPLINE" and (
        entity.dxf.degree > 9 or len(entity.control_points) + len(entity.fit_points) > MOST_CORNERS
    ):
        raise refused("a spline", sentence("instruments.one_up_corners", most_corners=MOST_CORNERS))
    made = path.make_path(entity)
    if len(made) == 0:
        return np.empty((0, 2))
    drawn_by = np.array([(point.x, point.y) for point in made.control_vertices()]) * scale
    check_size(drawn_by)
    fine = min(SAGITTA_MM, FINE * float(np.ptp(drawn_by, axis=0).max()) or SAGITTA_MM)
    return np.array([(point.x, point.y) for point in made.flattening(fine / scale)]) * scale
