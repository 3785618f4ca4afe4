"""Limits: what is refused, what is broken or near, and how much of each limit is used."""

from anvilsong.core.checks.border import ABOUT_MM
from anvilsong.core.checks.gate import newly_broken
from anvilsong.core.checks.limits import refusals, worst_first
from anvilsong.core.checks.outcomes import Outcome, outcome
from anvilsong.core.checks.pool import CHILLS_SHARE, COLD_SHARE, HOT_SHARE, MELT_AMBER, is_near_root
from anvilsong.core.checks.shares import STOPS, Moved, limits_used, metal_cautions, moved

__all__ = [
    "ABOUT_MM",
    "CHILLS_SHARE",
    "COLD_SHARE",
    "HOT_SHARE",
    "MELT_AMBER",
    "STOPS",
    "Moved",
    "Outcome",
    "is_near_root",
    "limits_used",
    "metal_cautions",
    "moved",
    "newly_broken",
    "outcome",
    "refusals",
    "worst_first",
]
