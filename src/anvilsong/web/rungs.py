"""A coupon as a rung of a ladder: its drawing, its words, what was changed since the one before."""

from __future__ import annotations

from contextlib import suppress
from typing import Any

from anvilsong.core.bead import NextChange, Readings, Verdict
from anvilsong.core.errors import BadInput
from anvilsong.store import coupons
from anvilsong.store.models import CouponRow
from anvilsong.store.reading import readable
from anvilsong.web.drawings.coupon import coupon_drawing
from anvilsong.web.frame import part
from anvilsong.web.rung_words import changed_by_hand, set_apart, several_said


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
    readings = readable(Readings, reading.document) if reading else None
    if reading is None or readings is None:
        return rung
    verdict, change = readable(Verdict, reading.verdict), readable(NextChange, reading.change)
    if verdict is None or change is None:
        with suppress(BadInput):
            verdict, change = coupons.judge(coupon.plan, readings)
    if verdict is None or change is None:
        return rung
    drawing = part("coupon", lambda: coupon_drawing(readings, f"Coupon {coupon.number}: {verdict.headline}"))
    expected = part("coupon", lambda: coupon_drawing(_expected(readings, verdict), "As expected", [readings]))
    return rung | {
        "readings": readings,
        "verdict": verdict,
        "change": change,
        "drawing": drawing,
        "expected": expected,
    }


def _expected(readings: Readings, verdict: Verdict) -> Readings:
    """The coupon that the model expected, at the speed the hand really went."""
    border = verdict.expected_border_mm
    numbers: dict[str, Any] = {
        "bead_width_mm": verdict.expected_width_mm, "border_left_mm": border, "border_right_mm": border,
        "ripple_pitch_mm": None, "border_stray_mm": None, "judged": {}, "crater": None,
    }  # fmt: skip
    return readings.model_copy(update=numbers)
