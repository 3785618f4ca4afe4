"""The torch in the hand: where a tilted arc lands, and how far its cup opens on one side.

An arc of length L under a torch tilted by θ from upright lands L·tan θ beside the place the tip stands over;
the far side of a cup of bore d lifts by d·sin θ. Up to 15° along the seam, the tip pointing where the weld
goes, is usual; past 20° welders find soot, whatever the flow.
"""

from __future__ import annotations

import math
from typing import NamedTuple

from anvilsong.core.torch.cup import bore_mm

USUAL_DEG, MOST_DEG = 15.0, 20.0
SHOWN_DEG = (0.0, 10.0, 20.0, 30.0)


class Tilted(NamedTuple):
    """A tilt, degrees: how far off the arc lands, mm, how far the cup lifts on one side, mm, and whether the
    gas still covers.
    """

    deg: float
    off_mm: float
    lifts_mm: float
    is_covered: bool


def tilted(deg: float, arc_length_mm: float, cup_number: float) -> Tilted:
    """What a tilt does.

    >>> one = tilted(20, 3.0, 8)
    >>> round(one.off_mm, 1), round(one.lifts_mm, 1), one.is_covered
    (1.1, 4.3, True)
    """
    angle = math.radians(deg)
    return Tilted(
        deg, arc_length_mm * math.tan(angle), bore_mm(cup_number) * math.sin(angle), deg <= MOST_DEG
    )
