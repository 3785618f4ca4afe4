"""Reading a bead: readings, verdict, coefficients that a coupon moves, the one next change."""

from anvilsong.core.bead.bead_models import Shot
from anvilsong.core.bead.calibration import (
    MOST_COUPONS,
    Calibration,
    Fitted,
    Range,
    border_range_mm,
    calibrate,
)
from anvilsong.core.bead.change import next_change
from anvilsong.core.bead.change_words import effect_words
from anvilsong.core.bead.coupon import Readings
from anvilsong.core.bead.ladder import next_rung
from anvilsong.core.bead.next import NextChange
from anvilsong.core.bead.verdict import Verdict, as_run, read

__all__ = [
    "MOST_COUPONS",
    "Calibration",
    "Fitted",
    "NextChange",
    "Range",
    "Readings",
    "Shot",
    "Verdict",
    "as_run",
    "border_range_mm",
    "calibrate",
    "effect_words",
    "next_change",
    "next_rung",
    "read",
]
