"""What coupons and runs say of kept versions, of a whole page of recipes at once.

What counts for a version was run with exactly its settings: in its own job, or in a job that was begun from
it as the same job.
"""

from __future__ import annotations

from collections.abc import Collection
from datetime import datetime
from functools import cache
from typing import Any, NamedTuple

from sqlalchemy import ColumnElement, Text, and_, bindparam, case, func, or_, select, type_coerce
from sqlalchemy.orm import Session, aliased

from anvilsong.core.shop import Evidence
from anvilsong.store.columns import read_document
from anvilsong.store.kept_models import PartRunRow
from anvilsong.store.models import CouponRow, PlanRow, ReadingRow, now

AT_ONCE = 500  # versions that are asked for by their numbers
GOOD = "keep"  # what a reading asks for when the settings can stay


def is_as(kept: Any, other: Any) -> ColumnElement[bool]:
    """Whether what was run with one version counts for a kept one; both as tables of a query."""
    begun = and_(other.from_recipe == kept.recipe_key, _text(other.job_document) == _text(kept.job_document))
    return and_(_text(other.settings) == _text(kept.settings), or_(other.job_id == kept.job_id, begun))


def _text(document: Any) -> Any:
    return type_coerce(document, Text)


@cache
def _asked() -> tuple[Any, Any, Any]:
    """The questions for what was run alike, its coupons and its runs, of some kept versions, ``plans``; made
    once, which takes as long as asking.
    """
    kept, ran = aliased(PlanRow), aliased(PlanRow)
    wanted = kept.id.in_(bindparam("plans", expanding=True))
    alike = select(kept.id, ran.id).join(ran, is_as(kept, ran)).where(wanted)
    other = aliased(ReadingRow)
    newest = select(func.max(other.revision)).where(other.coupon_id == CouponRow.id).scalar_subquery()
    number, is_good = CouponRow.id, ReadingRow.kind == GOOD
    # By the numbers of versions that were found before: joined to the versions at once, the database may
    # begin at all coupons there are.
    coupons = (
        select(
            CouponRow.plan_id, CouponRow.machine, CouponRow.kit, func.count(),
            func.count(case((is_good, number))), func.max(number), func.max(case((is_good, number))),
        )
        .join(ReadingRow, and_(ReadingRow.coupon_id == CouponRow.id, ReadingRow.revision == newest))
        .where(CouponRow.plan_id.in_(bindparam("plans", expanding=True)), CouponRow.left_out.is_(False))
        .group_by(CouponRow.plan_id, CouponRow.machine, CouponRow.kit)
    )  # fmt: skip
    runs = (
        select(kept.id, func.count())
        .join(ran, is_as(kept, ran))
        .join(PartRunRow, and_(PartRunRow.job_id == ran.job_id, PartRunRow.revision == ran.revision))
        .where(wanted, or_(ran.id == kept.id, ran.job_id != kept.job_id))
        .group_by(kept.id)
    )
    return alike, coupons, runs


def evidence_of(session: Session, plans: Collection[int]) -> dict[int, Evidence]:
    """What stands behind some kept versions, by their numbers."""
    of_alike, of_coupons, of_runs = _asked()
    asked, connection = {"plans": list(plans)}, session.connection()
    given = select(PlanRow.id, _text(PlanRow.job_document)).where(PlanRow.id.in_(plans))
    pairs = {number: _pair(job) for number, job in connection.execute(given).all()}
    alike = connection.execute(of_alike, asked).all()
    ran_with = sorted({ran for _, ran in alike})
    run_with = {
        (plan, machine, kit): _Counted(*counts)
        for start in range(0, len(ran_with), AT_ONCE)
        for plan, machine, kit, *counts in connection.execute(
            of_coupons, {"plans": ran_with[start : start + AT_ONCE]}
        ).all()
    }
    counted = dict.fromkeys(plans, NONE_COUNTED)
    for plan, ran in alike:
        if plan in pairs and (more := run_with.get((ran, *pairs[plan]))) is not None:
            counted[plan] = counted[plan].with_more(more)
    last_good = [count.newest_good for count in counted.values() if count.newest_good is not None]
    moments = select(CouponRow.id, CouponRow.made_at).where(CouponRow.id.in_(last_good))
    made_at: dict[int, datetime] = {row[0]: row[1] for row in connection.execute(moments)}
    runs = {row[0]: row[1] for row in connection.execute(of_runs, asked)}
    return {plan: _evidence(counted[plan], made_at, runs.get(plan, 0)) for plan in plans}


class _Counted(NamedTuple):
    """The coupons of a version: how many, how many of them good, and the numbers of the newest of both."""

    coupons: int
    good: int
    newest: int | None
    newest_good: int | None

    def with_more(self, more: _Counted) -> _Counted:
        """Together with the coupons of another version that counts as well."""
        return _Counted(
            self.coupons + more.coupons,
            self.good + more.good,
            max(self.newest or 0, more.newest or 0) or None,
            max(self.newest_good or 0, more.newest_good or 0) or None,
        )


NONE_COUNTED = _Counted(0, 0, None, None)


def _pair(job: str) -> tuple[str, str]:
    """The machine and kit of a job's document, by name."""
    said = read_document(job)
    return str(said.get("machine") or ""), str(said.get("kit") or "")


def _evidence(count: _Counted, made_at: dict[int, datetime], runs: int) -> Evidence:
    last = made_at.get(count.newest_good) if count.newest_good is not None else None
    days = max((now() - last).total_seconds() / 86400, 0.0) if last is not None else None
    return Evidence(count.good, count.coupons - count.good, days, count.newest != count.newest_good, runs)
