"""Which bead a sign was seen on: a coupon that was recorded, or what is set now."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy.orm import Session

from anvilsong.core.bead import Case
from anvilsong.core.said import Words
from anvilsong.core.words import sentence
from anvilsong.store import book, coupons
from anvilsong.store.looks import looks_of
from anvilsong.store.models import CouponRow
from anvilsong.web.job_view import JobView

MOST_CHOSEN = 50  # coupons to choose from, the newest
AS_SET = 0  # no coupon: what is set now


@dataclass(frozen=True)
class Bead:
    """The bead in question: what it was welded with, its coupon's number or 0, and which it is in words."""

    case: Case
    number: int
    revision: int
    said: Words
    is_settable: bool
    """Whether a change of its settings is one of the job as it stands now."""


def bead_meant(session: Session, view: JobView, number: int | None) -> Bead:
    """The coupon of this number; with none given, the newest where it was run with what is set now. A number
    that no coupon has means what is set now.
    """
    if number is None:
        newest = coupons.newest_numbers(session, view.row.id, 1)
        number = newest[0][0] if newest and newest[0][1] == view.plan_row.revision else AS_SET
    coupon = coupons.find_coupon(session, view.row.id, number) if number else None
    found = None if coupon is None else _run_as(view, coupon)
    if found is not None:
        return found
    case = Case(view.job, view.settings, view.machine, view.c)
    now = view.plan_row.revision
    return Bead(case, AS_SET, now, sentence("web.judged_with_settings_version", revision=now), True)


def choices(session: Session, view: JobView, meant: Bead) -> list[tuple[int, Words]]:
    """What a sign can have been seen on, by number: the newest coupons, the one that is meant, however old,
    and what is set now.
    """
    run = dict(coupons.newest_numbers(session, view.row.id, MOST_CHOSEN))
    if meant.number and meant.number not in run:
        run[meant.number] = meant.revision
    named = [
        (number, sentence("web.coupon_of_version", number=number, revision=revision))
        for number, revision in run.items()
    ]
    return [*named, (AS_SET, sentence("web.no_coupon_settings_now"))]


def _run_as(view: JobView, coupon: CouponRow) -> Bead | None:
    """A coupon with the settings it was run with; None where either cannot be read."""
    readings = looks_of(coupon)
    if readings is None:
        return None
    number, revision = coupon.number, coupon.plan.revision
    said = sentence("web.judged_with_coupon_version", number=number, revision=revision)
    if coupon.plan_id == view.plan_row.id:
        return Bead(
            Case(view.job, view.settings, view.machine, view.c, readings), number, revision, said, True
        )
    made = book.read_plan(coupon.plan)
    if made is None or made.plan.settings is None:
        return None
    case = Case(made.plan.job, made.plan.settings, made.machine, made.plan.coefficients, readings)
    return Bead(case, number, revision, said, made.plan.job == view.job)
