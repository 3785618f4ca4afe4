"""The situation of a job: everything about metal and joint that settings do not change."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import overload

import numpy as np

from anvilsong.core.arc.waveform import Numbers
from anvilsong.core.coefficients import Coefficients
from anvilsong.core.heat.plate import Plate
from anvilsong.core.heat.root import face_for_root_mm
from anvilsong.core.job import Job
from anvilsong.core.joint import Joint, Weld, WeldSection, position_factor, usual_travel_mm_s, weld_of
from anvilsong.core.metal.alloys import SPECIFIC_HEAT_J_KG_K
from anvilsong.core.metal.fillers import FillerChoice, choose_filler
from anvilsong.core.metal.surfaces import Surface, find_surface
from anvilsong.core.model.heat_model import STEADY, HeatModel

# What a hand and a fist stand for: a piece of the sheet this long and wide.
PART_SIZES_MM = {"hand": (120.0, 80.0), "fist": (70.0, 50.0)}
ROOM_C = 20.0  # at which surfaces were tried
# Of the wanted pool: for the look, and for strength or tightness.
NARROW_WIDTH, WIDE_WIDTH = 0.95, 1.05
LEAST_PLANNED_ROOT = 0.30  # of the face, where a narrow pool is wanted and the root too
# The thin side gives first: of unlike sides the plate counts as half way, by ratio, from it to the mean over
# the heat paths, and never over 1.6 of it.
MOST_OVER_THIN = 1.6
LEAST_EP_SHARE, MOST_EP_SHARE, MOST_CAST_EP_SHARE = 0.20, 0.45, 0.42
DEEPEST_TRIM = -0.40  # that is advised
BOTH_THIN_MM = 3.0  # under this on both sides mixed AC and DC puts in more heat than a hand can hold
LEAST_BORDER_MM, STILL_GOOD_BORDER_MM, MOST_BORDER_MM = 0.3, 2.5, 3.0
# A thin bead has a thin border: under 1.6 mm the least wanted and the least without specks fall, to 0.6 of
# them at 0.8 mm.
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
class Situation:
    """Job, joint and metal as numbers. Lengths mm, k W/(mm·K), a mm²/s, temperatures °C."""

    job: Job
    weld: Weld
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
    heat_model: HeatModel
    cold_share: float = 1.0
    """Of the rise to the contour that is left in the middle of the weld, where a small part warms."""

    @property
    def cold_share_at_end(self) -> float:
        """The same at the weld's end, by when twice the heat is in the part: s/(2 − s)."""
        return self.cold_share / (2 - self.cold_share)

    @property
    def joint(self) -> Joint:
        """The joint's row of the table."""
        return self.weld.joint

    @property
    def least_border_mm(self) -> float:
        """Border, mm a side, under which specks are likely: 0.3, of thin sheet less."""
        return LEAST_BORDER_MM * _thin_border_share(self.job)

    @property
    def wants_root(self) -> bool:
        """Whether penetration to the root depth is asked for."""
        return self.root_depth_mm is not None

    def plate(self, travel_mm_s: Numbers) -> Plate:
        """The plate that carries the heat away, passed over at a speed."""
        return Plate(self.thickness_mm, travel_mm_s, self.conductivity_w_mm_k, self.diffusivity_mm2_s)

    def top_mm(self, travel_mm_s: Numbers, heat_w: Numbers, preheat_c: Numbers | None) -> Numbers:
        """Width of the pool at the face, mm, for a heat, W."""
        return self.heat_model.face_mm(self.plate(travel_mm_s), heat_w, self.contour_k(preheat_c))

    def root_mm(self, top_mm: Numbers) -> Numbers:
        """Width of the pool, mm, at the depth asked for, else at the back, under such a face."""
        return self.heat_model.root_mm(top_mm, self.root_depth_mm or self.thickness_mm)

    def contour_k(self, preheat_c: Numbers | None) -> Numbers:
        """Rise, K, from the part's temperature, or its preheat, to the contour; of a small part what is left
        of it once it has warmed.
        """
        part_c = self.job.part_temperature_c
        warm = part_c if preheat_c is None else np.maximum(part_c, preheat_c)
        return self.cold_share * (self.contour_c - warm)

    def cleaning_factor(self, preheat_c: Numbers | None) -> Numbers:
        """How easily the surface clears: its own factor, and on warm metal as much more as the pool wants
        less heat. Nobody turns the positive share up because a part is small or warm.
        """
        return self.surface.cleaning_factor * (self.contour_c - ROOM_C) / self.contour_k(preheat_c)

    @overload
    def filler_heat_w(self, travel_mm_s: float, c: Coefficients) -> float: ...

    @overload
    def filler_heat_w(self, travel_mm_s: Numbers, c: Coefficients) -> Numbers: ...

    def filler_heat_w(self, travel_mm_s: Numbers, c: Coefficients) -> Numbers:
        """Heat that melts the rod, W: section × travel × 2.85 J/mm³."""
        return self.section_mm2 * travel_mm_s * c.filler_j_per_mm3

    @overload
    def wanted_pool_heat_w(
        self, travel_mm_s: float, preheat_c: float | None = None, width_mm: float | None = None
    ) -> float: ...

    @overload
    def wanted_pool_heat_w(
        self, travel_mm_s: Numbers, preheat_c: Numbers | None = None, width_mm: float | None = None
    ) -> Numbers: ...

    def wanted_pool_heat_w(
        self, travel_mm_s: Numbers, preheat_c: Numbers | None = None, width_mm: float | None = None
    ) -> Numbers:
        """Heat, W, for the wanted pool: joint factor × position × moving source in the effective plate.
        Exact.
        """
        width = self.wanted_width_mm if width_mm is None else width_mm
        plain = self.heat_model.heat_w(self.plate(travel_mm_s), width, self.contour_k(preheat_c))
        return self.heat_factor * self.position_factor * plain

    @overload
    def aimed_width_mm(self, travel_mm_s: float, preheat_c: float | None = None) -> float: ...

    @overload
    def aimed_width_mm(self, travel_mm_s: Numbers, preheat_c: Numbers | None = None) -> Numbers: ...

    def aimed_width_mm(self, travel_mm_s: Numbers, preheat_c: Numbers | None = None) -> Numbers:
        """Pool width, mm, at the heat that the position allows: the wanted one flat, a little less out of
        position.
        """
        heat = self.wanted_pool_heat_w(travel_mm_s, preheat_c) / self.heat_factor
        return self.top_mm(travel_mm_s, heat, preheat_c)


@lru_cache(maxsize=512)
def situation(job: Job, heat_model: HeatModel = STEADY) -> Situation:
    """Work the situation of a job out; kept, since a board asks for the same one again and again."""
    weld, surface, asked = weld_of(job.joint), find_surface(job.surface), job
    joint = weld.joint
    a, b = job.a.metal, job.b.metal
    is_casting = a.is_casting or b.is_casting
    over_paths = joint.effective_thickness_mm(job.a.thickness_mm, job.b.thickness_mm)
    mean_mm = min(math.sqrt(over_paths * job.thin_mm), MOST_OVER_THIN * job.thin_mm)
    bevel = weld.planned_bevel(job, mean_mm)
    if bevel is not None:
        job = job.model_copy(update={"bevel": bevel})
    width = weld.pool_width_mm(job, mean_mm) * _width_factor(job)
    root_depth = weld.root_depth_mm(job, mean_mm)
    if root_depth is not None:  # the look gives way to the root
        width = max(width, face_for_root_mm(LEAST_PLANNED_ROOT, root_depth))
    whole = weld.filled(job, mean_mm, width) if job.filler_wanted != "none" else WeldSection()
    k = joint.weighted(a.hot_conductivity_w_mk, b.hot_conductivity_w_mk) / 1000
    density_g_mm3 = joint.weighted(a.density_g_cm3, b.density_g_cm3) / 1000
    dilution = weld.dilution(job, mean_mm, width) if job.filler_wanted != "none" else 1.0
    at = Situation(
        job=job,
        weld=weld,
        surface=surface,
        thickness_mm=weld.path_mm(job, mean_mm),
        mean_thickness_mm=mean_mm,
        conductivity_w_mm_k=k,
        diffusivity_mm2_s=k / (density_g_mm3 * SPECIFIC_HEAT_J_KG_K / 1000),
        contour_c=max(a.contour_c, b.contour_c),
        wanted_width_mm=width,
        root_depth_mm=root_depth,
        whole=whole,
        section_mm2=weld.first_pass_mm2(job, whole, width),
        usual_travel_mm_s=usual_travel_mm_s(mean_mm),
        heat_factor=joint.heat_factor(mean_mm),
        position_factor=position_factor(job.position, mean_mm),
        filler=choose_filler(a, b, job.purposes, dilution, job.filler_wanted),
        aim=_border_aim(job, surface, is_casting),
        is_casting=is_casting,
        bevel_planned=bevel is not None,
        job_as_asked=asked,
        heat_model=heat_model,
    )
    return at if job.part_size == "large" else replace(at, cold_share=_cold_share(at))


def _cold_share(at: Situation) -> float:
    """What a part of some size leaves of the rise to the contour, in the middle of a weld along it.

    The pool's heat q goes with the rise K that is left, and half of what went in by then, q·T/2, is in the
    whole part: ΔT = q·T/(2·m·c) and q = (q/K)·(K − ΔT), so the share left is 1/(1 + (q/K)·T/(2·m·c)). T is
    the weld's time, at most along the part's longer side. Losses to the air take minutes and are left out.
    """
    job, (long_mm, wide_mm) = at.job, PART_SIZES_MM[at.job.part_size]
    travel = job.travel_mm_s or at.usual_travel_mm_s
    seconds = min(job.weld_length_mm, long_mm) / travel
    heat_j_k = at.mean_thickness_mm * long_mm * wide_mm * at.conductivity_w_mm_k / at.diffusivity_mm2_s
    per_k = float(at.wanted_pool_heat_w(travel)) / float(at.contour_k(None))
    return 1.0 / (1.0 + per_k * seconds / (2 * heat_j_k))


def _width_factor(job: Job) -> float:
    """What the purposes make of the pool's width."""
    if "appearance" in job.purposes:
        return NARROW_WIDTH
    return WIDE_WIDTH if {"strength", "tight"} & set(job.purposes) else 1.0


def _thin_border_share(job: Job) -> float:
    return float(np.interp(job.thin_mm, THIN_AIM_MM, THIN_AIM_SHARE))


def _border_aim(job: Job, surface: Surface, is_casting: bool) -> BorderAim:
    """The border wanted: by what is asked, by how dirty the metal is, else by the balance school and the
    sheet.
    """
    if surface.dirty or is_casting:
        low, high = DIRTY_AIM_MM
    elif "appearance" in job.purposes:
        low, high = APPEARANCE_AIM_MM
    else:
        low, high = AIMS_MM[job.school.balance]
        # The faces of a groove want clearing beside a small root pool.
        high = max(high, GROOVE_HIGH_MM) if job.bevel is not None else high
    low *= _thin_border_share(job)
    return BorderAim((low + high) / 2, (high - low) / 2)
