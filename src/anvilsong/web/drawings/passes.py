"""Passes in the joint's section, to scale: each layer as thick as its filler makes it."""

from __future__ import annotations

from collections.abc import Sequence

from anvilsong.core import say
from anvilsong.core.job import Job
from anvilsong.core.joint import filler_layer, find_joint, joint_shape
from anvilsong.core.model import Pass
from anvilsong.core.words import sentence
from anvilsong.web.drawings.svg import Drawing, Drawn, Point

WIDTH, HEIGHT = 440.0, 220.0
NEAR_X, NEAR_Y = 26.0, 19.0  # figures nearer than this in both ways lie on one another


def passes_drawing(job: Job, passes: Sequence[Pass]) -> Drawn:
    """The joint with its passes as numbered layers."""
    joint = find_joint(job.joint)
    thickest = max(job.a.thickness_mm, job.b.thickness_mm)
    tall = 3.0 * thickest if joint.kind != "fillet" else 4.2 * max(thickest, job.leg_mm or 0)
    scale = min(HEIGHT / tall, 60.0)
    origin = (
        WIDTH * (0.4 if joint.kind == "fillet" else 0.5),
        HEIGHT * (0.42 if joint.kind in ("butt", "build_up") else 0.66 if joint.kind == "fillet" else 0.4),
    )
    words = say.joined(
        *(
            say.joined(f"pass {p.number} {p.kind}, ", say.mm2(p.section_mm2), f", {p.amps_run:.0f} A")
            for p in passes
        ),
        by=", ",
    )
    drawing = Drawing(WIDTH, HEIGHT, sentence("web.passes_section_scale"), words, "drawing passes")

    def at(x: float, y: float) -> Point:
        return origin[0] + x * scale, origin[1] - y * scale

    shape = joint_shape(job, WIDTH / scale)
    for outline, css in ((shape.a, "plate side-a"), (shape.b, "plate side-b")):
        if outline:
            drawing.polygon([at(x, y) for x, y in outline], css)
    filled, named = 0.0, list[Point]()
    for layer in passes:
        layer_outline = filler_layer(job, joint.kind, filled, filled + layer.section_mm2)
        filled += layer.section_mm2
        drawing.polygon([at(x, y) for x, y in layer_outline], f"layer {layer.kind}")
        xs, ys = zip(*(at(x, y) for x, y in layer_outline), strict=True)
        if max(ys) - min(ys) >= 18 and joint.kind != "butt":
            place, anchor = (sum(xs) / len(xs), sum(ys) / len(ys) + 6), "middle"
        else:  # too thin for a figure inside it
            right = bool(layer.number % 2)
            place = (max(xs) + 10 if right else min(xs) - 10), sum(ys) / len(ys) + 6
            anchor = "start" if right else "end"
        # Of many thin ones only those are numbered that leave each other's figures free.
        if all(abs(place[1] - y) > NEAR_Y or abs(place[0] - x) > NEAR_X for x, y in named):
            named.append(place)
            drawing.text(place, str(layer.number), "label strong", anchor)
    return drawing.render()
