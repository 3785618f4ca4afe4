"""Outlines of the filler, layer on layer, in a joint's section, mm: x to the right, y up, the weld near the
origin.
"""

from __future__ import annotations

import math
from typing import assert_never

from anvilsong.core.job import Bevel, Job
from anvilsong.core.joint.outline import Point
from anvilsong.core.joint.sections import OPEN_CORNER_ROUND
from anvilsong.core.joint.table import JointKind

LEAST_CROWN_MM2, CROWN_HEIGHT, MOST_OVER_GROOVE_MM = 0.3, 0.15, 2.0


def filler_layer(job: Job, kind: JointKind, below_mm2: float, upto_mm2: float) -> list[Point]:
    """Outline of the filler between two cumulative areas, mm."""
    match kind:
        case "fillet":
            inner, outer = (math.sqrt(2 * area) for area in (below_mm2, upto_mm2))
            face = [(0.0, outer), (outer, 0.0)]
            return [*face, (inner, 0.0), (0.0, inner)] if inner > 0 else [*face, (0.0, 0.0)]
        case "corner":
            return _corner(job.a.thickness_mm, job.b.thickness_mm, below_mm2, upto_mm2)
        case "butt" if job.bevel is not None:
            return _groove(job, job.bevel, below_mm2, upto_mm2)
        case "butt" | "edge" | "build_up":
            return _crown(job, upto_mm2)
        case never:
            assert_never(never)


def _corner(a: float, b: float, below_mm2: float, upto_mm2: float) -> list[Point]:
    whole = max((0.5 + OPEN_CORNER_ROUND) * a * b, 1e-9)
    near, far = (math.sqrt(min(1.0, area / whole)) for area in (below_mm2, upto_mm2))

    def arc(share: float) -> list[Point]:
        turns = [i * math.pi / 16 for i in range(9)]
        return [(b * share * math.sin(t), -a + a * share * math.cos(t)) for t in turns]

    return arc(far) + arc(near)[::-1]


def _crown(job: Job, upto_mm2: float) -> list[Point]:
    """A crown over the face, with the gap under it."""
    area = max(upto_mm2 - job.gap_mm * job.thin_mm, LEAST_CROWN_MM2)
    half = math.sqrt(area / 0.1) / 2
    height = CROWN_HEIGHT * 2 * half
    turns = [i * math.pi / 12 for i in range(13)]
    bow = [(half * math.cos(math.pi - turn), height * math.sin(turn)) for turn in turns]
    gap, deep = job.gap_mm / 2, -job.thin_mm
    return [*bow, (gap, 0), (gap, deep), (-gap, deep), (-gap, 0)] if gap > 0 else bow


def _groove(job: Job, bevel: Bevel, below_mm2: float, upto_mm2: float) -> list[Point]:
    thickness = max(job.a.thickness_mm, job.b.thickness_mm)
    slope = math.tan(math.radians(bevel.angle_deg / 2))

    def level(area: float) -> tuple[float, float]:
        """Height above the bottom and half width of the groove where this much is filled."""
        land = job.gap_mm * bevel.root_face_mm
        if area <= land:
            return area / max(job.gap_mm, 1e-9), job.gap_mm / 2
        more = area - land
        rise = (-job.gap_mm + math.sqrt(job.gap_mm**2 + 4 * slope * more)) / (2 * slope)
        return bevel.root_face_mm + rise, job.gap_mm / 2 + rise * slope

    (low, low_half), (high, high_half) = level(below_mm2), level(upto_mm2)
    high = min(high, thickness + MOST_OVER_GROOVE_MM)
    return [
        (-low_half, low - thickness),
        (-high_half, high - thickness),
        (high_half, high - thickness),
        (low_half, low - thickness),
    ]
