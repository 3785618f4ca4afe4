"""Who changed what, and when: added to, never corrected. Functions take a session; the caller commits."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import insert, select
from sqlalchemy.orm import Session

from anvilsong.store.models import ChangeRow, JobRow, now

A_PAGE = 100


@dataclass(frozen=True)
class Change:
    """One change: by whom ('' when not said), of what kind, and on which job, if on one."""

    made_at: datetime
    who: str
    what: str
    job_id: int | None
    job: str | None


def note_change(session: Session, who: str, what: str, job_id: int | None) -> None:
    """Note a change in the transaction that makes it."""
    session.connection().execute(
        insert(ChangeRow).values(who=who[:60], what=what[:40], job_id=job_id, made_at=now())
    )


def changes(
    session: Session, job_id: int | None = None, before: int | None = None
) -> list[tuple[int, Change]]:
    """Changes with their numbers, the newest first, a page of them: of one job, or of all; older than one."""
    wanted = (
        select(ChangeRow, JobRow.title)
        .outerjoin(JobRow, JobRow.id == ChangeRow.job_id)
        .order_by(ChangeRow.id.desc())
        .limit(A_PAGE)
    )
    if job_id is not None:
        wanted = wanted.where(ChangeRow.job_id == job_id)
    if before is not None:
        wanted = wanted.where(ChangeRow.id < before)
    return [
        (row.id, Change(row.made_at, row.who, row.what, row.job_id, title))
        for row, title in session.execute(wanted)
    ]
