"""A groove ground out of a plate, to scale, with the beads that fill it."""

from __future__ import annotations

from itertools import pairwise

import numpy as np

from anvilsong.core import say
from anvilsong.core.prep import CutOut, groove_half_mm
from anvilsong.core.words import sentence
from anvilsong.web.drawings.svg import Drawing, Drawn, Point

WIDTH, HEIGHT, MARGIN = 440.0, 190.0, 16.0
LINES = 160


def groove_drawing(cut: CutOut, thickness_mm: float) -> Drawn:
    """The section across: the plate, the groove, each bead as the layer it makes."""
    scale = min((HEIGHT - 3 * MARGIN) / thickness_mm, (WIDTH - 2 * MARGIN) / (2.2 * cut.width_mm))
    words = say.joined(
        *(
            say.joined(f"bead {bead.number}, {bead.amps:.0f} A, ", say.mm2(bead.section_mm2))
            for bead in cut.beads
        ),
        by=", ",
    )
    drawing = Drawing(WIDTH, HEIGHT, sentence("web.groove_and_its_beads"), words, "drawing passes")
    middle, top = WIDTH / 2, 2 * MARGIN

    def at(x_mm: float, down_mm: float) -> Point:
        return middle + x_mm * scale, top + down_mm * scale

    wide = (WIDTH / 2 - MARGIN) / scale
    depths = np.linspace(0, cut.depth_mm, LINES)
    half = np.array([groove_half_mm(cut.depth_mm - down) for down in depths])
    outline = [at(-wide, 0), *(at(-x, d) for x, d in zip(half, depths, strict=True))]
    outline += [at(x, d) for x, d in zip(half[::-1], depths[::-1], strict=True)]
    outline += [at(wide, 0), at(wide, thickness_mm), at(-wide, thickness_mm)]
    drawing.polygon(outline, "plate side-a")
    for bead, (low, high) in zip(cut.beads, _levels(cut, depths, half), strict=True):
        between = [(x, d) for x, d in zip(half, depths, strict=True) if high <= d <= low]
        if len(between) < 2:
            continue
        layer = [at(-x, d) for x, d in between] + [at(x, d) for x, d in reversed(between)]
        drawing.polygon(layer, "layer fill")
        x = between[0][0]
        right = bool(bead.number % 2)
        place = at(x if right else -x, (low + high) / 2)
        drawing.text(
            (place[0] + (10 if right else -10), place[1] + 6),
            str(bead.number),
            "label strong",
            "start" if right else "end",
        )
    return drawing.render()


def _levels(cut: CutOut, depths: np.ndarray, half: np.ndarray) -> list[tuple[float, float]]:
    """From where to where under the face each bead fills, mm, by its share of the section."""
    up = depths[::-1]
    filled = np.concatenate([[0.0], np.cumsum((half[::-1][1:] + half[::-1][:-1]) * -np.diff(up))])
    total = sum(bead.section_mm2 for bead in cut.beads)
    ends = np.cumsum([bead.section_mm2 for bead in cut.beads]) / total * filled[-1]
    heights = [float(np.interp(end, filled, up)) for end in (0.0, *ends)]
    return list(pairwise(heights))
