"""An arc over a part, and how finely its pool is computed. Knows nothing of the solver: that is read late."""

from __future__ import annotations

from dataclasses import dataclass

SIGMA_OF_WIDTH = 1 / 3
CELLS_A_POOL, LEAST_CELL_MM = 5.0, 0.25
STEPS_A_POOL, LONGEST_STEP_S = 16.0, 0.1


@dataclass(frozen=True)
class Arc:
    """An arc and the pool it is to hold, mm and mm/s; how far the foot goes, as shares of the steady heat."""

    width_mm: float
    travel_mm_s: float
    most: float = 1.5
    least: float = 0.1

    @property
    def sigma_mm(self) -> float:
        """Width of the Gaussian: a third of the pool."""
        return SIGMA_OF_WIDTH * self.width_mm

    @property
    def usual_cell_mm(self) -> float:
        return max(LEAST_CELL_MM, round(self.width_mm / CELLS_A_POOL, 2))

    @property
    def step_s(self) -> float:
        """Short against the time the pool takes to pass."""
        return min(LONGEST_STEP_S, self.width_mm / self.travel_mm_s / STEPS_A_POOL)
