"""How long a part takes to compute, told before it starts."""

from __future__ import annotations

import math

from anvilsong.core.errors import BadInput
from anvilsong.core.warming.arc import Arc
from anvilsong.core.warming.drawing import PartDrawing

MOST_SECONDS = 240.0
CELL_STAGES_A_SECOND = 1.2e8


def estimated_s(part: PartDrawing, arc: Arc) -> float:
    """About how long a part takes to compute, s of one core."""
    cell = part.cell_mm or arc.usual_cell_mm
    left, bottom, right, top = part.box_mm
    cells = (right - left) * (top - bottom) / cell**2
    welding = sum(run.length_mm for run in part.runs) / arc.travel_mm_s
    stages = max(2.0, math.sqrt(8 * arc.step_s * 400 / cell**2) / 2)
    return 0.5 + cells * welding / arc.step_s * stages / CELL_STAGES_A_SECOND


def check_effort(part: PartDrawing, arc: Arc) -> float:
    """How long it takes, s; and says before it starts when that is too long.

    Raises
    ------
    BadInput : the field is ``cell_mm``
    """
    seconds = estimated_s(part, arc)
    if seconds > MOST_SECONDS:
        cell = part.cell_mm or arc.usual_cell_mm
        coarser = cell * (seconds / MOST_SECONDS) ** (1 / 3) * 1.1
        raise BadInput.one(
            "cell_mm",
            f"{cell:g} mm",
            (
                f"this would take about {seconds / 60:.0f} minutes; take cells of {coarser:.1f} mm, or a "
                "smaller part"
            ),
        )
    return seconds
