"""What a person might search a job by, in an index beside the book."""

from __future__ import annotations

from sqlalchemy import select, text
from sqlalchemy.orm import Session

from anvilsong.store.columns import Document
from anvilsong.store.models import CouponRow, JobRow, PlanRow, ReadingRow


def index_words(session: Session, row: JobRow) -> None:
    """Write everything a person might search for into the index, in the same transaction as the change."""
    job = (
        session.scalars(
            select(PlanRow.job_document).where(PlanRow.job_id == row.id).order_by(PlanRow.revision.desc())
        ).first()
        or {}
    )
    notes = [
        str(reading["note"])
        for reading in session.scalars(
            select(ReadingRow.document)
            .join(CouponRow, ReadingRow.coupon_id == CouponRow.id)
            .where(CouponRow.job_id == row.id)
        )
        if isinstance(reading, dict) and reading.get("note")
    ]
    text_of = searchable(row.title, job, row.welder.name if row.welder else "", notes)
    session.execute(text("DELETE FROM words WHERE rowid = :id"), {"id": row.id})
    session.execute(
        text("INSERT INTO words (rowid, text) VALUES (:id, :text)"), {"id": row.id, "text": text_of}
    )


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
