"""What is seen of a pedal run, step by step. Knows nothing of the solver: that is read late."""

from __future__ import annotations

from typing import Literal, NamedTuple

LONGEST_STEP_S = 0.05
BAND = (0.9, 1.1)  # of the wanted pool
PEDAL_UP = 0.01  # of its travel, under which the arc is out

RunState = Literal["ready", "waits", "moves", "out", "burnt", "done", "late"]
ENDED: frozenset[RunState] = frozenset({"burnt", "done", "late"})


class Seen(NamedTuple):
    """What is seen of a run after a step: seconds, mm, °C. ``through``: 1 is melted through."""

    time_s: float
    way_mm: float
    width_mm: float
    behind_mm: float
    before_mm: float
    ahead_c: float
    through: float
    amps: float
    travel_mm_s: float
    pedal: float
    state: RunState
