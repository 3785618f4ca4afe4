"""Two coupons side by side: which numbers differ by more than the hand does from coupon to coupon."""

from __future__ import annotations

from collections.abc import Iterator
from math import hypot, log, sqrt

from anvilsong.core import say
from anvilsong.core.bead.coupon import Looks
from anvilsong.core.bead.judging import SCALES
from anvilsong.core.bead.repeats import JUDGED_SCATTER, HandScatter, border_apart, width_apart
from anvilsong.core.said import Words
from anvilsong.core.value import Value
from anvilsong.core.words import sentence


class Difference(Value):
    """One number of both coupons. ``apart`` is their difference in scatters of such a difference."""

    words: str
    one: Words
    other: Words
    apart: float
    clear_over: float

    @property
    def is_clear(self) -> bool:
        """Whether it is more than the hand makes by itself."""
        return abs(self.apart) > self.clear_over


class Comparison(Value):
    """What two coupons say beside one another."""

    differences: tuple[Difference, ...]
    hand: HandScatter

    @property
    def said(self) -> Words:
        """The answer in a sentence."""
        if not self.differences:
            return sentence("bead.nothing_measured_on_both")
        clear = [each for each in self.differences if each.is_clear]
        if not clear:
            return sentence("bead.these_two_are_same")
        named = say.listed([say.within(each.words) for each in clear])
        return sentence("bead.they_differ_more_than", named=named)


def compare(one: Looks, other: Looks, hand: HandScatter | None = None) -> Comparison:
    """Bead, border, evenness, speed and judgements of two coupons, as far as both have them.

    apart = (other − one)/√(σ₁² + σ₂²), widths and speeds in logarithms

    Parameters
    ----------
    hand : how far this hand's coupons of equal settings lie apart (`repeats.hand_scatter`); usual when left
        out
    """
    hand = hand or HandScatter()
    rows = [*_measured(one, other, hand), *_judged(one, other)]
    differences = tuple(
        Difference(words=words, one=was, other=now, apart=apart, clear_over=hand.clear_over)
        for words, was, now, apart in rows
    )
    return Comparison(differences=differences, hand=hand)


Row = tuple[str, Words, Words, float]


def _measured(one: Looks, other: Looks, hand: HandScatter) -> Iterator[Row]:
    width = width_apart(one, other, hand)
    if width is not None:
        yield "Bead width", say.mm(one.bead_width_mm or 0), say.mm(other.bead_width_mm or 0), width
    border = border_apart(one, other, hand)
    if border is not None:
        yield "Border", say.mm(one.border_mm or 0), say.mm(other.border_mm or 0), border
    if one.unevenness is not None and other.unevenness is not None:
        sides = [abs((each.border_left_mm or 0) - (each.border_right_mm or 0)) for each in (one, other)]
        own = [hand.own_border_sd_mm(each.border_mm or 0) for each in (one, other)]
        # Each side scatters √2 times as far as their mean, and two sides √2 times that.
        apart = (sides[1] - sides[0]) / (2 * hypot(*own))
        yield "Left against right", say.mm(sides[0]), say.mm(sides[1]), apart
    if one.travel_mm_s is not None and other.travel_mm_s is not None:
        apart = log(other.travel_mm_s / one.travel_mm_s) / (sqrt(2) * hand.travel)
        yield "Travel speed", say.mm_s(one.travel_mm_s), say.mm_s(other.travel_mm_s), apart


def _judged(one: Looks, other: Looks) -> Iterator[Row]:
    """Judgements by sight, in places of their scales."""
    for word, was in one.judged.items():
        now = other.judged.get(word)
        if now is not None:
            scale = SCALES[word]
            apart = (now - was) / (sqrt(2) * JUDGED_SCATTER)
            yield scale.words, scale.places[was], scale.places[now], apart
