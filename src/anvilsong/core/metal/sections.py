"""Areas of weld sections, mm², from closed formulas."""

from __future__ import annotations

import math

CROWN_HEIGHT_PER_WIDTH = 0.15
CLOSED_CORNER, OPEN_CORNER_ROUND = 0.0, 0.285


def crown_mm2(width_mm: float, height_mm: float | None = None) -> float:
    """A crown over a flat face: 2/3 × width × height; height 0.15 × width unless given."""
    return 2 / 3 * width_mm * (CROWN_HEIGHT_PER_WIDTH * width_mm if height_mm is None else height_mm)


def gap_mm2(gap_mm: float, thickness_mm: float) -> float:
    """A straight gap through the plate."""
    return gap_mm * thickness_mm


def v_groove_mm2(thickness_mm: float, angle_deg: float, root_face_mm: float, gap_mm: float = 0.0) -> float:
    """A V groove below the face: (t − land)²·tan(angle/2) + gap × t."""
    return (thickness_mm - root_face_mm) ** 2 * math.tan(math.radians(angle_deg / 2)) + gap_mm2(gap_mm, thickness_mm)


def fillet_mm2(leg_mm: float, convexity_mm: float = 0.0) -> float:
    """A fillet of equal legs: leg²/2, and 2/3 × face × convexity."""
    return leg_mm**2 / 2 + 2 / 3 * leg_mm * math.sqrt(2) * convexity_mm


def open_corner_mm2(a_mm: float, b_mm: float, rounded: bool = True) -> float:
    """An outside corner with its inner edges touching: t_a·t_b/2 for a flat face, 0.285·t_a·t_b more for a rounded one."""
    return a_mm * b_mm * (0.5 + (OPEN_CORNER_ROUND if rounded else 0.0))
