"""Photographs in an export: written one at a time after the jobs, read back the same way."""

from __future__ import annotations

import json
from base64 import b64encode
from collections.abc import Iterator
from typing import Any, BinaryIO

import ijson
from pydantic import ValidationError
from sqlalchemy import select
from sqlalchemy.orm import Session

from anvilsong.core.errors import BadInput
from anvilsong.core.words import sentence
from anvilsong.store.attachments import PHOTOGRAPH
from anvilsong.store.exchange_format import PhotographEntry
from anvilsong.store.exchange_reading import as_now, checked_entry
from anvilsong.store.kept_models import PartRunRow
from anvilsong.store.models import AttachmentRow, CouponRow, JobRow

MOST_PHOTOGRAPHS = 100_000


def picture_pieces(session: Session, coupons_of: dict[str, set[str]]) -> Iterator[str | None]:
    """Each photograph of these jobs as JSON, with its coupon where that is one of these; None for one whose
    row is damaged.
    """
    rows = (
        select(AttachmentRow.id, JobRow.uid, CouponRow.uid, PartRunRow.uid)
        .join(JobRow, JobRow.id == AttachmentRow.job_id)
        .outerjoin(CouponRow, CouponRow.id == AttachmentRow.coupon_id)
        .outerjoin(PartRunRow, PartRunRow.id == AttachmentRow.part_run_id)
        .where(AttachmentRow.kind == PHOTOGRAPH)
        .order_by(AttachmentRow.id)
    )
    for number, job, coupon, run in session.execute(rows).all():
        if job in coupons_of:
            row = session.get_one(AttachmentRow, number)
            yield _piece(row, job, coupon if coupon in coupons_of[job] else None, run)
            session.expunge(row)


def _piece(row: AttachmentRow, job: str, coupon: str | None, run: str | None) -> str | None:
    given = {name: row.document.get(name) for name in ("width_px", "height_px", "bead")}
    head = {"uid": row.uid, "job": job, "coupon": coupon, "run": run}
    when = {"made_at": row.made_at, "put_away_at": row.put_away_at}
    try:
        entry = PhotographEntry.model_validate({**head, **when, **given, "content": b64encode(row.content)})
    except (ValidationError, RecursionError):
        return None
    return json.dumps(entry.model_dump(mode="json"), ensure_ascii=False)


def stage_pictures(staged: Session, given: BinaryIO, version: int) -> None:
    """The photographs of a file, checked, with the jobs that they belong to.

    Raises
    ------
    BadInput : one cannot be used; the sentence names its place
    """
    given.seek(0)
    for place, entry in enumerate(ijson.items(given, "photographs.item", use_float=True)):
        if place >= MOST_PHOTOGRAPHS:
            raise BadInput.one(
                "photographs",
                place,
                sentence("store.there_may_them_most_2", most_photographs=MOST_PHOTOGRAPHS),
            )
        now = as_now("photographs", entry, version)
        _stage(staged, checked_entry(PhotographEntry, now, f"photographs.{place}"), f"photographs.{place}")


def _stage(staged: Session, entry: PhotographEntry, place: str) -> None:
    from anvilsong.instruments.pictures import is_kept

    job = staged.scalar(select(JobRow.id).where(JobRow.uid == entry.job))
    if job is None:
        raise BadInput.one(f"{place}.job", entry.job, sentence("store.job_not_file"))
    coupon = None
    if entry.coupon is not None:
        coupon = staged.scalar(
            select(CouponRow.id).where(CouponRow.uid == entry.coupon, CouponRow.job_id == job)
        )
        if coupon is None:
            raise BadInput.one(f"{place}.coupon", entry.coupon, sentence("store.coupon_not_one_job"))
    run = None
    if entry.run is not None:
        run = staged.scalar(
            select(PartRunRow.id).where(PartRunRow.uid == entry.run, PartRunRow.job_id == job)
        )
        if run is None or coupon is not None:
            raise BadInput.one(f"{place}.run", entry.run, sentence("store.run_not_one_job"))
    if staged.scalar(select(AttachmentRow.id).where(AttachmentRow.uid == entry.uid)):
        raise BadInput.one(f"{place}.uid", entry.uid, sentence("store.stands_twice_file"))
    if not is_kept(entry.content, entry.width_px, entry.height_px):
        raise BadInput.one(f"{place}.content", "this picture", sentence("store.whole_jpeg_size_says"))
    document: dict[str, Any] = {"width_px": entry.width_px, "height_px": entry.height_px}
    if entry.bead is not None:
        document["bead"] = entry.bead.model_dump(mode="json")
    row = AttachmentRow(
        uid=entry.uid,
        job_id=job,
        coupon_id=coupon,
        part_run_id=run,
        kind=PHOTOGRAPH,
        media_type="image/jpeg",
        content=entry.content,
        document=document,
        made_at=entry.made_at,
        put_away_at=entry.put_away_at,
    )
    staged.add(row)
    staged.flush()
    staged.expunge(row)
