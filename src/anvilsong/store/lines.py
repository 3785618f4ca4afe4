"""The book as a list: a page of lines, each from the few columns it shows, and how many jobs there are in
all.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import cache
from typing import Any, NamedTuple

from sqlalchemy import ColumnElement, ScalarSelect, Select, Text, bindparam, func, or_, select, type_coerce
from sqlalchemy.orm import Session, aliased

from anvilsong.core.job import Job
from anvilsong.core.machine import IDEAL, Machine, amps_on_panel
from anvilsong.core.settings import Settings
from anvilsong.store.databases import database_of
from anvilsong.store.finding import Meant, meant
from anvilsong.store.models import CouponRow, JobRow, PlanRow, ReadingRow, WelderRow
from anvilsong.store.narrowing import JobState
from anvilsong.store.reading import readable_text

LINES_A_PAGE = 40
MOST_MM = 1e6  # thicker than any sheet: an open end


JOB_STATES: dict[JobState, str] = {
    "planned": "planned",
    "in_work": "in work",
    "as_wanted": "as wanted",
    "refused": "refused",
}


class Narrowed(NamedTuple):
    """What jobs of the book have to be beside their words; empty stands for any. ``thickness_mm`` is a range
    that either sheet lies in, both ends included; None is an open end.
    """

    machine: str = ""
    joint: str = ""
    alloy: str = ""
    welder: int | None = None
    since: datetime | None = None
    thickness_mm: tuple[float | None, float | None] = (None, None)
    state: JobState | None = None


ANY = Narrowed()


@dataclass(frozen=True)
class BookLine:
    """A job as the book shows it. ``job`` is None where what is stored of it cannot be read."""

    job_id: int
    uid: str
    title: str
    welder: str
    changed_at: datetime
    state: str
    """One of ``JOB_STATES``; empty for a job without a version."""
    revision: int | None
    job: Job | None
    settings: Settings | None
    amps: str
    """Machine amps as the panel of the machine shows them; empty where nothing is set."""
    refused: bool
    coupons: int
    last_change: str
    """What the newest coupon asked for next: keep, setting, hand, prep; empty without a coupon."""


@dataclass(frozen=True)
class BookPage:
    """One page of the book, and how many jobs fit the question in all."""

    lines: list[BookLine]
    jobs: int
    number: int
    pages: int
    read_as: tuple[tuple[str, tuple[str, ...]], ...] = ()
    """Words of the search that were read as others."""


def book_page(
    session: Session,
    query: str = "",
    away: bool = False,
    number: int = 1,
    narrowed: Narrowed = ANY,
    most: int | None = None,
) -> BookPage:
    """Jobs that have every word asked, newest change first, so many a page. ``away``: those put away."""
    question, most = meant(session, query), most or LINES_A_PAGE
    chosen = matching(session, question, query, away)
    if chosen is None:
        return BookPage([], 0, 1, 1)
    chosen = _narrowed(chosen, narrowed)
    counted: Any = select(func.count()).select_from(chosen.subquery())
    if question.match is not None and narrowed == ANY:
        counted = database_of(session).count_fitting(question.match, away)
    jobs = session.scalar(counted) or 0
    pages = max(1, -(-jobs // most))
    number = min(max(number, 1), pages)
    newest_first = chosen.order_by(JobRow.changed_at.desc(), JobRow.id.desc())
    ids = session.scalars(newest_first.limit(most).offset((number - 1) * most)).all()
    return BookPage(_lines(session, ids), jobs, number, pages, question.read_as)


def matching(session: Session, question: Meant, query: str, away: bool = False) -> Select[int] | None:
    """The numbers of the jobs that fit, in no order; None when nothing can fit."""
    here = JobRow.put_away_at.is_not(None) if away else JobRow.put_away_at.is_(None)
    chosen = select(JobRow.id).where(here)
    if question.match is None:
        return None if query.strip() else chosen
    return chosen.where(JobRow.id.in_(database_of(session).fitting(question.match)))


def _narrowed(chosen: Select[int], narrowed: Narrowed) -> Select[int]:
    """Those of the jobs that are so as well, by their newest versions."""
    wanted: list[ColumnElement[bool]] = []
    if narrowed.welder is not None:
        wanted.append(JobRow.welder_id == narrowed.welder)
    if narrowed.since is not None:
        wanted.append(JobRow.changed_at >= narrowed.since)
    if narrowed.machine:
        wanted.append(JobRow.machine == narrowed.machine)
    if narrowed.joint:
        wanted.append(JobRow.joint == narrowed.joint)
    if narrowed.alloy:
        alloy = narrowed.alloy.lower()
        wanted.append(or_(JobRow.alloy_a == alloy, JobRow.alloy_b == alloy))
    low, high = narrowed.thickness_mm
    if low is not None or high is not None:
        ends_mm = (low or 0.0, MOST_MM if high is None else high)
        wanted.append(
            or_(*(side.between(*ends_mm) for side in (JobRow.thickness_a_mm, JobRow.thickness_b_mm)))
        )
    if narrowed.state is not None:
        wanted.append(JobRow.state == narrowed.state)
    return chosen.where(*wanted)


def _lines(session: Session, ids: Sequence[int]) -> list[BookLine]:
    """The lines of some jobs, in the order of their numbers given."""
    found = {row.job_id: _line(row) for row in session.execute(_asked(), {"ids": list(ids)})}
    return [found[job_id] for job_id in ids]


@cache
def _asked() -> Select[Any]:
    """The columns of the lines of the jobs whose numbers are ``ids``; made once, since it is asked alike."""
    newest = select(PlanRow.id).where(PlanRow.job_id == JobRow.id).order_by(PlanRow.revision.desc()).limit(1)
    plan = aliased(PlanRow)
    coupons = select(func.count()).where(CouponRow.job_id == JobRow.id)
    columns: dict[str, Any] = {
        "job_id": JobRow.id,
        "uid": JobRow.uid,
        "title": JobRow.title,
        "changed_at": JobRow.changed_at,
        "state": JobRow.state,
        "welder": WelderRow.name,
        "revision": plan.revision,
        "job": type_coerce(plan.job_document, Text),
        "settings": type_coerce(plan.settings, Text),
        "machine": type_coerce(plan.machine_document, Text),
        "coupons": coupons.scalar_subquery(),
        "last_kind": _last_kind(),
    }
    return (
        select(*(column.label(name) for name, column in columns.items()))
        .select_from(JobRow)
        .outerjoin(plan, plan.id == newest.scalar_subquery())
        .outerjoin(WelderRow, WelderRow.id == JobRow.welder_id)
        .where(JobRow.id.in_(bindparam("ids", expanding=True)))
    )


def _last_kind() -> ScalarSelect[Any]:
    """What the newest reading of the newest coupon asked for."""
    coupon = (
        select(CouponRow.id).where(CouponRow.job_id == JobRow.id).order_by(CouponRow.number.desc()).limit(1)
    )
    return (
        select(ReadingRow.kind)
        .where(ReadingRow.coupon_id == coupon.correlate(JobRow).scalar_subquery())
        .order_by(ReadingRow.revision.desc())
        .limit(1)
        .correlate(JobRow)
        .scalar_subquery()
    )


def _line(row: Any) -> BookLine:
    found = readable_text(Settings, _given(row.settings))
    machine = readable_text(Machine, row.machine) or IDEAL
    return BookLine(
        job_id=row.job_id,
        uid=row.uid,
        title=row.title,
        welder=row.welder or "",
        changed_at=row.changed_at,
        state=row.state,
        revision=row.revision,
        job=readable_text(Job, row.job),
        settings=found,
        amps=amps_on_panel(found, machine) if found is not None else "",
        refused=row.revision is not None and _given(row.settings) is None,
        coupons=row.coupons,
        last_change=row.last_kind or "",
    )


def _given(settings: str | None) -> str | None:
    """JSON's null stands for no settings too."""
    return None if settings in (None, "null") else settings
