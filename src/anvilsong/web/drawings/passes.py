"""Passes in the joint's section, to scale: each layer as thick as its filler makes it."""

from __future__ import annotations

import math
from collections.abc import Sequence

from anvilsong.core import say
from anvilsong.core.job import Job
from anvilsong.core.metal.joints import find_joint
from anvilsong.core.plan.values import Pass
from anvilsong.web.drawings.joint_shapes import joint_shape
from anvilsong.web.drawings.svg import Drawing, Point

WIDTH, HEIGHT = 440.0, 220.0


def passes_drawing(job: Job, passes: Sequence[Pass]) -> str:
    """The joint with its passes as numbered layers."""
    joint = find_joint(job.joint)
    thickest = max(job.a.thickness_mm, job.b.thickness_mm)
    tall = 3.0 * thickest if joint.kind != "fillet" else 4.2 * max(thickest, job.leg_mm or 0)
    scale = min(HEIGHT / tall, 60.0)
    origin = (
        WIDTH * (0.4 if joint.kind == "fillet" else 0.5),
        HEIGHT * (0.42 if joint.kind in ("butt", "build_up") else 0.66 if joint.kind == "fillet" else 0.4),
    )
    words = ", ".join(
        f"pass {p.number} {p.kind}, {say.mm2(p.section_mm2)}, {p.amps_run:.0f} A" for p in passes
    )
    drawing = Drawing(WIDTH, HEIGHT, "Passes in section, to scale", words, "drawing passes")

    def at(x: float, y: float) -> Point:
        return origin[0] + x * scale, origin[1] - y * scale

    shape = joint_shape(job, WIDTH / scale)
    for outline, css in ((shape.a, "plate side-a"), (shape.b, "plate side-b")):
        if outline:
            drawing.polygon([at(x, y) for x, y in outline], css)
    filled = 0.0
    for layer in passes:
        layer_outline = _layer(job, joint.kind, filled, filled + layer.section_mm2)
        filled += layer.section_mm2
        drawing.polygon([at(x, y) for x, y in layer_outline], f"layer {layer.kind}")
        xs, ys = zip(*(at(x, y) for x, y in layer_outline), strict=True)
        if max(ys) - min(ys) >= 18 and joint.kind != "butt":
            drawing.text(
                (sum(xs) / len(xs), sum(ys) / len(ys) + 6), str(layer.number), "label strong", "middle"
            )
        else:  # too thin for a figure inside it
            side = 1 if layer.number % 2 else -1
            drawing.text(
                ((max(xs) + 10) if side > 0 else (min(xs) - 10), sum(ys) / len(ys) + 6),
                str(layer.number),
                "label strong",
                "start" if side > 0 else "end",
            )
    return drawing.render()


def _layer(job: Job, kind: str, below_mm2: float, upto_mm2: float) -> list[Point]:
    """Outline of the filler between two cumulative areas, mm."""
    if kind == "fillet":
        inner, outer = (math.sqrt(2 * area) for area in (below_mm2, upto_mm2))
        return (
            [(0, outer), (outer, 0), (inner, 0), (0, inner)]
            if inner > 0
            else [(0, outer), (outer, 0), (0, 0)]
        )
    if kind == "corner":
        a, b = job.a.thickness_mm, job.b.thickness_mm
        whole = 0.785 * a * b
        near, far = (math.sqrt(min(1.0, area / max(whole, 1e-9))) for area in (below_mm2, upto_mm2))
        arc = [
            (b * far * math.sin(t), -a + a * far * math.cos(t)) for t in (i * math.pi / 16 for i in range(9))
        ]
        back = [
            (b * near * math.sin(t), -a + a * near * math.cos(t))
            for t in (i * math.pi / 16 for i in range(8, -1, -1))
        ]
        return arc + back
    if job.bevel is not None and kind == "butt":
        return _groove_layer(job, below_mm2, upto_mm2)
    # A crown over the face, with the gap under it.
    half = math.sqrt(max(upto_mm2 - job.gap_mm * job.thin_mm, 0.3) / 0.1) / 2
    height = 0.15 * 2 * half
    bow = [
        (half * math.cos(math.pi - i * math.pi / 12), height * math.sin(i * math.pi / 12)) for i in range(13)
    ]
    gap = job.gap_mm / 2
    return [*bow, (gap, 0), (gap, -job.thin_mm), (-gap, -job.thin_mm), (-gap, 0)] if gap > 0 else bow


def _groove_layer(job: Job, below_mm2: float, upto_mm2: float) -> list[Point]:
    bevel = job.bevel
    assert bevel is not None
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
    high = min(high, thickness + 2.0)
    return [
        (-low_half, low - thickness),
        (-high_half, high - thickness),
        (high_half, high - thickness),
        (low_half, low - thickness),
    ]
