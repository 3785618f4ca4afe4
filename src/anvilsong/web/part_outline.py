"""Outlines that were read from a drawing, as a part to go on with."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from anvilsong.core.errors import BadInput
from anvilsong.core.warming import PartDrawing, Run, Shape
from anvilsong.core.words import sentence
from anvilsong.instruments.outlines import Outline

SLICES = 9  # heights at which a first run is looked for


def part_of_outlines(outlines: Sequence[Outline], like: PartDrawing) -> PartDrawing:
    """The outlines as metal and holes, in another part's sheet and warmth, with a run over the longest metal.

    Raises
    ------
    BadInput : a part too small to weld
    """
    shapes = tuple(
        Shape(
            form="outline",
            does="hole" if line.is_hole else "metal",
            corners=tuple((float(x), float(y)) for x, y in line.corners),
        )
        for line in outlines
    )
    box = np.concatenate([line.corners for line in outlines])
    right, top = box.max(axis=0)
    if right < 10 or top < 5:
        raise BadInput.one("outline", f"{right:.1f} by {top:.1f} mm", sentence("web.part_least_mm"))
    best = (0.0, 0.0, 0.0)
    for height in np.linspace(0.1, 0.9, SLICES) * top:
        begin, end = _longest_metal(outlines, float(height))
        if end - begin > best[1] - best[0] + 1e-6:
            best = begin, end, float(height)
    if best[1] - best[0] < 6:
        raise BadInput.one("outline", f"{right:.1f} by {top:.1f} mm", sentence("web.part_with_metal_run"))
    begin, end, height = (round(each, 1) for each in best)
    run = Run(x_mm=begin, y_mm=height, to_x_mm=end, to_y_mm=height)
    return like.model_copy(update={"shapes": shapes, "runs": (run,), "marks": ()})


def _longest_metal(outlines: Sequence[Outline], y: float) -> tuple[float, float]:
    """Where a level line meets every outline, pair by pair in and out; the longest stretch within."""
    crossings: list[float] = []
    for line in outlines:
        x0, y0 = line.corners.T
        x1, y1 = np.roll(line.corners, -1, axis=0).T
        over = (y0 > y) != (y1 > y)
        crossings += (x0[over] + (y - y0[over]) / (y1[over] - y0[over]) * (x1[over] - x0[over])).tolist()
    crossings.sort()
    pairs = list(zip(crossings[::2], crossings[1::2], strict=False))
    return max(pairs, key=lambda pair: pair[1] - pair[0], default=(0.0, 0.0))
