"""Joints: heat paths, current factors, and the areas of their sections."""

from __future__ import annotations

from functools import cache
from typing import Literal

import numpy as np

from anvilsong.core.tables import Row, read_table

JointKind = Literal["butt", "fillet", "corner", "edge", "build_up"]


class Joint(Row):
    """A kind of joint. ``access_deg`` is the open angle the torch works in."""

    key: str
    words: str
    paths_a: int
    paths_b: int
    current_factor: float
    dilution: float
    kind: JointKind
    access_deg: float

    def effective_thickness_mm(self, a_mm: float, b_mm: float) -> float:
        """Mean thickness over the heat paths: (n_a·a + n_b·b)/(n_a + n_b), mm."""
        return self.weighted(a_mm, b_mm)

    def weighted(self, a: float, b: float) -> float:
        """Mean of a property of the two sides over the heat paths."""
        return (self.paths_a * a + self.paths_b * b) / (self.paths_a + self.paths_b)


class Points(Row):
    points: list[tuple[float, float]]


class Handbook(Row):
    points: list[tuple[float, float, float]]
    shop_rule_a_per_mm: float


class JointTable(Row):
    source: str
    joint: list[Joint]
    positions: dict[str, float]
    travel: Points
    handbook: Handbook


def _table() -> JointTable:
    return read_table("joints", JointTable)


def joints() -> list[Joint]:
    return _table().joint


@cache
def find_joint(key: str) -> Joint:
    return next(joint for joint in joints() if joint.key == key)


def position_factor(position: str) -> float:
    """Share of the flat position's heat that the position allows: −10 % vertical, −12 % overhead."""
    return _table().positions[position]


def usual_travel_mm_s(thickness_mm: float) -> float:
    """Hand travel, mm/s, that goes with an effective thickness; held flat beyond the table's ends."""
    x, y = zip(*_table().travel.points, strict=True)
    return float(np.interp(thickness_mm, x, y))


def handbook_band_a(thickness_mm: float) -> tuple[float, float] | None:
    """Amps that handbooks give for a flat butt weld of this thickness, or None outside their range."""
    x, low, high = zip(*_table().handbook.points, strict=True)
    if not x[0] <= thickness_mm <= x[-1]:
        return None
    return float(np.interp(thickness_mm, x, low)), float(np.interp(thickness_mm, x, high))


def shop_rule_a(thickness_mm: float) -> float:
    """The shop rule of 40 A per mm (1 A per 0.001 in)."""
    return _table().handbook.shop_rule_a_per_mm * thickness_mm
