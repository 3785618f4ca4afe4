"""What comes with coupons: photographs, and later sound and traces. Functions take a session; the caller
commits.
"""

from __future__ import annotations

from collections.abc import Iterable
from typing import TYPE_CHECKING

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from anvilsong.core.errors import BadInput
from anvilsong.core.words import sentence
from anvilsong.store.columns import Document
from anvilsong.store.models import AttachmentRow, CouponRow, JobRow, fresh_uid, now

if TYPE_CHECKING:  # what reads pictures brings libraries along
    from anvilsong.instruments import Picture

PHOTOGRAPH = "photograph"
MOST_OF_A_JOB = 200


def add_attachment(
    session: Session, job: JobRow, kind: str, media_type: str, content: bytes
) -> AttachmentRow:
    """Keep what came with a coupon that is yet to be recorded.

    Raises
    ------
    BadInput : the job has as many as one may
    """
    count = session.scalar(select(func.count()).where(AttachmentRow.job_id == job.id)) or 0
    if count >= MOST_OF_A_JOB:
        raise BadInput.one(
            kind, f"{count} of this job", sentence("store.most_belong_one_job", most_of_a_job=MOST_OF_A_JOB)
        )
    row = AttachmentRow(
        job_id=job.id, kind=kind, media_type=media_type, content=content, uid=fresh_uid(), document={}
    )
    session.add(row)
    job.changed_at = now()
    session.flush()
    return row


def add_photograph(session: Session, job: JobRow, picture: Picture) -> AttachmentRow:
    """Keep a photograph with its job.

    Raises
    ------
    BadInput : the job has as many as one may
    """
    row = add_attachment(session, job, PHOTOGRAPH, "image/jpeg", picture.jpeg)
    row.document = {"width_px": picture.width_px, "height_px": picture.height_px}
    session.flush()
    return row


def add_again(session: Session, job: JobRow, row: AttachmentRow, document: Document) -> AttachmentRow:
    """The same picture once more, for another bead that is on it.

    Raises
    ------
    BadInput : the job has as many as one may
    """
    again = add_attachment(session, job, row.kind, row.media_type, row.content)
    again.document = document
    session.flush()
    return again


def find_attachment(session: Session, job_id: int, attachment_id: int) -> AttachmentRow | None:
    """One of a job's; put away or not."""
    return session.scalar(
        select(AttachmentRow).where(AttachmentRow.job_id == job_id, AttachmentRow.id == attachment_id)
    )


def find_named(session: Session, job_id: int, uid: str) -> AttachmentRow | None:
    """One of a job's by the name that no other book gives."""
    return session.scalar(
        select(AttachmentRow).where(AttachmentRow.job_id == job_id, AttachmentRow.uid == uid)
    )


def attachments_of(session: Session, job_id: int, kind: str = PHOTOGRAPH) -> list[AttachmentRow]:
    """Those of a job that are not put away, oldest first."""
    return list(
        session.scalars(
            select(AttachmentRow)
            .where(
                AttachmentRow.job_id == job_id,
                AttachmentRow.kind == kind,
                AttachmentRow.put_away_at.is_(None),
            )
            .order_by(AttachmentRow.id)
        )
    )


def of_coupons(session: Session, coupon_ids: Iterable[int]) -> dict[int, list[AttachmentRow]]:
    """Photographs by the coupon they came with."""
    found: dict[int, list[AttachmentRow]] = {}
    rows = select(AttachmentRow).where(
        AttachmentRow.coupon_id.in_(list(coupon_ids)),
        AttachmentRow.kind == PHOTOGRAPH,
        AttachmentRow.put_away_at.is_(None),
    )
    for row in session.scalars(rows.order_by(AttachmentRow.id)):
        found.setdefault(int(row.coupon_id or 0), []).append(row)
    return found


def waiting(session: Session, job_id: int) -> list[AttachmentRow]:
    """Photographs of a job that belong to no coupon and no weld on a part yet, oldest first."""
    return [
        row for row in attachments_of(session, job_id) if row.coupon_id is None and row.part_run_id is None
    ]


def of_runs(session: Session, run_ids: Iterable[int]) -> dict[int, int]:
    """The numbers of photographs by the welds on parts that they show."""
    asked = select(AttachmentRow.part_run_id, AttachmentRow.id).where(
        AttachmentRow.part_run_id.in_(list(run_ids)), AttachmentRow.put_away_at.is_(None)
    )
    return {int(run or 0): number for run, number in session.execute(asked)}


def keep_reading(row: AttachmentRow, document: Document) -> None:
    """What was read from it, in place of what was read before."""
    row.document = document


def give_to(session: Session, row: AttachmentRow, coupon: CouponRow) -> None:
    """The attachment belongs to a coupon of its job from now on; one that has a coupon keeps it."""
    if row.coupon_id is None and row.part_run_id is None and row.job_id == coupon.job_id:
        row.coupon_id = coupon.id
        session.flush()
