"""A simulated shop and hand: coupons as a shop with coefficients of its own would run them.

For tests, benches and practice: what it draws is known, so that what is read from it can be judged.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from anvilsong.core.bead.bead_models import (
    BORDER_SCATTER,
    BORDER_SCATTER_MM,
    WIDTH_SCATTER,
    border_at_mm,
    moved,
)
from anvilsong.core.bead.calibration import SPREAD_OF_SHOPS
from anvilsong.core.bead.coupon import Readings
from anvilsong.core.bead.repeats import TRAVEL_SCATTER
from anvilsong.core.coefficients import Coefficients, nominal
from anvilsong.core.job import Job
from anvilsong.core.model import figures, situation
from anvilsong.core.settings import Settings

RUN_MM = 100.0


@dataclass(frozen=True)
class Hand:
    """How far one hand's coupons lie apart; 1 is usual."""

    spread: float = 1.0


def some_shop(rng: np.random.Generator, apart: float = 1.0) -> Coefficients:
    """Coefficients of a shop, as shops lie apart (`calibration.SPREAD_OF_SHOPS`)."""
    theta = np.array([rng.normal(0.0, apart * spread) for spread in SPREAD_OF_SHOPS.values()])
    return nominal().model_copy(update=moved(nominal(), list(SPREAD_OF_SHOPS), theta))


def run_coupon(
    job: Job, settings: Settings, c: Coefficients, rng: np.random.Generator, hand: Hand | None = None
) -> Readings:
    """What a ruler would say of a coupon run with these settings in a shop of these coefficients.

    The hand's speed, the bead and each border scatter as `calibration` takes for usual.
    """
    spread = (hand or Hand()).spread
    travel = settings.travel_mm_s * float(np.exp(rng.normal(0.0, TRAVEL_SCATTER * spread)))
    ran = settings.model_copy(update={"travel_mm_s": travel})
    pool = float(figures(situation(job), ran.wave(), ran, c).pool_width_mm)
    bead = min(max(pool * float(np.exp(rng.normal(0.0, WIDTH_SCATTER * spread))), 0.5), 60.0)
    border = max(border_at_mm(job, ran, bead, c), 0.0)
    apart = np.hypot(BORDER_SCATTER_MM, BORDER_SCATTER * border) * spread
    # Both sides together scatter as one border does; apart they scatter more.
    left, right = border + rng.normal(0.0, apart * np.sqrt(2), 2)
    return Readings(
        bead_width_mm=bead,
        border_left_mm=min(max(left, 0.0), 30.0),
        border_right_mm=min(max(right, 0.0), 30.0),
        length_mm=RUN_MM,
        seconds=RUN_MM / travel,
    )
