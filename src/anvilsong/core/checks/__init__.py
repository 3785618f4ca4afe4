"""Limits: what is refused, what is broken or near, and how much of each limit is used."""

from anvilsong.core.checks.limits import refusals, worst_first
from anvilsong.core.checks.outcomes import Outcome, outcome
from anvilsong.core.checks.pool import MELT_AMBER

__all__ = ["MELT_AMBER", "Outcome", "outcome", "refusals", "worst_first"]
