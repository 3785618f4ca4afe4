"""Widths of pool that a sheet wants: to melt it through, with a root, or only to wet it."""

from __future__ import annotations

from anvilsong.core.heat.root import face_for_root_mm
from anvilsong.core.job import Job

# To what thickness a square edge is melted through from one side.
SQUARE_BUTT_LIMIT_MM = 4.8
# Pool width = 2.5 + 1.1·t to melt a sheet through, 2.5 + 0.6·t to wet it; thicker sheets are welded in
# passes.
POOL_AT_NOTHING_MM, POOL_PER_MM_THROUGH, POOL_PER_MM_WET, THICKEST_FOR_POOL_MM = 2.5, 1.1, 0.6, 10.0
PLANNED_ROOT = 0.45  # root over face


def pool_through_mm(thickness_mm: float) -> float:
    """Pool width, mm, that melts a sheet through: 2.5 + 1.1·t, t at most 10 mm."""
    return POOL_AT_NOTHING_MM + POOL_PER_MM_THROUGH * min(thickness_mm, THICKEST_FOR_POOL_MM)


def pool_with_root_mm(thickness_mm: float) -> float:
    """The same, but at least so wide that a root of 0.45 of it comes through (``heat.root``)."""
    return max(pool_through_mm(thickness_mm), face_for_root_mm(PLANNED_ROOT, thickness_mm))


def pool_for_mm(job: Job, mean_mm: float, through_mm: float) -> float:
    """Pool width, mm, of square edges: a root is asked for to 4.8 mm, and thicker where somebody says so.

    What it adds at 4.8 mm stays over it, until a plain pool is as wide: nothing jumps there.
    """
    plain = pool_through_mm(mean_mm)
    if job.penetration == "partial":
        return plain
    asked = through_mm if job.penetration == "full" else min(through_mm, SQUARE_BUTT_LIMIT_MM)
    return max(plain, pool_with_root_mm(asked))


def pool_wet_mm(thickness_mm: float) -> float:
    """Least pool width, mm, that wets a sheet without melting it through: 2.5 + 0.6·t, t at most 10 mm."""
    return POOL_AT_NOTHING_MM + POOL_PER_MM_WET * min(thickness_mm, THICKEST_FOR_POOL_MM)
