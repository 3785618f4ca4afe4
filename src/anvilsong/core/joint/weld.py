"""What a joint makes of a job: pool and root wanted, filler's section, dilution. All that differs by kind
stands here.
"""

from __future__ import annotations

import math
from abc import ABC, abstractmethod
from dataclasses import dataclass
from functools import cache
from typing import ClassVar, assert_never

import numpy as np

from anvilsong.core.job import Bevel, Job
from anvilsong.core.joint.pools import (
    SQUARE_BUTT_LIMIT_MM,
    pool_for_mm,
    pool_through_mm,
    pool_wet_mm,
    pool_with_root_mm,
)
from anvilsong.core.joint.sections import (
    crown_mm2,
    fillet_mm2,
    gap_dilution,
    gap_mm2,
    half_lapped_corner_mm2,
    open_corner_mm2,
    v_groove_dilution,
    v_groove_mm2,
)
from anvilsong.core.joint.table import Joint, find_joint

# A planned bevel starts as a mere chamfer where square edges end, and has its usual root face from 5.8 mm.
WHOLE_BEVEL_MM, BEVEL_ANGLE_DEG, ROOT_FACE_MM = 5.8, 60.0, 1.6
BEVELLED_CROWN_HEIGHT_MM = 1.5
# What a bevel takes off the heat's way out, whole at a root face of a quarter of the thickness and less.
BEVEL_TAKES, WHOLE_BEVEL_DEPTH = 0.15, 0.75
# Of a fillet: the leg one pass lays, also over thin sheet, which melts under more; the pool over the leg.
LARGEST_ONE_PASS_LEG_MM, LEG_OVER_THIN, POOL_PER_LEG = 6.0, 1.5, 1.4
BUILD_UP_HEIGHT = 0.25  # of its width


@dataclass(frozen=True)
class WeldSection:
    """The filler's section by its parts, mm²."""

    groove_mm2: float = 0.0
    gap_mm2: float = 0.0
    crown_mm2: float = 0.0

    @property
    def total_mm2(self) -> float:
        return self.groove_mm2 + self.gap_mm2 + self.crown_mm2


@dataclass(frozen=True)
class Weld(ABC):
    """One kind of joint. ``mean_mm`` is everywhere the mean thickness over its heat paths, mm."""

    joint: Joint
    takes_bevel: ClassVar[bool] = False
    follows_a_gap: ClassVar[bool] = True
    """Whether the weld runs along a gap, which may have to be bridged, and over a backing."""
    small_rod: ClassVar[bool] = False
    takes_tacks: ClassVar[bool] = True

    @abstractmethod
    def pool_width_mm(self, job: Job, mean_mm: float) -> float:
        """Pool width wanted, mm, before what the purposes ask."""

    def widest_pool_mm(self, job: Job, mean_mm: float) -> float:
        """Width, mm, to which a pool may grow whatever is aimed at: a groove's face, a build-up's bead."""
        return 0.0

    @abstractmethod
    def root_depth_mm(self, job: Job, mean_mm: float) -> float | None:
        """Depth, mm, to which penetration is asked; None where fusion is enough or the root cannot be
        tested.
        """

    @abstractmethod
    def filled(self, job: Job, mean_mm: float, width_mm: float) -> WeldSection:
        """The whole section that filler has to fill, mm², whatever the number of passes."""

    def planned_bevel(self, job: Job, mean_mm: float) -> Bevel | None:
        """The bevel that a job needs and does not give."""
        return None

    def path_mm(self, job: Job, mean_mm: float) -> float:
        """Thickness, mm, that carries the heat away."""
        return mean_mm

    def one_pass_leg_mm(self, job: Job) -> float:
        """Leg, mm, of the fillet that is as much filler as one pass lays."""
        return LARGEST_ONE_PASS_LEG_MM

    def first_pass_mm2(self, job: Job, whole: WeldSection, width_mm: float) -> float:
        """Section, mm², of the pass that the settings are made for: all of it, at most what one pass lays."""
        return min(whole.total_mm2, fillet_mm2(self.one_pass_leg_mm(job)) + whole.gap_mm2)

    def dilution(self, job: Job, mean_mm: float, width_mm: float) -> float:
        """Share of the weld metal that was base metal: the joint's usual figure unless its geometry tells."""
        return self.joint.dilution


class Butt(Weld):
    """Edge to edge, square or bevelled; tubes end to end too."""

    takes_bevel = True

    def planned_bevel(self, job: Job, mean_mm: float) -> Bevel | None:
        """A bevel over 4.8 mm to be welded through, unless one is given or the edge stays square.

        The root face runs from the whole thickness at 4.8 mm to 1.6 mm at 5.8 mm, so that no setting jumps
        there.
        """
        through = job.penetration != "partial" and job.edge_prep != "square"
        if job.bevel is not None or not through or mean_mm <= SQUARE_BUTT_LIMIT_MM:
            return None
        ends = (SQUARE_BUTT_LIMIT_MM, WHOLE_BEVEL_MM)
        land = float(np.interp(mean_mm, ends, (SQUARE_BUTT_LIMIT_MM, ROOT_FACE_MM)))
        return Bevel(angle_deg=BEVEL_ANGLE_DEG, root_face_mm=min(land, job.thin_mm))

    def path_mm(self, job: Job, mean_mm: float) -> float:
        if job.bevel is None:
            return mean_mm
        depth = max(0.0, 1 - job.bevel.root_face_mm / mean_mm)
        return mean_mm * (1 - BEVEL_TAKES * min(1.0, depth / WHOLE_BEVEL_DEPTH))

    def pool_width_mm(self, job: Job, mean_mm: float) -> float:
        if job.bevel is not None:
            face = job.bevel.root_face_mm
            return pool_through_mm(face) if job.penetration == "partial" else pool_with_root_mm(face)
        return pool_for_mm(job, mean_mm, job.thin_mm)

    def root_depth_mm(self, job: Job, mean_mm: float) -> float | None:
        if job.penetration == "partial":
            return None
        if job.bevel is not None:
            return job.bevel.root_face_mm or None
        # Through the thin side: what the thick one has under it needs no root.
        return job.thin_mm if mean_mm <= SQUARE_BUTT_LIMIT_MM or job.penetration == "full" else None

    def filled(self, job: Job, mean_mm: float, width_mm: float) -> WeldSection:
        gap = gap_mm2(job.gap_mm, mean_mm)
        if job.bevel is None:
            return WeldSection(gap_mm2=gap, crown_mm2=crown_mm2(width_mm))
        groove = v_groove_mm2(mean_mm, job.bevel.angle_deg, min(job.bevel.root_face_mm, mean_mm))
        crown = crown_mm2(groove_face_mm(job, mean_mm), BEVELLED_CROWN_HEIGHT_MM)
        return WeldSection(groove, gap, max(crown, crown_mm2(width_mm)))

    def widest_pool_mm(self, job: Job, mean_mm: float) -> float:
        return groove_face_mm(job, mean_mm)

    def first_pass_mm2(self, job: Job, whole: WeldSection, width_mm: float) -> float:
        """A groove only up to the root pool's width."""
        if job.bevel is None or whole.groove_mm2 == 0:
            return super().first_pass_mm2(job, whole, width_mm)
        slope = math.tan(math.radians(job.bevel.angle_deg / 2))
        height = width_mm / (2 * slope)
        up_to_width = height**2 * slope + job.gap_mm * (job.bevel.root_face_mm + height)
        return min(whole.total_mm2, fillet_mm2(LARGEST_ONE_PASS_LEG_MM), up_to_width)

    def dilution(self, job: Job, mean_mm: float, width_mm: float) -> float:
        usual = self.joint.dilution
        if job.bevel is not None:
            angle, land = job.bevel.angle_deg, job.bevel.root_face_mm
            # A mere chamfer dilutes as a square edge does.
            return min(v_groove_dilution(mean_mm, angle, land, job.gap_mm, width_mm), usual)
        if job.gap_mm > 0:
            return gap_dilution(usual, crown_mm2(width_mm), job.gap_mm, width_mm, mean_mm)
        return usual


class Fillet(Weld):
    """In the angle of two sides: lap, tee, inside corner, tube on plate."""

    def leg_mm(self, job: Job) -> float:
        """Leg, mm: as asked, else the thinner side, at most 6 mm for one pass."""
        return job.leg_mm or min(job.thin_mm, LARGEST_ONE_PASS_LEG_MM)

    def one_pass_leg_mm(self, job: Job) -> float:
        return min(LARGEST_ONE_PASS_LEG_MM, LEG_OVER_THIN * job.thin_mm)

    def pool_width_mm(self, job: Job, mean_mm: float) -> float:
        return max(POOL_PER_LEG * min(self.leg_mm(job), self.one_pass_leg_mm(job)), pool_wet_mm(mean_mm))

    def root_depth_mm(self, job: Job, mean_mm: float) -> float | None:
        return None

    def filled(self, job: Job, mean_mm: float, width_mm: float) -> WeldSection:
        return WeldSection(groove_mm2=fillet_mm2(self.leg_mm(job)), gap_mm2=gap_mm2(job.gap_mm, job.thin_mm))


class Corner(Weld):
    """Outside corner: open, half lapped or closed."""

    def pool_width_mm(self, job: Job, mean_mm: float) -> float:
        return pool_for_mm(job, mean_mm, job.thin_mm)

    def root_depth_mm(self, job: Job, mean_mm: float) -> float | None:
        if job.penetration == "partial":
            return None
        return job.thin_mm if job.thin_mm <= SQUARE_BUTT_LIMIT_MM or job.penetration == "full" else None

    def filled(self, job: Job, mean_mm: float, width_mm: float) -> WeldSection:
        gap, sides = gap_mm2(job.gap_mm, job.thin_mm), (job.a.thickness_mm, job.b.thickness_mm)
        match job.corner:
            case "open":
                return WeldSection(groove_mm2=open_corner_mm2(*sides), gap_mm2=gap)
            case "half":
                return WeldSection(groove_mm2=half_lapped_corner_mm2(*sides), gap_mm2=gap)
            case "closed":
                return WeldSection(gap_mm2=gap, crown_mm2=crown_mm2(width_mm))
            case never:
                assert_never(never)


class Edge(Weld):
    """Two sheets side by side, their edges melted together."""

    small_rod = True

    def pool_width_mm(self, job: Job, mean_mm: float) -> float:
        return pool_through_mm(mean_mm)

    def root_depth_mm(self, job: Job, mean_mm: float) -> float | None:
        return None

    def filled(self, job: Job, mean_mm: float, width_mm: float) -> WeldSection:
        both = job.a.thickness_mm + job.b.thickness_mm
        return WeldSection(gap_mm2=job.gap_mm * 0.5 * width_mm, crown_mm2=crown_mm2(min(both, width_mm)))


class BuildUp(Weld):
    """Metal laid on a face. Nothing has to be melted through: the bead only has to wet."""

    follows_a_gap = False
    takes_tacks = False

    def pool_width_mm(self, job: Job, mean_mm: float) -> float:
        return pool_wet_mm(mean_mm)

    def widest_pool_mm(self, job: Job, mean_mm: float) -> float:
        return pool_through_mm(mean_mm)

    def root_depth_mm(self, job: Job, mean_mm: float) -> float | None:
        return None

    def filled(self, job: Job, mean_mm: float, width_mm: float) -> WeldSection:
        return WeldSection(crown_mm2=crown_mm2(width_mm, BUILD_UP_HEIGHT * width_mm))


@cache
def weld_of(key: str) -> Weld:
    """The weld of a joint by the joint's name."""
    joint = find_joint(key)
    match joint.kind:
        case "butt":
            return Butt(joint)
        case "fillet":
            return Fillet(joint)
        case "corner":
            return Corner(joint)
        case "edge":
            return Edge(joint)
        case "build_up":
            return BuildUp(joint)
        case never:
            assert_never(never)


def groove_face_mm(job: Job, mean_mm: float) -> float:
    """Width of a V groove at the face, mm; 0 without a bevel."""
    if job.bevel is None:
        return 0.0
    depth = max(0.0, mean_mm - job.bevel.root_face_mm)
    return 2 * depth * math.tan(math.radians(job.bevel.angle_deg / 2)) + job.gap_mm
