"""Runs on real parts. The caller commits."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from datetime import datetime, time, timedelta
from typing import Any

from sqlalchemy import Select, func, select
from sqlalchemy.orm import Session

from anvilsong.core.errors import BadInput
from anvilsong.core.shop import Account, PartRun, week_of
from anvilsong.core.words import sentence
from anvilsong.store.exchange_format import MOST_PART_RUNS
from anvilsong.store.kept_models import PartRunRow
from anvilsong.store.models import JobRow, PlanRow
from anvilsong.store.reading import document, readable

AT_ONCE = 1000
WEEK = timedelta(days=7)
Logged = tuple[PartRunRow, str, PartRun]


def add_run(session: Session, row: JobRow, plan: PlanRow, run: PartRun) -> PartRunRow:
    """A weld on a part, run with a version of a job.

    Raises
    ------
    BadInput : a refused version, or as many runs as a logbook keeps of one job
    """
    if plan.settings is None:
        raise BadInput.one("seconds", f"version {plan.revision}", sentence("store.refused_plan_has_no"))
    count = session.scalar(select(func.count()).where(PartRunRow.job_id == row.id)) or 0
    if count >= MOST_PART_RUNS:
        raise BadInput.one("seconds", count, sentence("store.run_too_many", most=MOST_PART_RUNS))
    logged = PartRunRow(job_id=row.id, revision=plan.revision, document=document(run))
    session.add(logged)
    session.flush()
    return logged


def last_run(session: Session, job_id: int) -> PartRun | None:
    """The newest run of a job."""
    row = session.scalar(
        select(PartRunRow).where(PartRunRow.job_id == job_id).order_by(PartRunRow.id.desc()).limit(1)
    )
    return readable(PartRun, row.document) if row is not None else None


def runs(
    session: Session,
    job_id: int | None = None,
    since: datetime | None = None,
    limit: int | None = None,
    skip: int = 0,
) -> list[Logged]:
    """Runs with their jobs' titles, the newest first; of one job, or since a moment. What cannot be read is
    passed over.
    """
    asked = _newest_first()
    if job_id is not None:
        asked = asked.where(PartRunRow.job_id == job_id)
    if since is not None:
        asked = asked.where(PartRunRow.made_at >= since)
    return list(_read(session.execute(asked.limit(limit).offset(skip))))


def every_run(session: Session) -> Iterator[Logged]:
    """Every run there is, the newest first, read piece by piece."""
    yield from _read(session.execute(_newest_first().execution_options(yield_per=AT_ONCE)))


def _newest_first() -> Select[PartRunRow, str]:
    asked = select(PartRunRow, JobRow.title).join(JobRow, JobRow.id == PartRunRow.job_id)
    return asked.order_by(PartRunRow.made_at.desc(), PartRunRow.id.desc())


def _read(rows: Iterable[Any]) -> Iterator[Logged]:
    for row, title in rows:
        run = readable(PartRun, row.document)
        if run is not None:
            yield row, title, run


_TOTALS = tuple(
    func.coalesce(func.sum(column), 0.0)
    for column in (PartRunRow.seconds / 3600.0, PartRunRow.gas_l, PartRunRow.rod_mm, PartRunRow.cost)
)
_COUNTED = PartRunRow.seconds.is_not(None)


def whole(session: Session, since: datetime | None = None) -> Account | None:
    """What all runs took together, or those since a moment; None without any."""
    asked = select(func.count(), *_TOTALS).where(_COUNTED)
    if since is not None:
        asked = asked.where(PartRunRow.made_at >= since)
    sums = session.connection().execute(asked).one()
    return Account(*sums) if sums[0] else None


def by_week(session: Session, most: int) -> list[tuple[str, Account]]:
    """What the runs of each of the last weeks took together, the newest first; weeks without any are left
    out.
    """
    last = session.scalar(select(func.max(PartRunRow.made_at)).where(_COUNTED))
    if last is None:
        return []
    monday = datetime.combine(last.date() - timedelta(days=last.weekday()), time())
    day = func.date(PartRunRow.made_at)
    first = monday - WEEK * (most - 1)  # so that each week that is told is a whole one
    asked = select(day, func.count(), *_TOTALS).where(_COUNTED, PartRunRow.made_at >= first)
    found: dict[str, Account] = {}
    for text, *sums in session.execute(asked.group_by(day).order_by(day.desc())):
        week = week_of(datetime.fromisoformat(str(text)))
        before = found.get(week, Account(0, 0.0, 0.0, 0.0, 0.0))
        found[week] = Account(*(one + other for one, other in zip(before, sums, strict=True)))
    return list(found.items())


def by_job(session: Session, most: int) -> list[tuple[int, str, Account]]:
    """What the runs of each job took together, those that were welded last first."""
    last_first = (PartRunRow.made_at.desc(), PartRunRow.id.desc())
    runs = select(PartRunRow.job_id).where(_COUNTED).order_by(*last_first)
    jobs, looked = dict[int, None](), 0
    while len(jobs) < most:
        piece = session.scalars(runs.limit(AT_ONCE).offset(looked)).all()
        jobs |= dict.fromkeys(piece)
        looked += AT_ONCE
        if len(piece) < AT_ONCE:
            break
    wanted = list(jobs)[:most]
    asked = (
        select(JobRow.id, JobRow.title, func.count(), *_TOTALS)
        .join(PartRunRow, PartRunRow.job_id == JobRow.id)
        .where(_COUNTED, JobRow.id.in_(wanted))
        .group_by(JobRow.id, JobRow.title)
    )
    found = {row[0]: (row[0], row[1], Account(*row[2:])) for row in session.execute(asked)}
    return [found[job] for job in wanted]
