"""Trials as welders run them: series of coupons with one setting stepped, two set-ups judged blind, and what
they tell.
"""

from anvilsong.core.trials.blind import (
    LEAST_PAIRS,
    MOST_PAIRS,
    Answer,
    Blind,
    by_guessing,
    shuffled,
    sureness,
)
from anvilsong.core.trials.choosing import Pointed, pointed_to
from anvilsong.core.trials.ready_made import ReadyMade, ready_made
from anvilsong.core.trials.series import (
    LEAST_VALUES,
    MOST_BEADS,
    MOST_VALUES,
    STEPPED,
    Axis,
    Expected,
    Layout,
    Run,
    Series,
    Spread,
    expected,
    make_series,
    set_to,
    spread,
)
from anvilsong.core.trials.telling import Told, seen_apart, told

__all__ = [
    "LEAST_PAIRS",
    "LEAST_VALUES",
    "MOST_BEADS",
    "MOST_PAIRS",
    "MOST_VALUES",
    "STEPPED",
    "Answer",
    "Axis",
    "Blind",
    "Expected",
    "Layout",
    "Pointed",
    "ReadyMade",
    "Run",
    "Series",
    "Spread",
    "Told",
    "by_guessing",
    "expected",
    "make_series",
    "pointed_to",
    "ready_made",
    "seen_apart",
    "set_to",
    "shuffled",
    "spread",
    "sureness",
    "told",
]
