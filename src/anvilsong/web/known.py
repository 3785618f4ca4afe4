"""How far predictions can be trusted, in words: nominal, or from so many of the shop's own coupons."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy.orm import Session

from anvilsong.core.bead import Calibration, Range, border_range_mm
from anvilsong.core.coefficients import nominal
from anvilsong.core.said import Words
from anvilsong.core.words import sentence
from anvilsong.store.calibrated import calibration_of, calibration_row
from anvilsong.web.job_view import JobView

USUAL = sentence("web.estimates_amps_border_until")

USUAL_SHARE = 0.25


@dataclass(frozen=True)
class Known:
    """What a plan's predictions rest on, and whether coupons say more by now."""

    said: Words
    newer: Words = ""


def known_words(session: Session, view: JobView) -> Known:
    """For a plan with settings, as its pages print it."""
    made = calibration_of(calibration_row(session, view.job.machine, view.job.kit))
    counted = made is not None and made.used > 0
    if made is not None and counted and made.coefficients == view.c:
        return Known(_from_coupons(made, view))
    newer = (
        sentence("web.machine_kit_say_more", used=_count(made.used), them="them" if made.used > 1 else "it")
        if made is not None and counted
        else ""
    )
    return Known(USUAL if view.c == nominal() else sentence("web.made_with_what_earlier"), newer)


def border_range(session: Session, view: JobView) -> Range:
    """Where the border will lie, mm, nine times of ten: by the coupons that the plan was made with, else as
    usual between shops.
    """
    seen = view.plan.consequences
    assert seen is not None
    made = calibration_of(calibration_row(session, view.job.machine, view.job.kit))
    if made is not None and made.used and made.coefficients == view.c:
        return border_range_mm(made, view.job, view.settings, seen.pool_width_mm)
    return Range(low=(1 - USUAL_SHARE) * seen.border_mm, high=(1 + USUAL_SHARE) * seen.border_mm)


def _from_coupons(made: Calibration, view: JobView) -> Words:
    seen = view.plan.consequences
    assert seen is not None
    border = border_range_mm(made, view.job, view.settings, seen.pool_width_mm)
    return sentence(
        "web.from_machine_kit_amps",
        used=_count(made.used),
        amps_share=made.amps_share,
        low=border.low,
        high=border.high,
    )


def _count(used: int) -> str:
    return f"{used} of your coupons" if used > 1 else "one coupon of yours"
