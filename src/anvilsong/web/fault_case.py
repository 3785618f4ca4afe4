"""Which bead a sign was seen on: a coupon that was recorded, or what is set now."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy.orm import Session

from anvilsong.core.bead import Case, Readings
from anvilsong.core.said import Words
from anvilsong.core.words import sentence
from anvilsong.store import book, coupons
from anvilsong.store.models import CouponRow
from anvilsong.store.reading import readable
from anvilsong.web.job_view import JobView

MOST_CHOSEN = 50  # coupons to choose from, the newest
AS_SET = 0  # no coupon: what is set now


@dataclass(frozen=True)
class Bead:
    """The bead in question: what it was welded with, its coupon's number or 0, and which it is in words."""

    case: Case
    number: int
    said: Words
    is_settable: bool
    """Whether a change of its settings is one of the job as it stands now."""


def bead_meant(session: Session, view: JobView, number: int | None) -> Bead:
    """The coupon of this number; with none given, the newest where it was run with what is set now. A number
    that no coupon has means what is set now.
    """
    run = coupons.find_coupons(session, view.row.id, MOST_CHOSEN)
    if number is None:
        number = run[-1].number if run and run[-1].plan_id == view.plan_row.id else AS_SET
    coupon = next((each for each in run if each.number == number), None)
    found = None if coupon is None else _run_as(view, coupon)
    if found is not None:
        return found
    case = Case(view.job, view.settings, view.machine, view.c)
    return Bead(
        case, AS_SET, sentence("web.judged_with_settings_version", revision=view.plan_row.revision), True
    )


def choices(session: Session, view: JobView) -> list[tuple[int, Words]]:
    """What a sign can have been seen on, by number: the coupons, newest first, and what is set now."""
    run = coupons.find_coupons(session, view.row.id, MOST_CHOSEN)
    named = [
        (each.number, sentence("web.coupon_of_version", number=each.number, revision=each.plan.revision))
        for each in reversed(run)
    ]
    return [*named, (AS_SET, sentence("web.no_coupon_settings_now"))]


def _run_as(view: JobView, coupon: CouponRow) -> Bead | None:
    """A coupon with the settings it was run with; None where either cannot be read."""
    readings = readable(Readings, coupon.readings[-1].document) if coupon.readings else None
    if readings is None:
        return None
    said = sentence("web.judged_with_coupon_version", number=coupon.number, revision=coupon.plan.revision)
    if coupon.plan_id == view.plan_row.id:
        return Bead(Case(view.job, view.settings, view.machine, view.c, readings), coupon.number, said, True)
    made = book.read_plan(coupon.plan)
    if made is None or made.plan.settings is None:
        return None
    case = Case(made.plan.job, made.plan.settings, made.machine, made.plan.coefficients, readings)
    return Bead(case, coupon.number, said, made.plan.job == view.job)
