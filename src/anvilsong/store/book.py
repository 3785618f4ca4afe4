"""The book: jobs, their plans, coupons, and finding them again. Functions take a session; the caller commits."""

from __future__ import annotations

import re
from dataclasses import dataclass

from pydantic import TypeAdapter, ValidationError
from sqlalchemy import func, select, text
from sqlalchemy.orm import Session, selectinload

from anvilsong.core.bead.coupon import Readings
from anvilsong.core.bead.next_change import NextChange, next_change
from anvilsong.core.bead.verdict import Verdict, read
from anvilsong.core.errors import BadInput
from anvilsong.core.job import Job
from anvilsong.core.machine.model import IDEAL, Machine, with_torch
from anvilsong.core.plan.planner import make_plan, torch_for
from anvilsong.core.plan.values import Plan
from anvilsong.core.plan.worked_out import with_settings
from anvilsong.core.settings import Settings
from anvilsong.core.value import Title
from anvilsong.store import shop
from anvilsong.store.models import CouponRow, Document, JobRow, PlanRow, ReadingRow, TickRow, fresh_uid, now
from anvilsong.store.reading import document, readable

MOST_WORDS = 12  # of a search
_TITLE: TypeAdapter[str] = TypeAdapter(Title)


# --- jobs and plans -------------------------------------------------------------------------------------------------


def get_job(session: Session, job_id: int) -> JobRow | None:
    """A job with everything a page needs, or None."""
    loaded = (
        selectinload(JobRow.plans),
        selectinload(JobRow.coupons).selectinload(CouponRow.readings),
        selectinload(JobRow.welder),
        selectinload(JobRow.ticks),
    )
    return session.scalar(select(JobRow).where(JobRow.id == job_id).options(*loaded))


def clean_title(title: str) -> str:
    """A job's title as it is stored."""
    try:
        return _TITLE.validate_python(title)
    except ValidationError:
        raise BadInput.one(
            "title", title, "give it a name of 1 to 120 letters on one line, such as Float tank lid"
        ) from None


def add_job(
    session: Session, title: str, job: Job, welder_id: int | None = None, uid: str | None = None
) -> JobRow:
    """A new job with its first plan. A form sent twice carries the same ``uid``, and makes one job."""
    clean, welder = clean_title(title), shop.find_welder(session, welder_id)
    if uid and (here := session.scalar(select(JobRow).where(JobRow.uid == uid))):
        return here
    row = JobRow(title=clean, welder=welder, uid=uid or fresh_uid())
    session.add(row)
    session.flush()
    add_plan(session, row, job, "plan", "First plan")
    return row


def add_plan(
    session: Session, row: JobRow, job: Job, origin: str, words: str, settings: Settings | None = None
) -> PlanRow:
    """A new revision: planned afresh, or the same job with other settings. Nothing is overwritten."""
    machine = shop.find_machine(session, job.machine)
    kit = shop.find_kit(session, job.kit)
    plan = make_plan(job, machine, kit)
    if plan.settings is not None:
        machine = with_torch(machine, torch_for(job, settings or plan.settings, kit))
    if settings is not None and plan.settings is not None:
        plan = with_settings(plan, settings, machine)
    revision = 1 + (session.scalar(select(func.max(PlanRow.revision)).where(PlanRow.job_id == row.id)) or 0)
    added = PlanRow(
        job=row,
        revision=revision,
        origin=origin,
        words=words,
        job_document=document(job),
        machine_document=document(machine),
        settings=document(plan.settings) if plan.settings else None,
        plan=document(plan),
    )
    session.add(added)
    row.changed_at = now()
    session.flush()
    index_words(session, row)
    return added


@dataclass(frozen=True)
class ReadPlan:
    """A stored revision as core values, and what had to be worked out again because it could not be read."""

    plan: Plan
    machine: Machine
    notices: list[str]


def read_plan(row: PlanRow) -> ReadPlan | None:
    """A revision back from its documents; None when not even its job can be read.

    What is damaged is replaced by what follows from the rest: the machine by the ideal one, the plan by working it out again.
    """
    notices: list[str] = []
    machine = readable(Machine, row.machine_document)
    if machine is None:
        machine = IDEAL
        notices.append(
            "What is stored of this revision’s machine cannot be read: an ideal machine stands in for it."
        )
    plan, job, settings = (
        readable(Plan, row.plan),
        readable(Job, row.job_document),
        readable(Settings, row.settings) if row.settings else None,
    )
    if plan is not None and job is not None and (plan.settings is not None) == (row.settings is not None):
        return ReadPlan(plan, machine, notices)
    if job is None:
        job = plan.job if plan is not None else None
    if job is None:
        return None
    notices.append("What is stored of this revision’s plan cannot be read: it was worked out again.")
    fresh = make_plan(job, machine)
    if settings is not None and fresh.settings is not None:
        fresh = with_settings(fresh, settings, machine)
    return ReadPlan(fresh, machine, notices)


def current_plan(row: JobRow) -> PlanRow:
    return row.plans[-1]


# --- coupons --------------------------------------------------------------------------------------------------------


def judge(plan: PlanRow, readings: Readings) -> tuple[Verdict, NextChange]:
    """The verdict on readings and the next change, for the settings of a plan."""
    made = read_plan(plan)
    if made is None or made.plan.settings is None:
        raise BadInput.one(
            "plan",
            f"revision {plan.revision}",
            "what is stored of it cannot be read, so there is nothing to judge a coupon by",
        )
    job, machine, settings = made.plan.job, made.machine, made.plan.settings
    verdict = read(job, settings, readings, machine)
    return verdict, next_change(job, settings, readings, verdict, machine)


def add_coupon(
    session: Session,
    row: JobRow,
    plan: PlanRow,
    readings: Readings,
    uid: str | None = None,
    typed: Document | None = None,
) -> CouponRow:
    """Record a coupon run with the settings of a plan. A form sent twice carries the same ``uid``, and makes one coupon."""
    if uid and (here := session.scalar(select(CouponRow).where(CouponRow.uid == uid))):
        return here
    if plan.settings is None:
        raise BadInput.one(
            "plan",
            f"revision {plan.revision}",
            "this job is refused, so there are no settings to run a coupon with",
        )
    number = 1 + (session.scalar(select(func.max(CouponRow.number)).where(CouponRow.job_id == row.id)) or 0)
    coupon = CouponRow(job=row, plan=plan, number=number, uid=uid or fresh_uid())
    session.add(coupon)
    _add_readings(coupon, plan, readings, typed)
    row.changed_at = now()
    session.flush()
    index_words(session, row)
    return coupon


def correct_coupon(
    session: Session, coupon: CouponRow, readings: Readings, typed: Document | None = None
) -> None:
    """Readings typed again: a new row, the old one stays."""
    _add_readings(coupon, coupon.plan, readings, typed)
    session.flush()
    index_words(session, coupon.job)


def _add_readings(coupon: CouponRow, plan: PlanRow, readings: Readings, typed: Document | None) -> None:
    verdict, change = judge(plan, readings)
    revision = len(coupon.readings) + 1
    coupon.readings.append(
        ReadingRow(
            revision=revision,
            document=document(readings),
            verdict=document(verdict),
            change=document(change),
            typed=typed,
        )
    )


# --- ticks ----------------------------------------------------------------------------------------------------------


def tick(session: Session, row: JobRow, step: str, done: bool) -> None:
    """Mark a step of the run sheet done, or not."""
    found = session.scalar(select(TickRow).where(TickRow.job_id == row.id, TickRow.step == step))
    if done and found is None:
        session.add(TickRow(job_id=row.id, step=step))
    elif not done and found is not None:
        session.delete(found)


# --- words ----------------------------------------------------------------------------------------------------------


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
    session.execute(text("DELETE FROM words WHERE job_id = :id"), {"id": row.id})
    session.execute(
        text("INSERT INTO words (job_id, text) VALUES (:id, :text)"), {"id": row.id, "text": text_of}
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


def count_put_away(session: Session) -> int:
    """How many jobs were put away."""
    return (
        session.scalar(select(func.count()).select_from(JobRow).where(JobRow.put_away_at.is_not(None))) or 0
    )


def find_jobs(session: Session, query: str = "", limit: int = 200, away: bool = False) -> list[JobRow]:
    """Jobs whose words begin with every word asked, newest change first; all of them when nothing is asked. ``away``: those put away."""
    here = JobRow.put_away_at.is_not(None) if away else JobRow.put_away_at.is_(None)
    chosen = (
        select(JobRow)
        .where(here)
        .options(
            selectinload(JobRow.plans),
            selectinload(JobRow.coupons).selectinload(CouponRow.readings),
            selectinload(JobRow.welder),
        )
    )
    words = re.findall(r"\w+", query)[:MOST_WORDS]
    if words:
        match = " ".join(f'"{word}"*' for word in words)
        ids = session.scalars(
            text("SELECT job_id FROM words WHERE words MATCH :match"), {"match": match}
        ).all()
        chosen = chosen.where(JobRow.id.in_([int(found) for found in ids]))
    elif query.strip():
        return []
    return list(session.scalars(chosen.order_by(JobRow.changed_at.desc(), JobRow.id.desc()).limit(limit)))
