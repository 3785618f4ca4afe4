"""Where the metal stands in a section of each joint, in mm: x to the right, y up, the weld near the
origin.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import assert_never

from anvilsong.core.job import Job
from anvilsong.core.joint.table import JointKind, find_joint

Point = tuple[float, float]


@dataclass(frozen=True)
class JointShape:
    """Outlines of both sides, where the weld sits, how the torch points, and along which faces the border
    runs.
    """

    a: tuple[Point, ...]
    b: tuple[Point, ...]
    weld: Point
    torch: Point
    """Unit vector from the weld towards the torch."""
    faces: tuple[Point, Point]
    """Unit vectors from the weld along the left and the right face."""
    kind: JointKind
    axis_y: float | None = None
    """Centre line of a tube, if it is in the picture."""


def _rect(x0: float, x1: float, y0: float, y1: float) -> tuple[Point, ...]:
    return ((x0, y0), (x1, y0), (x1, y1), (x0, y1))


def joint_shape(job: Job, reach_mm: float) -> JointShape:
    """The shape of a job's joint, with plates drawn as far as ``reach_mm`` from the weld."""
    a, b, gap = job.a.thickness_mm, job.b.thickness_mm, job.gap_mm
    kind = find_joint(job.joint).kind
    up, far = (0.0, 1.0), reach_mm
    slant = (math.sqrt(0.5), math.sqrt(0.5))
    flat = ((-1.0, 0.0), (1.0, 0.0))
    corner = ((0.0, 1.0), (1.0, 0.0))
    match job.joint:
        case "butt" | "tube_tube":
            axis = -0.62 * far if job.joint == "tube_tube" else None
            return JointShape(
                _butt_side(job, -1, a, gap, far),
                _butt_side(job, 1, b, gap, far),
                (0, 0),
                up,
                flat,
                kind,
                axis,
            )
        case "lap":
            return JointShape(
                _rect(-far, far, -a, 0),
                _rect(-far, 0, gap, gap + b),
                (0, 0),
                (0.5, math.sqrt(0.75)),
                corner,
                kind,
            )
        case "tee" | "tube_plate":
            return JointShape(_rect(-far, far, -a, 0), _rect(-b, 0, gap, far), (0, 0), slant, corner, kind)
        case "inside_corner":
            return JointShape(_rect(-b, far, -a, 0), _rect(-b, 0, gap, far), (0, 0), slant, corner, kind)
        case "outside_corner":
            return JointShape(
                _rect(-far, 0, -a, 0),
                _rect(0, b, -far, -a),
                (b / 2, -a / 2),
                slant,
                ((-1.0, 0.0), (0.0, -1.0)),
                kind,
            )
        case "edge":
            return JointShape(
                _rect(-a, -gap / 2, -far, 0),
                _rect(gap / 2, b, -far, 0),
                (0, 0),
                up,
                ((0.0, -1.0), (0.0, -1.0)),
                kind,
            )
        case "build_up":
            return JointShape(_rect(-far, far, -a, 0), (), (0, 0), up, flat, kind)
        case never:
            assert_never(never)


def _butt_side(job: Job, sign: int, thickness: float, gap: float, far: float) -> tuple[Point, ...]:
    inner = sign * gap / 2
    if job.bevel is None:
        return ((inner, 0), (sign * far, 0), (sign * far, -thickness), (inner, -thickness))
    land = min(job.bevel.root_face_mm, thickness)
    run = (thickness - land) * math.tan(math.radians(job.bevel.angle_deg / 2))
    return (
        (inner + sign * run, 0),
        (sign * far, 0),
        (sign * far, -thickness),
        (inner, -thickness),
        (inner, -thickness + land),
    )
