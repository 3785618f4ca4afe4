"""A ladder's rungs beside one another: what was set differently, which came nearest, how near each came."""

from __future__ import annotations

from collections.abc import Sequence

from anvilsong.core import say
from anvilsong.core.bead import LooksVerdict
from anvilsong.core.registry import BY_KEY, SETTINGS
from anvilsong.core.said import Words
from anvilsong.core.words import sentence
from anvilsong.store import book
from anvilsong.store.models import CouponRow
from anvilsong.web.figures import setting_words

FOOT = BY_KEY["amps_run"].words
FLAWED = 1.0  # tolerances that a crack, a missing root, one side alone, or a sign of a fault counts for
BY_WORD = {"keep": 0.5, "nearly": 1.0, "no": 2.0}  # tolerances that the welder's word stands for


def set_apart(one: CouponRow, other: CouponRow) -> list[tuple[str, Words, Words]]:
    """The settings that differ between two coupons: words, and what each had."""
    if one.plan_id == other.plan_id:
        return []
    made = [book.read_plan(coupon.plan) for coupon in (one, other)]
    settings = [each.plan.settings for each in made if each is not None and each.plan.settings is not None]
    if len(settings) < 2:
        return []
    before, after = settings
    rows = [
        (entry.words, setting_words(before, entry.key), setting_words(after, entry.key)) for entry in SETTINGS
    ]
    return [(words, was, now) for words, was, now in rows if was != now]


def changed_by_hand(
    apart: Sequence[tuple[str, Words, Words]], control: str
) -> list[tuple[str, Words, Words]]:
    """Of what differs, what somebody set: under a pedal the foot follows what else is set."""
    return [row for row in apart if control != "pedal" or row[0] != FOOT]


def several_said(changed: Sequence[tuple[str, Words, Words]]) -> Words:
    """A warning where more than one setting was changed, with what can still be concluded; else nothing."""
    if len(changed) < 2:
        return ""
    names = [say.within(words) for words, *_ in changed]
    named = say.listed(names)
    return sentence("web.settings_were_changed_once", changed=len(changed), named=named)


def score_of(verdict: LooksVerdict) -> float | None:
    """How far a coupon is from what is wanted, in tolerances: 1 is its edge, less is better. What was not
    measured goes by the welder's own word; None where nothing was said either.
    """
    misses = [abs(miss) for miss in (verdict.border_miss, verdict.width_miss) if miss is not None]
    if not misses:
        if verdict.overall is None:
            return None
        misses = [BY_WORD[verdict.overall]]
    return max(misses) + FLAWED * (bool(verdict.flaws) + verdict.uneven + bool(verdict.signs))


def nearest(verdicts: Sequence[LooksVerdict | None]) -> int | None:
    """The place of the coupon that came nearest, the newer of two alike; None where none was judged."""
    scores = [None if verdict is None else score_of(verdict) for verdict in verdicts]
    judged = [(score, -place) for place, score in enumerate(scores) if score is not None]
    return -min(judged)[1] if judged else None
