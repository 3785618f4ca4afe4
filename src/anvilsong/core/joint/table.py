"""Joints: heat paths, heat factors, positions, travel, and what handbooks print for them."""

from __future__ import annotations

from functools import cache
from typing import Literal, cast

import numpy as np

from anvilsong.core.arc.frequency import BandKey
from anvilsong.core.job import TUBES, JointName
from anvilsong.core.tables import Row, read_table

JointKind = Literal["butt", "fillet", "corner", "edge", "build_up"]
HandbookKind = Literal["butt", "lap", "corner", "fillet"]


class Joint(Row):
    """A joint. ``access_deg`` is the open angle the torch works in; ``handbook`` what handbooks print amps
    under.
    """

    key: JointName
    words: str
    paths_a: int
    paths_b: int
    heat_points: list[tuple[float, float]]
    dilution: float
    kind: JointKind
    access_deg: float
    band: BandKey = "general"
    handbook: HandbookKind | None = None

    @property
    def tube(self) -> bool:
        """Whether the weld runs round a tube."""
        return self.key in TUBES

    def effective_thickness_mm(self, a_mm: float, b_mm: float) -> float:
        """Mean thickness over the heat paths: (n_a·a + n_b·b)/(n_a + n_b), mm."""
        return self.weighted(a_mm, b_mm)

    def heat_factor(self, thickness_mm: float) -> float:
        """Heat of this joint against a butt weld of the same effective thickness; held flat beyond its
        points.
        """
        return _along(self.heat_points, thickness_mm)

    def weighted(self, a: float, b: float) -> float:
        """Mean of a property of the two sides over the heat paths."""
        return (self.paths_a * a + self.paths_b * b) / (self.paths_a + self.paths_b)


class Points(Row):
    points: list[tuple[float, float]]


class JointTable(Row):
    source: str
    joint: list[Joint]
    positions: dict[str, list[tuple[float, float]]]
    travel: Points


Band = tuple[float, float]


class PublishedRow(Row):
    """Amps for one thickness, by position, then by the handbooks' four kinds of joint."""

    thickness_mm: float
    argon_l_min: Band
    flat: dict[str, Band]
    vertical: dict[str, Band] = {}
    overhead: dict[str, Band] = {}

    def bands(self, position: str) -> dict[str, Band]:
        """The bands of a position, none where nothing is printed; one row stands for horizontal and
        vertical.
        """
        named = "vertical" if position == "horizontal" else position
        return cast(dict[str, Band], getattr(self, named))


class Published(Row):
    source: str
    shop_rule_a_per_mm: float
    row: list[PublishedRow]


def _table() -> JointTable:
    return read_table("joints", JointTable)


def published() -> Published:
    """The handbooks' amps."""
    return read_table("published", Published)


def _along(points: list[tuple[float, float]], at: float) -> float:
    x, y = zip(*points, strict=True)
    return float(np.interp(at, x, y))


def joints() -> list[Joint]:
    """Every joint, in the table's order."""
    return _table().joint


@cache
def find_joint(key: str) -> Joint:
    """The joint of that name."""
    return next(joint for joint in joints() if joint.key == key)


def position_factor(position: str, thickness_mm: float) -> float:
    """Share of the flat position's heat: all of it on thin sheet, 10 to 18 % less on plate out of
    position.
    """
    return _along(_table().positions[position], thickness_mm)


def usual_travel_mm_s(thickness_mm: float) -> float:
    """Hand travel, mm/s, that goes with an effective thickness; held flat beyond the table's ends."""
    return _along(_table().travel.points, thickness_mm)


def handbook_band_a(thickness_mm: float, joint: str = "butt", position: str = "flat") -> Band | None:
    """Amps that handbooks give for this thickness, joint and position, or None outside what they print."""
    kind = find_joint(joint).handbook
    rows = [row for row in published().row if row.bands(position)]
    x = [row.thickness_mm for row in rows]
    if kind is None or not x[0] <= thickness_mm <= x[-1]:
        return None
    bands = [row.bands(position)[kind] for row in rows]
    low, high = (np.interp(thickness_mm, x, [band[end] for band in bands]) for end in (0, 1))
    return float(low), float(high)


def handbook_argon_l_min(thickness_mm: float) -> Band:
    """Argon that handbooks give for a thickness, L/min; held flat beyond what they print."""
    x = [row.thickness_mm for row in published().row]
    low, high = (
        np.interp(thickness_mm, x, [row.argon_l_min[end] for row in published().row]) for end in (0, 1)
    )
    return float(low), float(high)


def shop_rule_a(thickness_mm: float) -> float:
    """The shop rule of 40 A per mm (1 A per 0.001 in)."""
    return published().shop_rule_a_per_mm * thickness_mm
