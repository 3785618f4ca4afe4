"""A coupon as a rung of a ladder: its drawing, its words, what was changed since the one before."""

from __future__ import annotations

from contextlib import suppress
from typing import Any

from anvilsong.core import say
from anvilsong.core.bead import Looks, LooksVerdict, NextChange, Readings
from anvilsong.core.errors import BadInput
from anvilsong.core.said import Words
from anvilsong.core.words import sentence
from anvilsong.store import coupons
from anvilsong.store.looks import looks_of, verdict_of
from anvilsong.store.models import CouponRow
from anvilsong.store.reading import readable
from anvilsong.web.drawings.coupon import coupon_drawing
from anvilsong.web.frame import part
from anvilsong.web.rung_words import changed_by_hand, set_apart, several_said

MEASURED_WORDS = {
    "bead_width_mm": "bead width",
    "border_left_mm": "left border",
    "border_right_mm": "right border",
    "length_mm": "length",
    "seconds": "seconds",
}


def rung_of(coupon: CouponRow, before: CouponRow | None, control: str = "pedal") -> dict[str, Any]:
    """One coupon as a rung: its drawing, its words, and what was changed since the one before.

    A verdict that cannot be read is given anew; a rung whose readings cannot be read says so.
    """
    changed = (
        coupon.plan.words if before is None or coupon.plan_id != before.plan_id else "The same settings again"
    )
    rung: dict[str, Any] = {
        "coupon": coupon,
        "changed": changed,
        "several": several_said(changed_by_hand(set_apart(before, coupon), control)) if before else "",
        "corrected": len(coupon.readings) > 1,
        "readings": None,
        "verdict": None,
        "change": None,
    }
    reading = coupon.readings[-1] if coupon.readings else None
    readings = looks_of(coupon)
    if reading is None or readings is None:
        return rung
    verdict, change = verdict_of(coupon), readable(NextChange, reading.change)
    if verdict is None or change is None:
        with suppress(BadInput):
            verdict, change = coupons.judge(coupon.plan, readings)
    if verdict is None or change is None:
        return rung
    expected = _expected(readings, verdict)
    drawing = part(
        "coupon",
        lambda: coupon_drawing(readings, f"Coupon {coupon.number}: {verdict.headline}", expected=expected),
    )
    drawn_as_expected = part("coupon", lambda: coupon_drawing(expected, "As expected", [readings]))
    return rung | {
        "readings": readings,
        "verdict": verdict,
        "change": change,
        "drawing": drawing,
        "expected": drawn_as_expected,
        "unmeasured": unmeasured_said(readings),
    }


def _expected(readings: Looks, verdict: LooksVerdict) -> Looks:
    """The coupon that the model expected, at the speed the hand really went."""
    border = verdict.expected_border_mm
    numbers: dict[str, Any] = {
        "bead_width_mm": verdict.expected_width_mm, "border_left_mm": border, "border_right_mm": border,
        "ripple_pitch_mm": None, "border_stray_mm": None, "judged": {}, "crater": None,
    }  # fmt: skip
    return readings.model_copy(update=numbers)


def unmeasured_said(looks: Looks) -> Words:
    """What was not measured of a coupon, and what it does not count in for that; nothing of a whole one."""
    if isinstance(looks, Readings):
        return ""
    missing = [words for name, words in MEASURED_WORDS.items() if getattr(looks, name) is None]
    return sentence("web.not_measured_does_not_count", missing=say.listed(missing))
