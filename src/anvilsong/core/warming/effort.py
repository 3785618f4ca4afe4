"""How long a part takes to compute, told before it starts."""

from __future__ import annotations

import math

from anvilsong.core.errors import BadInput
from anvilsong.core.warming.arc import Arc
from anvilsong.core.warming.drawing import PartDrawing
from anvilsong.core.words import sentence

MOST_SECONDS = 240.0
REST_STEP_S, USUAL_COOLING_S = 0.5, 30.0
CELL_STAGES_A_SECOND = 1.2e8


def estimated_s(part: PartDrawing, arc: Arc) -> float:
    """About how long a part takes to compute, s of one core."""
    cell = part.cell_mm or arc.usual_cell_mm
    left, bottom, right, top = part.box_mm
    cells = (right - left) * (top - bottom) / cell**2
    welding = sum(run.length_mm for run in part.runs) / arc.travel_mm_s
    resting = sum(run.pause_s for run in part.runs) + USUAL_COOLING_S

    def stages(dt_s: float) -> float:
        return max(2.0, math.sqrt(8 * dt_s * 400 / cell**2) / 2)

    steps = welding / arc.step_s * stages(arc.step_s) + resting / REST_STEP_S * stages(REST_STEP_S)
    return 0.5 + cells * steps / CELL_STAGES_A_SECOND


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
            sentence("warming.would_take_about_minutes", seconds=seconds / 60, coarser=coarser),
        )
    return seconds
