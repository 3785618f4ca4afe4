"""What a shop's coupons say of the model's coefficients, and how far that can be trusted.

Coupons of one machine and torch move four coefficients: the heat factor and the power of frequency (from
bead widths), the clearing dose and the foot (from borders, at the width the bead really had), in logarithms
from nominal, which weighs as much as three coupons (`student_fit`). Ranges are ±1.645 of the root of the
covariance: the truth lies in nine of ten.

References
----------
Usual spreads: border ±25 %, amps ±12 % (data/coefficients.toml says which coefficients coupons may move).
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from anvilsong.core.bead.bead_models import (
    WIDTH_SCATTER,
    BorderModel,
    CoefficientKey,
    Shot,
    WidthModel,
    as_if,
    moved,
)
from anvilsong.core.bead.student_fit import is_odd, student_fit
from anvilsong.core.bead.tip_fit import TipFit, fit_tips
from anvilsong.core.bead.width_fit import fit_widths
from anvilsong.core.coefficients import Coefficients, nominal
from anvilsong.core.job import Job
from anvilsong.core.settings import Settings
from anvilsong.core.value import Value

WIDTH_KEYS: tuple[CoefficientKey, ...] = ("heat_factor", "width_frequency_power")
BORDER_KEYS: tuple[CoefficientKey, ...] = ("clearing_dose_c_mm2", "foot")
# Between shops, of the logarithm (of the power itself): 0.073 is amps ±12 %, the two of the border ±25 %.
SPREAD_OF_SHOPS: dict[CoefficientKey, float] = {
    "heat_factor": 0.073,
    "width_frequency_power": 0.03,
    "clearing_dose_c_mm2": 0.12,
    "foot": 0.035,
}
NOMINAL_WEIGHS = 3.0  # coupons, of bead widths
# Of borders the usual spread between shops weighs nearly as much by itself, since one coupon says little of
# dose and foot apart; with this share beside it nominal is about three coupons there too.
BORDER_LEANS = 0.3
MOST_COUPONS, NINE_OF_TEN = 40, 1.645


class Fitted(Value):
    """One coefficient: nominal, what the coupons say, and between what nine of ten shops with these coupons
    are.
    """

    key: CoefficientKey
    nominal: float
    value: float
    low: float
    high: float


class Miss(Value):
    """How far a coupon lies from the fitted model, in scatters; ``left_out`` when it is too far to count."""

    width: float
    border: float
    left_out: bool


class Calibration(Value):
    """What some coupons say. With none it is nominal, with the usual ranges."""

    coefficients: Coefficients
    fitted: tuple[Fitted, ...]
    misses: tuple[Miss, ...] = ()
    """One for each coupon given, in their order."""
    width_scatter: float = WIDTH_SCATTER
    border_scatter: float = 1.0
    """The border's scatter in usual ones."""
    covariance: tuple[tuple[float, ...], ...]
    """Of the four, in the order of ``fitted``."""
    tips: TipFit | None = None
    """What the tungsten's tips bear; None where none was looked at."""

    @property
    def used(self) -> int:
        """How many coupons count."""
        return sum(not miss.left_out for miss in self.misses)

    @property
    def amps_share(self) -> float:
        """Half the range of amps for the same pool, as a share: 1.645·sd(ln heat factor)."""
        return NINE_OF_TEN * float(np.sqrt(self.covariance[0][0]))


class Range(Value):
    """From low to high, where the truth lies in nine of ten shops."""

    low: float
    high: float


def calibrate(
    shots: Sequence[Shot],
    start: Coefficients | None = None,
    nominal_weighs: float = NOMINAL_WEIGHS,
    shops_apart: float = 1.0,
    own_law: bool = True,
    balled_at: Sequence[float] = (),
) -> Calibration:
    """Coefficients and their ranges from the coupons of one machine and torch, the newest 40 of them.

    Parameters
    ----------
    shots : the coupons, oldest first
    start : what they move; nominal when left out
    nominal_weighs : how many coupons it counts for, beside what is usual between shops
    shops_apart : how far shops lie apart, in usual ones
    own_law : whether the hand's width may follow the heat by another law than the model's (`width_fit`); who
        goes on with the model's widths asks without
    balled_at : loads of tungstens that were seen to ball on scrap
    """
    start = start or nominal()
    given = list(shots)[-MOST_COUPONS:]
    apart = [shops_apart * SPREAD_OF_SHOPS[key] for key in (*WIDTH_KEYS, *BORDER_KEYS)]
    of_shops = np.diag(np.square(apart[:2]))
    widths = (
        fit_widths(given, start, of_shops, nominal_weighs)
        if own_law
        else student_fit(WidthModel(given, start), of_shops, nominal_weighs)
    )
    borders = student_fit(
        BorderModel(given, start), np.diag(np.square(apart[2:])), nominal_weighs * BORDER_LEANS
    )
    # The slope is fitted so that the heat is right; the model keeps its own.
    theta = np.concatenate([widths.theta, borders.theta])
    covariance = np.zeros((4, 4))
    covariance[:2, :2], covariance[2:, 2:] = widths.covariance, borders.covariance
    values = moved(start, (*WIDTH_KEYS, *BORDER_KEYS), theta)
    sd = np.sqrt(np.diag(covariance))
    rows = []
    for place, key in enumerate((*WIDTH_KEYS, *BORDER_KEYS)):
        low, high = (
            moved(start, (key,), theta[[place]] + side * NINE_OF_TEN * sd[place])[key] for side in (-1, 1)
        )
        rows.append(
            Fitted(key=key, nominal=float(getattr(nominal(), key)), value=values[key], low=low, high=high)
        )
    misses = tuple(
        Miss(width=float(w), border=float(b), left_out=bool(odd))
        for w, b, odd in zip(
            widths.misses, borders.misses, is_odd(widths.misses) | is_odd(borders.misses), strict=True
        )
    )
    tips = fit_tips(given, balled_at)
    values["tungsten_limit"] = tips.limit if tips.tips else start.tungsten_limit
    return Calibration(
        tips=tips if tips.tips else None,
        coefficients=start.model_copy(update=values),
        fitted=tuple(rows),
        misses=misses,
        width_scatter=WIDTH_SCATTER * widths.scale,
        border_scatter=borders.scale,
        covariance=tuple(tuple(float(each) for each in row) for row in covariance),
    )


def border_range_mm(made: Calibration, job: Job, settings: Settings, pool_width_mm: float) -> Range:
    """Where the border lies, mm, for a pool of this width; never under 0."""
    model = BorderModel([Shot(job, settings, as_if(settings, pool_width_mm))], made.coefficients)
    border, slope = model.at(np.zeros(2))
    half = NINE_OF_TEN * float(np.sqrt((slope @ np.array(made.covariance)[2:, 2:] @ slope.T)[0, 0]))
    return Range(low=max(0.0, float(border[0]) - half), high=max(0.0, float(border[0]) + half))
