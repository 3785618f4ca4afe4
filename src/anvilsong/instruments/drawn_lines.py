"""Lines as a drawing has them, in its own units, before they are outlines; and what is refused in it."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from anvilsong.core.errors import BadInput
from anvilsong.core.said import Words
from anvilsong.core.words import sentence
from anvilsong.instruments.limits import MOST_WIDE_MM

MOST_ELEMENTS, MOST_DEEP, MOST_DRAWN = 20_000, 60, 400_000
MOST_CORNERS, JOINS_MM = 1500, 0.02
LEFT_OUT = {
    "TEXT": "text", "MTEXT": "text", "ATTDEF": "text", "DIMENSION": "dimension", "LEADER": "leader",
    "HATCH": "hatching", "POINT": "point", "IMAGE": "picture", "3DSOLID": "solid", "MESH": "solid",
    "3DFACE": "face", "VIEWPORT": "view", "text": "text", "tspan": "text",
}  # fmt: skip

Corners = NDArray[np.float64]


@dataclass
class Found:
    """Lines of a drawing, closed and loose, in its own units, and how many of each kind were passed over."""

    closed: list[Corners] = field(default_factory=list)
    loose: list[Corners] = field(default_factory=list)
    left_out: Counter[str] = field(default_factory=Counter)
    says_size: bool = True


def refused(given: Words, allowed: Words) -> BadInput:
    return BadInput.one("outline", given, allowed)


def check_size(corners: Corners) -> None:
    """That corners, of a line or those a curve is drawn by, are those of a part."""
    if not np.isfinite(corners).all() or np.ptp(corners, axis=0).max() > MOST_WIDE_MM:
        raise refused("this drawing", sentence("instruments.part_up_mm", most_wide_mm=MOST_WIDE_MM))
