"""Coupons of a job, judged when they are recorded. Functions take a session; the caller commits."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import func, select
from sqlalchemy.orm import Session, selectinload

from anvilsong.core.bead import (
    Looks,
    LooksVerdict,
    NextChange,
    Readings,
    Shot,
    change_by_looks,
    next_rung,
    read,
    read_looks,
)
from anvilsong.core.errors import BadInput
from anvilsong.core.words import sentence
from anvilsong.store.book import read_plan
from anvilsong.store.calibrations import refit_afterwards, shots_of
from anvilsong.store.columns import Document
from anvilsong.store.models import CouponRow, JobRow, PlanRow, ReadingRow, fresh_uid, now
from anvilsong.store.reading import check_seen, document
from anvilsong.store.remembered import WORKED
from anvilsong.store.words import index_note

MOST_RUNGS = 8  # of a ladder that are looked back on: what came before was other settings


def judge(
    plan: PlanRow, readings: Looks, before: Sequence[CouponRow] = ()
) -> tuple[LooksVerdict, NextChange]:
    """The verdict on readings and the next change, for the settings of a plan; ``before`` are the coupons of
    the job up to this one, oldest first, which the change is chosen by as well.
    """
    made = read_plan(plan)
    if made is None or made.plan.settings is None:
        raise BadInput.one(
            "plan",
            f"version {plan.revision}",
            sentence("store.what_stored_cannot_read"),
        )
    job, machine, settings, c = made.plan.job, made.machine, made.plan.settings, made.plan.coefficients
    if not isinstance(readings, Readings):
        looked = WORKED.of(read_looks, job, settings, readings, machine, c)
        return looked, WORKED.of(change_by_looks, job, settings, readings, looked, machine, c)
    earlier = [shot for _, shot in shots_of(before[-MOST_RUNGS:], machine.name)]
    ladder = [*earlier, Shot(job, settings, readings)]
    verdict = WORKED.of(read, job, settings, readings, machine, c)
    return verdict, WORKED.of(next_rung, ladder, machine, c)[1]


def add_coupon(
    session: Session,
    row: JobRow,
    plan: PlanRow,
    readings: Looks,
    typed: Document | None = None,
) -> CouponRow:
    """Record a coupon run with the settings of a plan."""
    if plan.settings is None:
        raise BadInput.one(
            "plan",
            f"version {plan.revision}",
            sentence("store.job_refused_there_are"),
        )
    before = find_coupons(session, row.id, MOST_RUNGS)
    number = 1 + (session.scalar(select(func.max(CouponRow.number)).where(CouponRow.job_id == row.id)) or 0)
    machine, kit = (str(plan.job_document.get(name) or "") for name in ("machine", "kit"))
    coupon = CouponRow(
        job=row, plan=plan, number=number, uid=fresh_uid(), machine=machine, kit=kit, left_out=False
    )
    session.add(coupon)
    _add_readings(coupon, plan, readings, typed, before)
    row.changed_at = now()
    session.flush()
    refit_afterwards(session, machine, kit)
    index_note(session, row, readings.note)
    return coupon


def correct_coupon(
    session: Session,
    coupon: CouponRow,
    readings: Looks,
    typed: Document | None = None,
    seen: str | None = None,
) -> None:
    """Readings typed again: a new row, the old one stays. ``seen`` is the digest of the readings that the
    form was opened on.
    """
    check_seen(seen, newest_readings(coupon), f"Coupon {coupon.number}")
    later = session.scalar(
        select(func.count()).where(CouponRow.job_id == coupon.job_id, CouponRow.number >= coupon.number)
    )
    before = find_coupons(session, coupon.job_id, MOST_RUNGS, later or 0)
    _add_readings(coupon, coupon.plan, readings, typed, before)
    session.flush()
    refit_afterwards(session, coupon.machine, coupon.kit)
    index_note(session, coupon.job, readings.note)


def newest_readings(coupon: CouponRow) -> Document:
    """What stands of a coupon, and the how manieth correction it is."""
    return {
        "corrections": len(coupon.readings),
        "document": coupon.readings[-1].document if coupon.readings else None,
    }


def _add_readings(
    coupon: CouponRow,
    plan: PlanRow,
    readings: Looks,
    typed: Document | None,
    before: Sequence[CouponRow],
) -> None:
    verdict, change = judge(plan, readings, before)
    revision = len(coupon.readings) + 1
    coupon.readings.append(
        ReadingRow(
            revision=revision,
            document=document(readings),
            verdict=document(verdict),
            change=document(change),
            typed=typed,
        )
    )


def count_coupons(session: Session, job_id: int) -> int:
    """How many coupons a job has."""
    return session.scalar(select(func.count()).where(CouponRow.job_id == job_id)) or 0


def count_readings(session: Session) -> int:
    """How many readings the whole logbook has, corrections too."""
    return session.scalar(select(func.count()).select_from(ReadingRow)) or 0


def find_coupons(session: Session, job_id: int, limit: int, skip: int = 0) -> list[CouponRow]:
    """Coupons of a job with their readings and plans, the newest ``limit`` after ``skip`` of them, oldest of
    these first.
    """
    loaded = (selectinload(CouponRow.readings), selectinload(CouponRow.plan))
    newest_first = select(CouponRow).where(CouponRow.job_id == job_id).order_by(CouponRow.number.desc())
    return list(session.scalars(newest_first.limit(limit).offset(skip).options(*loaded)))[::-1]


def newest_numbers(session: Session, job_id: int, limit: int) -> list[tuple[int, int]]:
    """The newest coupons of a job, newest first: their numbers and the versions they were run with."""
    asked = (
        select(CouponRow.number, PlanRow.revision)
        .join(PlanRow, CouponRow.plan_id == PlanRow.id)
        .where(CouponRow.job_id == job_id)
        .order_by(CouponRow.number.desc())
    )
    return [(number, revision) for number, revision in session.execute(asked.limit(limit))]


def find_coupon(session: Session, job_id: int, number: int) -> CouponRow | None:
    """A coupon of a job by its number."""
    return session.scalar(select(CouponRow).where(CouponRow.job_id == job_id, CouponRow.number == number))
