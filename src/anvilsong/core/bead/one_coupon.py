"""The model moved to agree with one coupon, so that the next change starts from what was measured."""

from __future__ import annotations

from collections.abc import Callable

from anvilsong.core.bead.coupon import Readings
from anvilsong.core.coefficients import Coefficients, nominal
from anvilsong.core.job import Job
from anvilsong.core.model import consequences
from anvilsong.core.roots import root
from anvilsong.core.settings import Settings

HEAT_FACTOR_RANGE, DOSE_RANGE = (0.75, 1.30), (1 / 20, 6.0)


def fit_one(job: Job, settings: Settings, readings: Readings, c: Coefficients | None = None) -> Coefficients:
    """Coefficients with which the model gives this coupon's bead and border, as far as sensible values reach.

    The heat factor is moved until the pool is as wide as the bead, then the clearing dose until the border
    agrees.
    ``settings`` are those of the coupon, at the speed the hand really went.

    Notes
    -----
    One coupon fixes the point that the next step starts from; it says nothing yet about the scatter.
    """
    c = c or nominal()

    def pool_error(factor: float) -> float:
        return (
            consequences(job, settings, c=c.model_copy(update={"heat_factor": factor})).pool_width_mm
            - readings.bead_width_mm
        )

    hot = c.model_copy(update={"heat_factor": _solve(pool_error, *HEAT_FACTOR_RANGE)})

    def border_error(times: float) -> float:
        moved = hot.model_copy(update={"clearing_dose_c_mm2": c.clearing_dose_c_mm2 * times})
        seen = consequences(job, settings, c=moved)
        # The signed border keeps its slope where the cleaned strip is narrower than the bead.
        return readings.border_mm - (seen.cleaned_width_mm - seen.pool_width_mm) / 2

    return hot.model_copy(
        update={"clearing_dose_c_mm2": c.clearing_dose_c_mm2 * _solve(border_error, *DOSE_RANGE)}
    )


def _solve(error: Callable[[float], float], low: float, high: float) -> float:
    """Root of a rising error between two ends; the nearer end when there is none between."""
    if error(low) >= 0:
        return low
    if error(high) <= 0:
        return high
    return root(error, low, high)
