"""Exercises that were done, by welder. The caller commits."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import Any

from sqlalchemy import Select, delete, func, select
from sqlalchemy.orm import Session, selectinload

from anvilsong.core.errors import BadInput
from anvilsong.core.practice import Practised, Skill
from anvilsong.core.practice.progress import SKILLS, Done, coupon_score
from anvilsong.core.words import sentence
from anvilsong.store.exchange_format import MOST_PRACTISED
from anvilsong.store.kept_models import PracticeRow
from anvilsong.store.looks import verdict_of
from anvilsong.store.models import CouponRow, JobRow, WelderRow
from anvilsong.store.reading import document, readable

AT_ONCE = 200
Kept = tuple[PracticeRow, Practised]


def add_practised(session: Session, welder: str, done: Practised) -> PracticeRow:
    """An exercise that a welder did.

    Raises
    ------
    BadInput : as many as a logbook keeps
    """
    count = session.scalar(select(func.count()).select_from(PracticeRow)) or 0
    if count >= MOST_PRACTISED:
        raise BadInput.one("practice", count, sentence("store.practised_too_many", most=MOST_PRACTISED))
    row = PracticeRow(
        welder=welder, skill=done.skill, item=done.item, score=done.score, document=document(done)
    )
    session.add(row)
    session.flush()
    return row


def find_practised(session: Session, number: int) -> Kept | None:
    """One exercise by its number; None where there is none that can be read."""
    row = session.get(PracticeRow, number)
    done = readable(Practised, row.document) if row is not None else None
    return (row, done) if row is not None and done is not None else None


def practised(
    session: Session, welder: str, skill: str | None = None, limit: int | None = None, skip: int = 0
) -> list[Kept]:
    """What a welder did, the newest first; what cannot be read is passed over."""
    asked = select(PracticeRow).where(PracticeRow.welder == welder)
    if skill is not None:
        asked = asked.where(PracticeRow.skill == skill)
    return list(_read(session.scalars(_newest_first(asked).limit(limit).offset(skip))))


def every_practised(session: Session, welder: str) -> Iterator[Kept]:
    """The same, read piece by piece."""
    asked = _newest_first(select(PracticeRow).where(PracticeRow.welder == welder))
    yield from _read(session.scalars(asked.execution_options(yield_per=AT_ONCE)))


def scores(session: Session, welder: str, limit: int) -> list[Done]:
    """When a welder did what and how well, the newest first; no document is read for it."""
    asked = (
        select(PracticeRow.made_at, PracticeRow.skill, PracticeRow.score)
        .where(PracticeRow.welder == welder, PracticeRow.skill.in_(SKILLS))
        .order_by(PracticeRow.made_at.desc(), PracticeRow.id.desc())
        .limit(limit)
    )
    by_key: dict[str, Skill] = {key: key for key in SKILLS}
    return [Done(at, by_key[skill], score) for at, skill, score in session.execute(asked)]


def coupon_scores(session: Session, welder: str, limit: int) -> list[Done]:
    """The real coupons of a welder's jobs as they were judged last, the newest first."""
    asked = (
        select(CouponRow)
        .join(JobRow, CouponRow.job_id == JobRow.id)
        .join(WelderRow, JobRow.welder_id == WelderRow.id)
        .where(WelderRow.name == welder)
        .options(selectinload(CouponRow.readings))
        .order_by(CouponRow.id.desc())
        .limit(limit)
    )
    judged = [(row.made_at, verdict_of(row)) for row in session.scalars(asked)]
    return [Done(at, "bench", coupon_score(verdict)) for at, verdict in judged if verdict is not None]


def count(session: Session, welder: str) -> int:
    """How much a welder practised."""
    return session.scalar(select(func.count()).where(PracticeRow.welder == welder)) or 0


def before(session: Session, row: PracticeRow) -> Kept | None:
    """The same exercise as the same welder did it last before; None where it was the first time."""
    asked = select(PracticeRow).where(
        PracticeRow.welder == row.welder,
        PracticeRow.skill == row.skill,
        PracticeRow.item == row.item,
        PracticeRow.id < row.id,
    )
    return next(_read(session.scalars(_newest_first(asked).limit(1))), None)


def welders_practised(session: Session) -> list[str]:
    """The names of those who practised; an empty one stands for nobody who said so."""
    return list(session.scalars(select(PracticeRow.welder).distinct().order_by(PracticeRow.welder)))


def erase(session: Session, welder: str) -> int:
    """Forget all that a welder practised; how much it was."""
    found: Any = session.execute(delete(PracticeRow).where(PracticeRow.welder == welder))
    return int(found.rowcount)


def _newest_first(asked: Select[PracticeRow]) -> Select[PracticeRow]:
    return asked.order_by(PracticeRow.made_at.desc(), PracticeRow.id.desc())


def _read(rows: Iterable[PracticeRow]) -> Iterator[Kept]:
    for row in rows:
        done = readable(Practised, row.document)
        if done is not None:
            yield row, done
