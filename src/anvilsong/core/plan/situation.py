"""The situation of a job: everything about metal and joint that settings do not change."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from anvilsong.core.coefficients import Coefficients
from anvilsong.core.heat.moving_source import Plate, WidthCurve, heat_for_width_w, width_curve
from anvilsong.core.job import Bevel, Job
from anvilsong.core.metal.alloys import SPECIFIC_HEAT_J_KG_K
from anvilsong.core.metal.fillers import FillerChoice, choose_filler
from anvilsong.core.metal.joints import Joint, find_joint, position_factor, usual_travel_mm_s
from anvilsong.core.metal.sections import (
    crown_mm2,
    fillet_mm2,
    gap_dilution,
    gap_mm2,
    half_lapped_corner_mm2,
    open_corner_mm2,
    v_groove_dilution,
    v_groove_mm2,
)
from anvilsong.core.metal.surfaces import Surface, find_surface

SQUARE_BUTT_LIMIT_MM, LARGEST_ONE_PASS_LEG_MM = 4.8, 6.0
# A planned bevel starts as a mere chamfer where square edges end, and has its usual root face from 5.8 mm.
WHOLE_BEVEL_MM, BEVEL_ANGLE_DEG, ROOT_FACE_MM = 5.8, 60.0, 1.6
# What a bevel takes off the heat's way out, whole at a root face of a quarter of the thickness and less.
BEVEL_TAKES, WHOLE_BEVEL_DEPTH = 0.15, 0.75
NARROW_WIDTH, WIDE_WIDTH = 0.95, 1.05
BEVELLED_CROWN_HEIGHT_MM = 1.5
MOST_OVER_THIN, THICKEST_FOR_POOL_MM = 1.6, 10.0
LEAST_EP_SHARE, MOST_EP_SHARE, MOST_CAST_EP_SHARE = 0.20, 0.45, 0.42
LEAST_BORDER_MM, STILL_GOOD_BORDER_MM, MOST_BORDER_MM = 0.3, 2.5, 3.0
# A thin bead has a thin border: under 1.6 mm the least wanted falls, to 0.6 of it at 0.8 mm, never under what specks.
LEG_OVER_THIN = 1.5
THIN_AIM_MM, THIN_AIM_SHARE = (0.8, 1.6), (0.6, 1.0)
AIMS_MM = {"lean": (0.3, 1.2), "middle": (0.5, 1.5), "cleaning": (0.6, 2.0)}
APPEARANCE_AIM_MM, DIRTY_AIM_MM, GROOVE_HIGH_MM = (0.25, 0.75), (0.3, 2.5), 2.5


@dataclass(frozen=True)
class BorderAim:
    """The border wanted on each side, mm: aim ± tolerance."""

    aim_mm: float
    tolerance_mm: float

    @property
    def low_mm(self) -> float:
        return self.aim_mm - self.tolerance_mm

    @property
    def high_mm(self) -> float:
        return self.aim_mm + self.tolerance_mm


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
class Situation:
    """Job, joint and metal as numbers. Lengths mm, k W/(mm·K), a mm²/s, temperatures °C."""

    job: Job
    joint: Joint
    surface: Surface
    thickness_mm: float
    mean_thickness_mm: float
    conductivity_w_mm_k: float
    diffusivity_mm2_s: float
    contour_c: float
    wanted_width_mm: float
    root_depth_mm: float | None
    whole: WeldSection
    section_mm2: float
    usual_travel_mm_s: float
    heat_factor: float
    position_factor: float
    filler: FillerChoice
    aim: BorderAim
    is_casting: bool
    bevel_planned: bool
    """Whether the bevel in ``job`` is the plan's own, not the person's."""
    job_as_asked: Job

    @property
    def wants_root(self) -> bool:
        """Whether penetration to the root depth is asked for."""
        return self.root_depth_mm is not None

    def plate(self, travel_mm_s: float) -> Plate:
        return Plate(self.thickness_mm, travel_mm_s, self.conductivity_w_mm_k, self.diffusivity_mm2_s)

    def top(self, travel_mm_s: float) -> WidthCurve:
        return width_curve(self.plate(travel_mm_s), 0.0)

    def root(self, travel_mm_s: float) -> WidthCurve:
        return width_curve(
            self.plate(travel_mm_s), self.root_depth_mm if self.root_depth_mm else self.thickness_mm
        )

    def contour_k(self, preheat_c: float | None) -> float:
        """Rise, K, from the part's temperature, or its preheat, to the contour."""
        return self.contour_c - max(
            self.job.part_temperature_c, preheat_c if preheat_c is not None else -273.0
        )

    def filler_heat_w(self, travel_mm_s: float, c: Coefficients) -> float:
        """Heat that melts the rod, W: section × travel × 2.85 J/mm³."""
        return self.section_mm2 * travel_mm_s * c.filler_j_per_mm3

    def wanted_pool_heat_w(
        self, travel_mm_s: float, preheat_c: float | None = None, width_mm: float | None = None
    ) -> float:
        """Heat, W, for the wanted pool: joint factor × position × moving source in the effective plate. Exact."""
        width = self.wanted_width_mm if width_mm is None else width_mm
        plain = heat_for_width_w(self.plate(travel_mm_s), width, self.contour_k(preheat_c))
        return self.heat_factor * self.position_factor * plain

    def aimed_width_mm(self, travel_mm_s: float, preheat_c: float | None = None) -> float:
        """Pool width, mm, at the heat that the position allows: the wanted one flat, a little less out of position."""
        heat = self.wanted_pool_heat_w(travel_mm_s, preheat_c) / self.heat_factor
        return float(self.top(travel_mm_s).width_mm(heat, self.contour_k(preheat_c)))


@lru_cache(maxsize=512)
def situation(job: Job) -> Situation:
    """Work the situation of a job out; kept, since a board asks for the same one again and again."""
    joint, surface = find_joint(job.joint), find_surface(job.surface)
    a, b = job.a.metal, job.b.metal
    # The thin side gives first: however thick its partner, the arc is aimed at that one and sized near twice the thin one.
    mean_mm = min(
        joint.effective_thickness_mm(job.a.thickness_mm, job.b.thickness_mm), MOST_OVER_THIN * job.thin_mm
    )
    given = job
    job = with_bevel(job, joint, mean_mm)
    wanted = _wanted_width_mm(job, joint, mean_mm)
    whole = weld_section(job, joint, mean_mm, wanted)
    k = joint.weighted(a.hot_conductivity_w_mk, b.hot_conductivity_w_mk) / 1000
    density_g_mm3 = joint.weighted(a.density_g_cm3, b.density_g_cm3) / 1000
    thickness = mean_mm
    if joint.kind == "butt" and job.bevel is not None:
        depth = max(0.0, 1 - job.bevel.root_face_mm / mean_mm)
        thickness *= 1 - BEVEL_TAKES * min(1.0, depth / WHOLE_BEVEL_DEPTH)
    return Situation(
        job=job,
        joint=joint,
        surface=surface,
        thickness_mm=thickness,
        conductivity_w_mm_k=k,
        diffusivity_mm2_s=k / (density_g_mm3 * SPECIFIC_HEAT_J_KG_K / 1000),
        contour_c=max(a.contour_c, b.contour_c),
        wanted_width_mm=wanted,
        root_depth_mm=_root_depth_mm(job, joint, mean_mm),
        whole=whole,
        mean_thickness_mm=mean_mm,
        section_mm2=first_pass_section_mm2(job, whole, wanted),
        usual_travel_mm_s=usual_travel_mm_s(mean_mm),
        heat_factor=joint.heat_factor(mean_mm),
        position_factor=position_factor(job.position, mean_mm),
        filler=choose_filler(a, b, job.purposes, dilution(job, joint, mean_mm, wanted), job.filler_wanted),
        aim=_border_aim(job, surface, a.is_casting or b.is_casting, job.thin_mm),
        is_casting=a.is_casting or b.is_casting,
        bevel_planned=job.bevel is not given.bevel,
        job_as_asked=given,
    )


def with_bevel(job: Job, joint: Joint, mean_mm: float) -> Job:
    """The job with the bevel it needs: a butt over 4.8 mm to be welded through, unless one is given or the edge stays square.

    The root face runs from the whole thickness at 4.8 mm to 1.6 mm at 5.8 mm, so that no setting jumps where bevels begin.
    """
    through = job.penetration != "partial" and job.edge_prep != "square"
    if joint.kind != "butt" or job.bevel is not None or not through or mean_mm <= SQUARE_BUTT_LIMIT_MM:
        return job
    ends = (SQUARE_BUTT_LIMIT_MM, WHOLE_BEVEL_MM)
    land = float(np.interp(mean_mm, ends, (SQUARE_BUTT_LIMIT_MM, ROOT_FACE_MM)))
    bevel = Bevel(angle_deg=BEVEL_ANGLE_DEG, root_face_mm=min(land, job.thin_mm))
    return job.model_copy(update={"bevel": bevel})


def groove_face_mm(job: Job, mean_mm: float) -> float:
    """Width of a V groove at the face, mm; 0 without a bevel."""
    if job.bevel is None:
        return 0.0
    depth = max(0.0, mean_mm - job.bevel.root_face_mm)
    return 2 * depth * math.tan(math.radians(job.bevel.angle_deg / 2)) + job.gap_mm


def fillet_leg_mm(job: Job) -> float:
    """Leg of a fillet, mm: as asked, else the thinner side, at most 6 mm for one pass."""
    return job.leg_mm or min(job.thin_mm, LARGEST_ONE_PASS_LEG_MM)


def one_pass_leg_mm(job: Job) -> float:
    """The largest leg one pass lays, mm: 6, and on thin sheet half as much again as the sheet, which melts under more."""
    return min(LARGEST_ONE_PASS_LEG_MM, LEG_OVER_THIN * job.thin_mm)


def _wanted_width_mm(job: Job, joint: Joint, mean_mm: float) -> float:
    """Pool width wanted, mm: 2.5 + 1.1·t, fillets leg × 1.4 but at least 2.5 + 0.6·t, bevelled butts by their root face, build-up 2.5 + 0.6·t."""
    if joint.kind == "fillet":
        width = max(
            1.4 * min(fillet_leg_mm(job), one_pass_leg_mm(job)),
            2.5 + 0.6 * min(mean_mm, THICKEST_FOR_POOL_MM),
        )
    elif joint.kind == "butt" and job.bevel is not None:
        width = 2.5 + 1.1 * job.bevel.root_face_mm
    elif joint.kind == "build_up":
        # Nothing has to be melted through: the bead only has to wet.
        width = 2.5 + 0.6 * min(mean_mm, THICKEST_FOR_POOL_MM)
    else:
        width = 2.5 + 1.1 * min(mean_mm, THICKEST_FOR_POOL_MM)
    if "appearance" in job.purposes:
        return width * NARROW_WIDTH
    return width * WIDE_WIDTH if {"strength", "tight"} & set(job.purposes) else width


def _root_depth_mm(job: Job, joint: Joint, mean_mm: float) -> float | None:
    """Depth, mm, to which penetration is asked; None where fusion is enough or the root cannot be tested."""
    if joint.kind in ("fillet", "edge", "build_up") or job.penetration == "partial":
        return None
    if joint.kind == "butt" and job.bevel is not None:
        return job.bevel.root_face_mm if job.bevel.root_face_mm > 0 else None
    if joint.kind == "corner":
        return job.thin_mm if job.thin_mm <= SQUARE_BUTT_LIMIT_MM or job.penetration == "full" else None
    return mean_mm if mean_mm <= SQUARE_BUTT_LIMIT_MM or job.penetration == "full" else None


def weld_section(job: Job, joint: Joint, mean_mm: float, width_mm: float) -> WeldSection:
    """The whole section that filler has to fill, mm², whatever the number of passes."""
    a_mm, b_mm = job.a.thickness_mm, job.b.thickness_mm
    if job.filler_wanted == "none":
        return WeldSection()
    if joint.kind == "fillet":
        return WeldSection(
            groove_mm2=fillet_mm2(fillet_leg_mm(job)), gap_mm2=gap_mm2(job.gap_mm, job.thin_mm)
        )
    if joint.kind == "corner":
        corner = {
            "open": open_corner_mm2(a_mm, b_mm),
            "half": half_lapped_corner_mm2(a_mm, b_mm),
            "closed": 0.0,
        }[job.corner]
        return WeldSection(
            groove_mm2=corner,
            gap_mm2=gap_mm2(job.gap_mm, job.thin_mm),
            crown_mm2=crown_mm2(width_mm) if job.corner == "closed" else 0.0,
        )
    if joint.kind == "edge":
        return WeldSection(
            gap_mm2=job.gap_mm * 0.5 * width_mm, crown_mm2=crown_mm2(min(a_mm + b_mm, width_mm))
        )
    if joint.kind == "build_up":
        return WeldSection(crown_mm2=crown_mm2(width_mm, 0.25 * width_mm))
    gap = gap_mm2(job.gap_mm, mean_mm)
    if job.bevel is not None:
        groove = v_groove_mm2(mean_mm, job.bevel.angle_deg, min(job.bevel.root_face_mm, mean_mm))
        crown = crown_mm2(groove_face_mm(job, mean_mm), BEVELLED_CROWN_HEIGHT_MM)
        return WeldSection(groove, gap, max(crown, crown_mm2(width_mm)))
    return WeldSection(gap_mm2=gap, crown_mm2=crown_mm2(width_mm))


def first_pass_section_mm2(job: Job, whole: WeldSection, width_mm: float) -> float:
    """Section of the pass the settings are made for, mm²: all of it, at most a 6 mm fillet; a groove only up to the root pool's width."""
    if job.bevel is None or whole.groove_mm2 == 0:
        leg = one_pass_leg_mm(job) if find_joint(job.joint).kind == "fillet" else LARGEST_ONE_PASS_LEG_MM
        return min(whole.total_mm2, fillet_mm2(leg) + whole.gap_mm2)
    slope = math.tan(math.radians(job.bevel.angle_deg / 2))
    height = width_mm / (2 * slope)
    return min(
        whole.total_mm2,
        fillet_mm2(LARGEST_ONE_PASS_LEG_MM),
        height**2 * slope + job.gap_mm * (job.bevel.root_face_mm + height),
    )


def dilution(job: Job, joint: Joint, mean_mm: float, width_mm: float) -> float:
    """Share of the weld metal that was base metal: from the section where its geometry is known, else the joint's usual figure."""
    if job.filler_wanted == "none":
        return 1.0
    if joint.kind == "butt" and job.bevel is not None:
        groove = v_groove_dilution(mean_mm, job.bevel.angle_deg, job.bevel.root_face_mm, job.gap_mm, width_mm)
        # A mere chamfer dilutes as a square edge does.
        return min(groove, joint.dilution)
    if joint.kind == "butt" and job.gap_mm > 0:
        return gap_dilution(joint.dilution, crown_mm2(width_mm), job.gap_mm, width_mm, mean_mm)
    return joint.dilution


def _border_aim(job: Job, surface: Surface, is_casting: bool, thin_mm: float) -> BorderAim:
    """The border wanted: by what is asked, by how dirty the metal is, else by the balance school and the sheet."""
    if surface.dirty or is_casting:
        low, high = DIRTY_AIM_MM
    elif "appearance" in job.purposes:
        low, high = APPEARANCE_AIM_MM
    else:
        low, high = AIMS_MM[job.school.balance]
        # The faces of a groove want clearing beside a small root pool.
        high = max(high, GROOVE_HIGH_MM) if job.bevel is not None else high
        low = max(LEAST_BORDER_MM, low * float(np.interp(thin_mm, THIN_AIM_MM, THIN_AIM_SHARE)))
    return BorderAim((low + high) / 2, (high - low) / 2)
