"""Reading a bead: readings, verdict, coefficients that a coupon moves, the one next change."""

from anvilsong.core.bead.bead_models import Shot, border_at_mm
from anvilsong.core.bead.calibration import (
    MOST_COUPONS,
    Calibration,
    Fitted,
    Range,
    border_range_mm,
    calibrate,
)
from anvilsong.core.bead.change import change_by_looks, next_change
from anvilsong.core.bead.change_words import effect_words
from anvilsong.core.bead.comparing import Comparison, compare
from anvilsong.core.bead.control import CHECKS, LEAST_RUNS, Chart, Usual, control_chart, usual_place
from anvilsong.core.bead.coupon import JudgedWord, Looks, Readings, measured_whole
from anvilsong.core.bead.evidence import Case, figures_for
from anvilsong.core.bead.fault_signs import find_sign, signs, signs_named
from anvilsong.core.bead.faults import Likely, Tried, likely_causes, measured_against, spoken_against
from anvilsong.core.bead.judging import FIRST, MORE, SCALES
from anvilsong.core.bead.ladder import fitted_to, next_rung
from anvilsong.core.bead.next import NextChange
from anvilsong.core.bead.repeats import HandScatter, border_beside_mm, hand_scatter, student_z
from anvilsong.core.bead.simulated import Hand, run_coupon
from anvilsong.core.bead.tip_fit import TipFit
from anvilsong.core.bead.trends import Month, Trend, border_over_share, hand_by_month, width_over_amps
from anvilsong.core.bead.verdict import WIDTH_TOLERANCE, LooksVerdict, Verdict, as_run, read, read_looks

__all__ = [
    "CHECKS",
    "FIRST",
    "LEAST_RUNS",
    "MORE",
    "MOST_COUPONS",
    "SCALES",
    "WIDTH_TOLERANCE",
    "Calibration",
    "Case",
    "Chart",
    "Comparison",
    "Fitted",
    "Hand",
    "HandScatter",
    "JudgedWord",
    "Likely",
    "Looks",
    "LooksVerdict",
    "Month",
    "NextChange",
    "Range",
    "Readings",
    "Shot",
    "TipFit",
    "Trend",
    "Tried",
    "Usual",
    "Verdict",
    "as_run",
    "border_at_mm",
    "border_beside_mm",
    "border_over_share",
    "border_range_mm",
    "calibrate",
    "change_by_looks",
    "compare",
    "control_chart",
    "effect_words",
    "figures_for",
    "find_sign",
    "fitted_to",
    "hand_by_month",
    "hand_scatter",
    "likely_causes",
    "measured_against",
    "measured_whole",
    "next_change",
    "next_rung",
    "read",
    "read_looks",
    "run_coupon",
    "signs",
    "signs_named",
    "spoken_against",
    "student_z",
    "usual_place",
    "width_over_amps",
]
