"""Areas of weld sections, mm², from closed formulas."""

from __future__ import annotations

import math

CROWN_HEIGHT_PER_WIDTH = 0.15
OPEN_CORNER_ROUND = 0.285
FACE_MELT_BACK_MM = 1.0


def crown_mm2(width_mm: float, height_mm: float | None = None) -> float:
    """A crown over a flat face: 2/3 × width × height; height 0.15 × width unless given."""
    return 2 / 3 * width_mm * (CROWN_HEIGHT_PER_WIDTH * width_mm if height_mm is None else height_mm)


def gap_mm2(gap_mm: float, thickness_mm: float) -> float:
    """A straight gap through the plate."""
    return gap_mm * thickness_mm


def v_groove_mm2(thickness_mm: float, angle_deg: float, root_face_mm: float, gap_mm: float = 0.0) -> float:
    """A V groove below the face: (t − land)²·tan(angle/2) + gap × t."""
    return (thickness_mm - root_face_mm) ** 2 * math.tan(math.radians(angle_deg / 2)) + gap_mm2(
        gap_mm, thickness_mm
    )


def fillet_mm2(leg_mm: float, convexity_mm: float = 0.0) -> float:
    """A fillet of equal legs: leg²/2, and 2/3 × face × convexity."""
    return leg_mm**2 / 2 + 2 / 3 * leg_mm * math.sqrt(2) * convexity_mm


def open_corner_mm2(a_mm: float, b_mm: float, rounded: bool = True) -> float:
    """An outside corner with its inner edges touching: t_a·t_b/2 for a flat face, 0.285·t_a·t_b more for a
    rounded one.
    """
    return a_mm * b_mm * (0.5 + (OPEN_CORNER_ROUND if rounded else 0.0))


def half_lapped_corner_mm2(a_mm: float, b_mm: float, rounded: bool = True) -> float:
    """An outside corner half lapped: a quarter of the open one."""
    return open_corner_mm2(a_mm, b_mm, rounded) / 4


def gap_dilution(
    no_gap_dilution: float, crown: float, gap: float, width_mm: float, thickness_mm: float
) -> float:
    """Dilution of a square butt with a gap, from its section.

    The base melted without a gap is what the usual dilution says of the crown, B0 = crown·D/(1 − D); a gap
    takes gap/width
    of it away and adds gap × t of filler: D' = B0·(1 − gap/w) / (B0·(1 − gap/w) + crown + gap·t).
    """
    base = crown * no_gap_dilution / (1 - no_gap_dilution) * max(0.0, 1 - gap / width_mm)
    return base / (base + crown + gap_mm2(gap, thickness_mm))


def v_groove_dilution(
    thickness_mm: float, angle_deg: float, root_face_mm: float, gap: float, root_width_mm: float
) -> float:
    """Dilution of a V butt from its section: both faces melt back 1 mm, the root face over the root pool's
    width.
    """
    face = (thickness_mm - root_face_mm) / math.cos(math.radians(angle_deg / 2))
    base = 2 * face * FACE_MELT_BACK_MM + root_face_mm * max(0.0, root_width_mm - gap)
    return base / (base + v_groove_mm2(thickness_mm, angle_deg, root_face_mm, gap) + crown_mm2(root_width_mm))
