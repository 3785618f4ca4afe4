"""What a person might find a job by: its words in an index beside the book, and the columns it is narrowed
by.
"""

from __future__ import annotations

from collections.abc import Iterable

from sqlalchemy import Text, select, text, type_coerce
from sqlalchemy.orm import Session

from anvilsong.store.columns import Document
from anvilsong.store.models import CouponRow, JobRow, PlanRow, ReadingRow, TermRow
from anvilsong.store.narrowing import columns_of
from anvilsong.store.spelling import terms_of


def index_words(session: Session, row: JobRow) -> None:
    """Write everything that a job is found by, in the same transaction as the change."""
    job = _index_columns(session, row)
    with_note = type_coerce(ReadingRow.document, Text).like('%"note": "_%')
    notes = [
        str(reading["note"])
        for reading in session.scalars(
            select(ReadingRow.document)
            .join(CouponRow, ReadingRow.coupon_id == CouponRow.id)
            .where(CouponRow.job_id == row.id, with_note)
        )
        if reading.get("note")
    ]
    terms = terms_of(searchable(row.title, job, row.welder.name if row.welder else "", notes))
    session.execute(text("DELETE FROM words WHERE rowid = :id"), {"id": row.id})
    session.execute(
        text("INSERT INTO words (rowid, text) VALUES (:id, :text)"), {"id": row.id, "text": " ".join(terms)}
    )
    add_terms(session, terms)


def index_note(session: Session, row: JobRow, note: str) -> None:
    """The same once a coupon of the job was read: the words of its note are added, all others stand there."""
    _index_columns(session, row)
    fresh = list(dict.fromkeys(terms_of(note)))
    if not fresh:
        return
    stands = session.scalar(text("SELECT text FROM words WHERE rowid = :id"), {"id": row.id})
    if stands is None:
        index_words(session, row)
        return
    held = set(stands.split())
    fresh = [term for term in fresh if term not in held]
    if fresh:
        added = text("UPDATE words SET text = text || ' ' || :terms WHERE rowid = :id")
        session.execute(added, {"id": row.id, "terms": " ".join(fresh)})
        add_terms(session, fresh)


def _index_columns(session: Session, row: JobRow) -> Document:
    """What lists narrow a job by, as its newest version and its newest coupon have it; the job's document."""
    newest = session.execute(
        select(PlanRow.job_document, PlanRow.settings)
        .where(PlanRow.job_id == row.id)
        .order_by(PlanRow.revision.desc())
        .limit(1)
    ).first()
    job: Document
    job, settings = newest or ({}, None)
    for name, value in columns_of(job, settings is not None, _last_kind(session, row.id)).items():
        setattr(row, name, value)
    session.flush()
    return job


def _last_kind(session: Session, job_id: int) -> str | None:
    """What the newest reading of the newest coupon asked for; None without a coupon."""
    newest = session.scalar(
        select(CouponRow.id).where(CouponRow.job_id == job_id).order_by(CouponRow.number.desc()).limit(1)
    )
    if newest is None:
        return None
    asked = select(ReadingRow.kind).where(ReadingRow.coupon_id == newest)
    return session.scalar(asked.order_by(ReadingRow.revision.desc()).limit(1)) or ""


def add_terms(session: Session, terms: Iterable[str]) -> None:
    """Write the words that no job had before, so that a misspelt one finds them."""
    asked = set(terms)
    known = set(session.scalars(select(TermRow.term).where(TermRow.term.in_(asked))))
    session.add_all(TermRow(term=term) for term in sorted(asked - known))


def searchable(title: str, job: Document, welder: str, notes: list[str]) -> str:
    """Everything of a job that a person might search for, as one text; whatever of it is there."""
    sides = [job.get(letter) for letter in ("a", "b")]
    pieces = [title, str(job.get("joint", "")).replace("_", " ")]
    pieces += [
        str(side.get(key, "")) for key in ("alloy", "thickness") for side in sides if isinstance(side, dict)
    ]
    purposes = job.get("purposes")
    pieces += [
        str(job.get("machine") or ""),
        welder,
        " ".join(map(str, purposes)) if isinstance(purposes, list) else "",
    ]
    return " ".join([*pieces, str(job.get("surface", "")), str(job.get("position", "")), *notes])
