"""Where heat and pool meet: what a pool of some width wants, and how wide a heat makes it.

The steady source in an endless plate stands behind every situation; a part that warms up while it is
welded, or a model
fitted to coupons, takes its place by offering the same two answers.
"""

from __future__ import annotations

from typing import Protocol

from anvilsong.core.arc.waveform import Numbers
from anvilsong.core.heat.plate import Plate
from anvilsong.core.heat.root import root_share
from anvilsong.core.heat.similar import contour_width_mm, heat_for_width_w


class HeatModel(Protocol):
    """Heat in W at the pool, contour width in mm at the face, for a rise Θ in K over the part's
    temperature; and the root under such a face.
    """

    def heat_w(self, plate: Plate, width_mm: float, contour_k: Numbers) -> Numbers:
        """Heat whose contour is ``width_mm`` wide at the face."""
        ...

    def face_mm(self, plate: Plate, heat_w: Numbers, contour_k: Numbers) -> Numbers:
        """Width of the contour at the face."""
        ...

    def root_mm(self, face_mm: Numbers, depth_mm: Numbers) -> Numbers:
        """Width at a depth under such a face; 0 where the melt does not reach there."""
        ...


class SteadySource:
    """A point source that has moved for long over an endless plate (``heat.similar``), and the root
    that a computed melt has under such a face (``heat.root``).
    """

    def heat_w(self, plate: Plate, width_mm: float, contour_k: Numbers) -> Numbers:
        return heat_for_width_w(plate, width_mm, contour_k)

    def face_mm(self, plate: Plate, heat_w: Numbers, contour_k: Numbers) -> Numbers:
        return contour_width_mm(plate, heat_w, contour_k)

    def root_mm(self, face_mm: Numbers, depth_mm: Numbers) -> Numbers:
        """The metal under the depth counts for nothing, as at a groove's root face."""
        return face_mm * root_share(face_mm, depth_mm)


STEADY: HeatModel = SteadySource()
