"""The jobs of an export, some at a time: checked entries, with what is damaged left out and named."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from anvilsong.store.exchange_format import JobEntry
from anvilsong.store.kept_models import MemoryRow, PartRunRow
from anvilsong.store.models import (
    BenchTrialRow,
    CouponRow,
    HeatRunRow,
    JobRow,
    PlanRow,
    ReadingRow,
    TickRow,
)
from anvilsong.store.reading import readable

MOST_AT_ONCE, MOST_NAMED = 600, 12
ONE_OF = {"plans": "revision", "heat_runs": "part", "memories": "memory", "part_runs": "run on a part"}
PLAN_FIELDS = (
    "revision", "origin", "words", "job_document", "machine_document", "settings", "recipe", "recipe_why",
    "recipe_at", "from_recipe", "plan", "made_at",
)  # fmt: skip
MEMORY_FIELDS = ("uid", "revision", "machine", "slot", "label", "gone_at", "panel", "made_at")
# The lists of a job: their tables, in what order they stand, and what the entries take.
LISTS: dict[str, tuple[Any, tuple[Any, ...], tuple[str, ...]]] = {
    "plans": (PlanRow, (PlanRow.job_id, PlanRow.revision), PLAN_FIELDS),
    "ticks": (TickRow, (TickRow.id,), ("step", "done_at")),
    "heat_runs": (HeatRunRow, (HeatRunRow.id,), ("uid", "revision", "part", "result", "made_at")),
    "trials": (BenchTrialRow, (BenchTrialRow.id,), ("uid", "document", "made_at")),
    "memories": (MemoryRow, (MemoryRow.id,), MEMORY_FIELDS),
    "part_runs": (PartRunRow, (PartRunRow.id,), ("uid", "revision", "document", "made_at")),
}
COUPON_FIELDS = ("uid", "number", "revision", "left_out", "made_at")
READING_FIELDS = ("document", "verdict", "change", "typed", "made_at")


@dataclass
class Written:
    """How much an export holds, and what could not be read and was left out."""

    jobs: int = 0
    machines: int = 0
    damaged: list[str] = field(default_factory=list)
    """What was left out, each named as its owner would look for it."""

    @property
    def left_out(self) -> int:
        """How many entries were left out."""
        return len(self.damaged)

    @property
    def said(self) -> str:
        """The outcome in words."""
        return f"{self.jobs} jobs and {self.machines} machines{self.left_out_said}"

    @property
    def left_out_said(self) -> str:
        """What was left out, as the end of a sentence; empty where nothing was."""
        if not self.damaged:
            return ""
        named = ", ".join(self.damaged[:MOST_NAMED])
        more = f" and {self.left_out - MOST_NAMED} more" if self.left_out > MOST_NAMED else ""
        entries = "entry was" if self.left_out == 1 else "entries were"
        return f"; {self.left_out} damaged {entries} left out: {named}{more}"


def jobs_as_entries(session: Session, welders: set[str], written: Written) -> Iterator[dict[str, Any]]:
    """Every job that passes, oldest first; what does not is named in ``written``."""
    for jobs in _pieces(session):
        rows = session.scalars(select(JobRow).where(JobRow.id.in_(jobs)).order_by(JobRow.id)).all()
        lists = {name: _of_jobs(session, name, jobs) for name in LISTS}
        lists["coupons"] = _coupons(session, jobs)
        for row in rows:
            given = {name: of_jobs.get(row.id, []) for name, of_jobs in lists.items()}
            entry = _job(row, given, welders, written)
            if entry is not None:
                yield entry
        session.expunge_all()


def _pieces(session: Session) -> Iterator[list[int]]:
    """The numbers of all jobs, some at a time, so that those of one piece have few coupons and versions."""
    of_job = [select(func.count()).where(table.job_id == JobRow.id) for table in (CouponRow, PlanRow)]
    counts = select(JobRow.id, *(each.scalar_subquery() for each in of_job)).order_by(JobRow.id)
    piece, held = list[int](), 0
    for number, *counted in session.execute(counts).all():
        if piece and held + sum(counted) > MOST_AT_ONCE:
            yield piece
            piece, held = [], 0
        piece.append(number)
        held += sum(counted) + 1
    if piece:
        yield piece


def _of_jobs(session: Session, name: str, jobs: list[int]) -> dict[int, list[dict[str, Any]]]:
    """The rows of one of their lists, by the numbers of the jobs: the columns that the entries take."""
    table, order, fields = LISTS[name]
    asked = select(table.job_id, *(getattr(table, field) for field in fields))
    found: dict[int, list[dict[str, Any]]] = {}
    for job, *values in session.execute(asked.where(table.job_id.in_(jobs)).order_by(*order)):
        found.setdefault(job, []).append(dict(zip(fields, values, strict=True)))
    return found


def _coupons(session: Session, jobs: list[int]) -> dict[int, list[dict[str, Any]]]:
    of_reading = [getattr(ReadingRow, name) for name in READING_FIELDS]
    asked = (
        select(ReadingRow.coupon_id, *of_reading)
        .join(CouponRow, CouponRow.id == ReadingRow.coupon_id)
        .where(CouponRow.job_id.in_(jobs))
        .order_by(ReadingRow.coupon_id, ReadingRow.revision)
    )
    readings: dict[int, list[dict[str, Any]]] = {}
    for coupon, *values in session.execute(asked):
        readings.setdefault(coupon, []).append(dict(zip(READING_FIELDS, values, strict=True)))
    run = (
        select(
            CouponRow.job_id, CouponRow.id, CouponRow.uid, CouponRow.number, PlanRow.revision,
            CouponRow.left_out, CouponRow.made_at,
        )
        .join(PlanRow, PlanRow.id == CouponRow.plan_id)
        .where(CouponRow.job_id.in_(jobs))
        .order_by(CouponRow.job_id, CouponRow.number)
    )  # fmt: skip
    found: dict[int, list[dict[str, Any]]] = {}
    for job, number, *values in session.execute(run):
        coupon = dict(zip(COUPON_FIELDS, values, strict=True)) | {"readings": readings.get(number, [])}
        found.setdefault(job, []).append(coupon)
    return found


def _job(
    row: JobRow, given: dict[str, list[dict[str, Any]]], welders: set[str], written: Written
) -> dict[str, Any] | None:
    """A job as an entry, with what is given of its lists. When it does not pass as a whole, what does pass of
    its plans, coupons and ticks is kept.
    """
    head: dict[str, Any] = {
        "uid": row.uid,
        "title": row.title,
        "made_at": row.made_at,
        "changed_at": row.changed_at,
        "put_away_at": row.put_away_at,
    }
    head["welder"] = row.welder.name if row.welder and row.welder.name in welders else None
    whole = readable(JobEntry, head | given)
    if whole is None:
        kept: dict[str, Any] = head
        for words, entries in given.items():
            kept = kept | {words: [one for one in entries if _passes(kept, words, one)]}
        whole = readable(JobEntry, kept)
        if whole is None:
            written.damaged.append(f"job “{row.title}”")
            return None
        for words, entries in given.items():
            lost = len(entries) - len(kept[words])
            one = ONE_OF.get(words, words.removesuffix("s"))
            written.damaged += [f"a {one} of job “{row.title}”"] * lost
    return whole.model_dump(mode="json", by_alias=True)


def _passes(kept: dict[str, Any], words: str, one: dict[str, Any]) -> bool:
    """Whether one entry of a job's list can be read, beside what is kept of the lists before it."""
    return readable(JobEntry, kept | {words: [one]}) is not None
