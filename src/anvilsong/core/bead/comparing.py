"""Two coupons side by side: which numbers differ by more than the hand does from coupon to coupon."""

from __future__ import annotations

from math import hypot, log, sqrt

from anvilsong.core import say
from anvilsong.core.bead.bead_models import BORDER_SCATTER, BORDER_SCATTER_MM, WIDTH_SCATTER
from anvilsong.core.bead.coupon import Readings
from anvilsong.core.said import Words
from anvilsong.core.value import Value
from anvilsong.core.words import sentence

CLEAR_OVER = 1.96  # scatters of a difference: nineteen of twenty pairs of the same settings lie nearer
TRAVEL_SCATTER = 0.06
TAKEN_BY_THE_BEAD = 0.3  # of its width, from each border: (1 − the growth of the cleaned strip)/2


class Difference(Value):
    """One number of both coupons. ``apart`` is their difference in scatters of such a difference."""

    words: str
    one: Words
    other: Words
    apart: float

    @property
    def is_clear(self) -> bool:
        """Whether it is more than the hand makes by itself."""
        return abs(self.apart) > CLEAR_OVER


class Comparison(Value):
    """What two coupons say beside one another."""

    differences: tuple[Difference, ...]

    @property
    def said(self) -> Words:
        """The answer in a sentence."""
        clear = [each for each in self.differences if each.is_clear]
        if not clear:
            return sentence("bead.these_two_are_same")
        named = say.joined(*(say.within(each.words) for each in clear), by=" and ")
        return sentence("bead.they_differ_more_than", named=named)


def compare(
    one: Readings, other: Readings, width_scatter: float = WIDTH_SCATTER, border_scatter: float = 1.0
) -> Comparison:
    """Bead, border, evenness and speed of two coupons.

    apart = (other − one)/√(σ₁² + σ₂²), widths and speeds in logarithms

    Parameters
    ----------
    width_scatter : of one hand's bead widths, as a share (`Calibration.width_scatter`)
    border_scatter : of its borders, in usual ones (`Calibration.border_scatter`)
    """
    own_sd = [
        border_scatter * hypot(BORDER_SCATTER_MM, BORDER_SCATTER * each.border_mm) for each in (one, other)
    ]
    # A bead that came out wider takes it from its borders.
    border_sd = [
        hypot(own, TAKEN_BY_THE_BEAD * width_scatter * each.bead_width_mm)
        for own, each in zip(own_sd, (one, other), strict=True)
    ]
    sides = [each.border_left_mm - each.border_right_mm for each in (one, other)]
    return Comparison(
        differences=(
            Difference(
                words="Bead width",
                one=say.mm(one.bead_width_mm),
                other=say.mm(other.bead_width_mm),
                apart=log(other.bead_width_mm / one.bead_width_mm) / (sqrt(2) * width_scatter),
            ),
            Difference(
                words="Border",
                one=say.mm(one.border_mm),
                other=say.mm(other.border_mm),
                apart=(other.border_mm - one.border_mm) / hypot(*border_sd),
            ),
            Difference(
                words="Left against right",
                one=say.mm(abs(sides[0])),
                other=say.mm(abs(sides[1])),
                # Each side scatters √2 times as far as their mean, and two sides √2 times that.
                apart=(abs(sides[1]) - abs(sides[0])) / (2 * hypot(*own_sd)),
            ),
            Difference(
                words="Travel speed",
                one=say.mm_s(one.travel_mm_s),
                other=say.mm_s(other.travel_mm_s),
                apart=log(other.travel_mm_s / one.travel_mm_s) / (sqrt(2) * TRAVEL_SCATTER),
            ),
        )
    )
