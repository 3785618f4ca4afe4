"""Where heat and pool meet: what a pool of some width wants, and how wide a heat makes it.

The steady source in an endless plate stands behind every situation; a part that warms up while it is
welded, or a model
fitted to coupons, takes its place by offering the same two answers.
"""

from __future__ import annotations

from typing import Protocol

from anvilsong.core.arc.waveform import Numbers
from anvilsong.core.heat.moving_source import heat_for_width_w
from anvilsong.core.heat.plate import Plate
from anvilsong.core.heat.root import root_share
from anvilsong.core.heat.width_curve import contour_width_mm


class HeatModel(Protocol):
    """Heat in W at the pool, contour width in mm at a depth, for a rise Θ in K over the part's
    temperature.
    """

    def heat_w(self, plate: Plate, width_mm: float, contour_k: Numbers) -> Numbers:
        """Heat whose contour is ``width_mm`` wide at the top."""
        ...

    def width_mm(self, plate: Plate, depth_mm: Numbers, heat_w: Numbers, contour_k: Numbers) -> Numbers:
        """Width of the contour at a depth; 0 where it does not reach there."""
        ...


class SteadySource:
    """A point source that has moved for long over an endless plate (``heat.moving_source``), and the root
    that a computed melt has under such a face (``heat.root``).
    """

    def heat_w(self, plate: Plate, width_mm: float, contour_k: Numbers) -> Numbers:
        return heat_for_width_w(plate, width_mm, contour_k)

    def width_mm(self, plate: Plate, depth_mm: Numbers, heat_w: Numbers, contour_k: Numbers) -> Numbers:
        """At a depth the metal under it counts for nothing, as at a groove's root face."""
        face = contour_width_mm(plate, 0.0, heat_w, contour_k)
        if isinstance(depth_mm, float) and depth_mm == 0:
            return face
        return face * root_share(face, depth_mm)


STEADY: HeatModel = SteadySource()
