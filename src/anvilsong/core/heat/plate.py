"""The plate that a source moves over, and where its two series stand in for one another."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

FEW_IMAGES = 0.75  # κt from which mirror sources alone do
NEAR = 0.5  # of the thickness: nearer to the source than this the mirror sources take over from the series
SERIES_TERMS = 6  # the next term is exp(−7π/2), 2e-5 of the first, at r = t/2 and less beyond
NEAR_IMAGES = 8  # on each side; what is left out is under 1e-4 of the sum


Numbers = float | Array


@dataclass(frozen=True)
class Plate:
    """A plate that a source moves over: thickness mm, speed mm/s, k W/(mm·K), a mm²/s."""

    thickness_mm: Numbers
    travel_mm_s: Numbers
    conductivity_w_mm_k: Numbers
    diffusivity_mm2_s: Numbers

    @property
    def kappa_per_mm(self) -> Numbers:
        """κ = v/(2a), 1/mm."""
        return self.travel_mm_s / (2 * self.diffusivity_mm2_s)

    @property
    def members(self) -> tuple[Numbers, Numbers, Numbers, Numbers]:
        """Thickness, speed, conductivity, diffusivity."""
        return self.thickness_mm, self.travel_mm_s, self.conductivity_w_mm_k, self.diffusivity_mm2_s
