"""Parts of a job, drawn and welded in the computer. Functions take a session; the caller commits.

The drawing is stored before the computing starts, and the result with it at the end, so that a stopped server
loses a result and never a drawing. The films of older runs of a job are dropped: they can be computed again.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import Text, delete, select, type_coerce
from sqlalchemy.orm import Session, undefer

from anvilsong.core.warming import Film, PartDrawing, PartResult
from anvilsong.store.models import HeatRunRow, JobRow, fresh_uid
from anvilsong.store.reading import document, readable

FILMS_OF_A_JOB, EARLIER = 3, 8
MOST_OF_A_JOB = 100


def add_heat_run(session: Session, job: JobRow, revision: int, part: PartDrawing) -> HeatRunRow:
    """A drawing that is to be computed. Of many the oldest goes."""
    newest = select(HeatRunRow.id).where(HeatRunRow.job_id == job.id).order_by(HeatRunRow.id.desc())
    session.execute(
        delete(HeatRunRow).where(HeatRunRow.id.in_(list(session.scalars(newest.offset(MOST_OF_A_JOB - 1)))))
    )
    row = HeatRunRow(job_id=job.id, revision=revision, part=document(part), uid=fresh_uid())
    session.add(row)
    session.flush()
    return row


def keep_result(session: Session, uid: str, result: PartResult, film: bytes) -> None:
    """What came of it, and its film; of older runs of the job only some keep theirs.

    The run is found by the name that no other book gives: where a backup was restored while it was being
    computed, its number may be another's.
    """
    row = session.scalar(select(HeatRunRow).where(HeatRunRow.uid == uid))
    if row is None:
        return
    row.result, row.film = document(result), film
    session.flush()
    with_film = select(HeatRunRow.id).where(HeatRunRow.job_id == row.job_id, HeatRunRow.film.is_not(None))
    for old in session.scalars(with_film.order_by(HeatRunRow.id.desc()).offset(FILMS_OF_A_JOB)):
        found = session.get(HeatRunRow, old)
        if found is not None:
            found.film = None


def find_heat_run(session: Session, run_id: int) -> HeatRunRow | None:
    """A run by its number."""
    return session.get(HeatRunRow, run_id)


def newest_heat_run(session: Session, job_id: int, finished: bool = False) -> HeatRunRow | None:
    """The newest run of a job; ``finished``: the newest that came to its end."""
    chosen = select(HeatRunRow).where(HeatRunRow.job_id == job_id)
    if finished:
        chosen = chosen.where(HeatRunRow.film.is_not(None))
    return session.scalar(chosen.order_by(HeatRunRow.id.desc()).limit(1))


def film_of(session: Session, run_id: int) -> bytes | None:
    """The film of a run, packed."""
    row = session.scalar(select(HeatRunRow).where(HeatRunRow.id == run_id).options(undefer(HeatRunRow.film)))
    return row.film if row is not None else None


def has_film(session: Session, run_id: int) -> bool:
    """Whether its film is still kept."""
    kept = select(HeatRunRow.id).where(HeatRunRow.id == run_id, HeatRunRow.film.is_not(None))
    return session.scalar(kept) is not None


@dataclass(frozen=True)
class EarlierRun:
    """A finished run as a list names it."""

    id: int
    revision: int
    made_at: datetime


def earlier_runs(session: Session, job_id: int) -> list[EarlierRun]:
    """The newest finished runs of a job, without their documents, oldest first."""
    columns = select(HeatRunRow.id, HeatRunRow.revision, HeatRunRow.made_at)
    done = type_coerce(HeatRunRow.result, Text)
    chosen = columns.where(HeatRunRow.job_id == job_id, done.is_not(None), done != "null")
    rows = session.execute(chosen.order_by(HeatRunRow.id.desc()).limit(EARLIER)).all()
    return [EarlierRun(*row) for row in reversed(rows)]


def result_of(row: HeatRunRow | None) -> PartResult | None:
    """What came of a run; None where it is not finished, or cannot be read."""
    return readable(PartResult, row.result) if row is not None and row.result else None


def part_of(row: HeatRunRow | None) -> PartDrawing | None:
    """The drawing of a run; None where it cannot be read."""
    return readable(PartDrawing, row.part) if row is not None else None


def packed(film: Film) -> bytes:
    """A film as it is kept: its bytes, picture after picture, by gzip."""
    import gzip

    return gzip.compress(film.pictures.tobytes(), 6)
