"""Coupons as shots for the core, and the calibration of a machine and kit made anew from them."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from sqlalchemy import func, select
from sqlalchemy.orm import Session, selectinload

from anvilsong.core.bead import MOST_COUPONS, Readings, Shot, as_run, calibrate
from anvilsong.store.book import read_plan
from anvilsong.store.calibrated import calibration_row, members_of
from anvilsong.store.models import CalibrationRow, CouponRow, now
from anvilsong.store.reading import document, readable


def shots_of(rungs: Iterable[CouponRow], machine: str) -> Iterator[tuple[CouponRow, Shot]]:
    """Coupons that were run on a machine, with the settings they were made for; what is damaged is passed
    over.
    """
    for coupon in rungs:
        made = read_plan(coupon.plan)
        seen = readable(Readings, coupon.readings[-1].document) if coupon.readings else None
        if seen is None or made is None or made.plan.settings is None or made.machine.name != machine:
            continue
        yield coupon, Shot(made.plan.job, made.plan.settings, seen)


def coupons_of(session: Session, machine: str, kit: str, limit: int = MOST_COUPONS) -> list[CouponRow]:
    """The newest coupons of a machine and kit, oldest of them first, those left out as well."""
    loaded = (selectinload(CouponRow.readings), selectinload(CouponRow.plan), selectinload(CouponRow.job))
    newest = (
        select(CouponRow)
        .where(CouponRow.machine == machine, CouponRow.kit == kit)
        .order_by(CouponRow.id.desc())
        .limit(limit)
        .options(*loaded)
    )
    return list(session.scalars(newest))[::-1]


def refit(session: Session, machine: str, kit: str) -> CalibrationRow | None:
    """The calibration of a machine and kit from its coupons as they stand now; None where no machine is
    named.
    """
    if not machine:
        return None
    counted = [coupon for coupon in coupons_of(session, machine, kit) if not coupon.left_out]
    run = list(shots_of(counted, machine))
    made = calibrate([Shot(shot.job, as_run(shot.settings, shot.readings), shot.readings) for _, shot in run])
    row = calibration_row(session, machine, kit)
    if row is None:
        row = CalibrationRow(machine=machine, kit=kit, is_on=True)
        session.add(row)
    row.document, row.made_at = document(made), now()
    row.members = {"coupons": [coupon.id for coupon, _ in run]}
    session.flush()
    return row


def catch_up(session: Session) -> None:
    """Pairs whose newest coupon their calibration does not know, as after an import: made anew."""
    newest = select(CouponRow.machine, CouponRow.kit, func.max(CouponRow.id)).where(
        CouponRow.left_out.is_(False)
    )
    for machine, kit, last in session.execute(newest.group_by(CouponRow.machine, CouponRow.kit)).all():
        row = calibration_row(session, machine, kit)
        if row is None or last not in members_of(row):
            refit(session, machine, kit)


def leave_out(session: Session, coupon: CouponRow, left_out: bool) -> None:
    """Say that a coupon does not count, or that it does after all."""
    coupon.left_out = left_out
    session.flush()
    refit(session, coupon.machine, coupon.kit)
