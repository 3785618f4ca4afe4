"""What coupons and runs say of kept versions, of a whole page of recipes at once.

What counts for a version was run with exactly its settings: in its own job, or in a job that was begun from
it as the same job.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection
from datetime import datetime
from functools import cache
from typing import Any

from sqlalchemy import ColumnElement, Text, and_, bindparam, func, or_, select, type_coerce
from sqlalchemy.orm import Session, aliased

from anvilsong.core.shop import Evidence
from anvilsong.store.columns import read_document
from anvilsong.store.kept_models import PartRunRow
from anvilsong.store.models import CouponRow, PlanRow, ReadingRow, now


def is_as(kept: Any, other: Any) -> ColumnElement[bool]:
    """Whether what was run with one version counts for a kept one; both as tables of a query."""
    begun = and_(other.from_recipe == kept.recipe_key, _text(other.job_document) == _text(kept.job_document))
    return and_(_text(other.settings) == _text(kept.settings), or_(other.job_id == kept.job_id, begun))


def _text(document: Any) -> Any:
    return type_coerce(document, Text)


@cache
def _asked() -> tuple[Any, Any]:
    """The questions for coupons and runs of some kept versions, ``plans``; made once, which takes as long as
    asking.
    """
    kept, ran = aliased(PlanRow), aliased(PlanRow)
    wanted = kept.id.in_(bindparam("plans", expanding=True))
    change = (
        select(_text(ReadingRow.change))
        .where(ReadingRow.coupon_id == CouponRow.id)
        .order_by(ReadingRow.revision.desc())
        .limit(1)
        .correlate(CouponRow)
        .scalar_subquery()
    )
    coupons = (
        select(kept.id, _text(kept.job_document), CouponRow.machine, CouponRow.kit, CouponRow.made_at, change)
        .join(ran, is_as(kept, ran))
        .join(CouponRow, CouponRow.plan_id == ran.id)
        .where(wanted, CouponRow.left_out.is_(False))
        .order_by(kept.id, CouponRow.id)
    )
    runs = (
        select(kept.id, func.count())
        .join(ran, is_as(kept, ran))
        .join(PartRunRow, and_(PartRunRow.job_id == ran.job_id, PartRunRow.revision == ran.revision))
        .where(wanted, or_(ran.id == kept.id, ran.job_id != kept.job_id))
        .group_by(kept.id)
    )
    return coupons, runs


def evidence_of(session: Session, plans: Collection[int]) -> dict[int, Evidence]:
    """What stands behind some kept versions, by their numbers."""
    of_coupons, of_runs = _asked()
    asked, connection = {"plans": list(plans)}, session.connection()
    pairs = dict[int, tuple[str, str]]()
    coupons: defaultdict[int, list[tuple[datetime, bool]]] = defaultdict(list)
    for plan, job, machine, kit, made_at, text in connection.execute(of_coupons, asked).all():
        if plan not in pairs:
            pairs[plan] = _pair(job)
        if text is not None and (machine, kit) == pairs[plan]:
            coupons[plan].append((made_at, read_document(text).get("kind") == "keep"))
    runs = {row[0]: row[1] for row in connection.execute(of_runs, asked)}
    return {plan: _evidence(coupons[plan], runs.get(plan, 0)) for plan in plans}


def _pair(job: str) -> tuple[str, str]:
    """The machine and kit of a job's document, by name."""
    said = read_document(job)
    return str(said.get("machine") or ""), str(said.get("kit") or "")


def _evidence(coupons: list[tuple[datetime, bool]], runs: int) -> Evidence:
    good = [made_at for made_at, is_good in coupons if is_good]
    days = max((now() - good[-1]).total_seconds() / 86400, 0.0) if good else None
    newest_is_poor = bool(coupons) and not coupons[-1][1]
    return Evidence(len(good), len(coupons) - len(good), days, newest_is_poor, runs)
