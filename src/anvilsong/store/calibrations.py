"""Coupons as shots for the core, and the calibration of a machine and kit made anew from them."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from functools import partial

from sqlalchemy import func, select
from sqlalchemy.orm import Session, selectinload

from anvilsong.core.bead import (
    MOST_COUPONS,
    Calibration,
    HandScatter,
    Readings,
    Shot,
    as_run,
    calibrate,
    hand_scatter,
)
from anvilsong.core.errors import BadInput
from anvilsong.core.machine import Machine
from anvilsong.core.trials import SpotTest, balled_load, shares_of
from anvilsong.store.book import ReadPlan, read_plan
from anvilsong.store.calibrated import calibration_row, members_of
from anvilsong.store.database import Sessions
from anvilsong.store.models import BenchTrialRow, CalibrationRow, CouponRow, MachineRow, PlanRow, now
from anvilsong.store.reading import document, readable


def shots_of(rungs: Iterable[CouponRow], machine: str) -> Iterator[tuple[CouponRow, Shot]]:
    """Coupons that were run on a machine, with the settings they were made for; what is damaged is passed
    over.
    """
    plans = dict[PlanRow, ReadPlan | None]()
    for coupon in rungs:
        if coupon.plan not in plans:
            plans[coupon.plan] = read_plan(coupon.plan)
        made = plans[coupon.plan]
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


def hand_of(session: Session, machine: str | None, kit: str | None) -> HandScatter:
    """How far coupons of equal settings lie apart on a machine and kit; usual where no machine is named."""
    if not machine:
        return HandScatter()
    counted = [coupon for coupon in coupons_of(session, machine, kit or "") if not coupon.left_out]
    return hand_scatter([shot for _, shot in shots_of(counted, machine)])


@dataclass(frozen=True)
class _Fit:
    """What the coupons of a pair say, which they are, and the newest reading that is known in it."""

    made: Calibration
    coupons: list[int]
    upto: int


def _fitted(session: Session, machine: str, kit: str) -> _Fit:
    counted = [coupon for coupon in coupons_of(session, machine, kit) if not coupon.left_out]
    run = list(shots_of(counted, machine))
    shots = [Shot(shot.job, as_run(shot.settings, shot.readings), shot.readings) for _, shot in run]
    made = calibrate(shots, balled_at=_balled_at(session, machine))
    upto = max((reading.id or 0 for coupon in counted for reading in coupon.readings), default=0)
    return _Fit(made, [coupon.id for coupon, _ in run], upto)


def _balled_at(session: Session, machine: str) -> list[float]:
    """The load at which a tungsten balled in the newest spots burned on a machine; empty where none did."""
    newest = (
        select(BenchTrialRow)
        .where(BenchTrialRow.machine == machine, BenchTrialRow.kind == "spots")
        .order_by(BenchTrialRow.id.desc())
    )
    row = session.scalar(newest.limit(1))
    stored = session.scalar(select(MachineRow).where(MachineRow.name == machine))
    test = readable(SpotTest, row.document) if row is not None else None
    owned = readable(Machine, stored.document) if stored is not None else None
    control = owned.control("ep_share") if owned is not None else None
    if test is None or control is None:
        return []
    try:
        load = balled_load(test, shares_of(test, control.scale))
    except BadInput:  # the knob's ends were changed since
        return []
    return [] if load is None else [load]


def refit_machine(session: Session, machine: str) -> None:
    """Every calibration of a machine made anew, as after spots burned on it."""
    rows = session.scalars(select(CalibrationRow).where(CalibrationRow.machine == machine))
    for kit in [row.kit for row in rows]:
        refit_afterwards(session, machine, kit)


def _stored(session: Session, machine: str, kit: str, fit: _Fit) -> CalibrationRow:
    row = calibration_row(session, machine, kit)
    if row is None:
        row = CalibrationRow(machine=machine, kit=kit, is_on=True)
        session.add(row)
    row.document, row.made_at = document(fit.made), now()
    row.members = {"coupons": fit.coupons, "upto": fit.upto}
    session.flush()
    return row


def refit(session: Session, machine: str, kit: str) -> CalibrationRow | None:
    """The calibration of a machine and kit from its coupons as they stand now; None where no machine is
    named.
    """
    return _stored(session, machine, kit, _fitted(session, machine, kit)) if machine else None


def refit_afterwards(session: Session, machine: str, kit: str) -> None:
    """The same once the session's transaction is committed, so that nobody waits for it; at once in a session
    that tells nobody when that is.

    Of several that are worked out side by side the one that knows most stays.
    """
    later = session.info.get("afterwards")
    if later is None:
        refit(session, machine, kit)
    elif machine:
        later["refit", machine, kit] = partial(_refit_apart, machine=machine, kit=kit)


def _refit_apart(make: Sessions, machine: str, kit: str) -> None:
    with make() as session:
        fit = _fitted(session, machine, kit)
    with make.begin() as session:
        row = calibration_row(session, machine, kit)
        known = row.members.get("upto", 0) if row is not None else 0
        if not isinstance(known, int) or fit.upto >= known:
            _stored(session, machine, kit, fit)


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
