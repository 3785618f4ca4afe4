"""The book: jobs and their plans, and finding them again. Functions take a session; the caller commits."""

from __future__ import annotations

import json
from dataclasses import dataclass
from functools import lru_cache

from pydantic import TypeAdapter, ValidationError
from sqlalchemy import Text, and_, func, inspect, select, type_coerce
from sqlalchemy.orm import Session, aliased, object_session, selectinload

from anvilsong.core.errors import BadInput
from anvilsong.core.job import Job
from anvilsong.core.machine import IDEAL, Machine
from anvilsong.core.model import Plan, equipped
from anvilsong.core.plan import worked_out
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.value import Title
from anvilsong.core.words import sentence
from anvilsong.store import shop
from anvilsong.store.finding import meant
from anvilsong.store.lines import matching
from anvilsong.store.models import JobRow, PlanRow, TickRow, fresh_uid, now
from anvilsong.store.reading import document, read_text, readable, readable_text
from anvilsong.store.remembered import WORKED
from anvilsong.store.words import index_words

_TITLE: TypeAdapter[str] = TypeAdapter(Title)


def get_job(session: Session, job_id: int) -> JobRow | None:
    """A job with its welder and ticks, or None; its plans and coupons, of which there may be hundreds, when
    asked for.
    """
    loaded = (selectinload(JobRow.welder), selectinload(JobRow.ticks))
    return session.scalar(select(JobRow).where(JobRow.id == job_id).options(*loaded))


def clean_title(title: str) -> str:
    """A job's title as it is stored."""
    try:
        return _TITLE.validate_python(title)
    except ValidationError:
        raise BadInput.one("title", title, sentence("store.give_name_letters_one")) from None


def add_job(session: Session, title: str, job: Job, welder_id: int | None = None) -> JobRow:
    """A new job with its first plan."""
    row = JobRow(title=clean_title(title), welder=shop.find_welder(session, welder_id), uid=fresh_uid())
    session.add(row)
    session.flush()
    add_plan(session, row, job, "plan", "First plan")
    return row


def add_plan(
    session: Session, row: JobRow, job: Job, origin: str, words: Words, settings: Settings | None = None
) -> PlanRow:
    """A new revision: planned afresh, or the same job with other settings. Nothing is overwritten.

    What is planned afresh uses what coupons said since; other settings are judged by what their plan was made
    with, so that figures move by the settings alone.
    """
    bench = shop.bench_of(session, job)
    if settings is not None and (before := find_plan(session, row.id)) is not None:
        made = read_plan(before)
        if made is not None and made.is_as_stored and made.plan.coefficients is not None:
            bench = bench._replace(c=made.plan.coefficients)
    plan = WORKED.of(worked_out, job, settings, *bench)
    machine = equipped(bench.machine, job, plan.settings, bench.kit) if plan.settings else bench.machine
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
    notices: tuple[Words, ...] = ()
    is_as_stored: bool = True
    """Whether the plan is the stored one, and not worked out again."""


def read_plan(row: PlanRow) -> ReadPlan | None:
    """A revision back from its documents; None when not even its job can be read.

    What is damaged is replaced by what follows from the rest: the machine by the ideal one, the plan by
    working it out again. A revision is never overwritten, so what was read of it is known by its texts.
    """
    session = object_session(row)
    if session is None or not inspect(row).persistent or inspect(row).modified:
        return _read(*(json.dumps(getattr(row, name)) for name in _DOCUMENTS))
    asked = select(*(type_coerce(getattr(PlanRow, name), Text) for name in _DOCUMENTS))
    texts = session.connection().execute(asked.where(PlanRow.id == row.id)).first()
    return _read(*texts) if texts is not None else None


_DOCUMENTS = ("machine_document", "plan", "job_document", "settings")


@lru_cache(maxsize=256)
def _read(machine_text: str, plan_text: str, job_text: str, settings_text: str | None) -> ReadPlan | None:
    notices = list[Words]()
    machine = readable_text(Machine, machine_text)
    if machine is None:
        machine = IDEAL
        notices.append(sentence("store.what_stored_version_s"))
    is_set = settings_text is not None and settings_text != "null"
    plan, job = read_text(Plan, plan_text), readable_text(Job, job_text)
    settings = readable_text(Settings, settings_text) if is_set else None
    if plan is not None and job is not None and (plan.settings is not None) == is_set:
        return ReadPlan(plan, machine, tuple(notices))
    if job is None:
        job = plan.job if plan is not None else None
    if job is None:
        return None
    notices.append(sentence("store.what_stored_version_s_2"))
    return ReadPlan(worked_out(job, settings, machine), machine, tuple(notices), is_as_stored=False)


@dataclass(frozen=True)
class Revision:
    """A revision as lists name it."""

    revision: int
    origin: str
    words: Words
    has_settings: bool


def revisions(session: Session, job_id: int) -> list[Revision]:
    """Every revision of a job, oldest first, without their documents."""
    set_ = and_(PlanRow.settings.is_not(None), type_coerce(PlanRow.settings, Text) != "null")
    asked = select(PlanRow.revision, PlanRow.origin, PlanRow.words, set_).where(PlanRow.job_id == job_id)
    return [
        Revision(number, origin, words, bool(has))
        for number, origin, words, has in session.execute(asked.order_by(PlanRow.revision))
    ]


def find_plan(session: Session, job_id: int, revision: int | None = None) -> PlanRow | None:
    """A revision of a job, the newest when none is asked."""
    chosen = select(PlanRow).where(PlanRow.job_id == job_id)
    if revision is not None:
        return session.scalar(chosen.where(PlanRow.revision == revision))
    return session.scalar(chosen.order_by(PlanRow.revision.desc()).limit(1))


def planned_settings(session: Session, job_id: int, upto: int) -> Settings | None:
    """What the planner itself gave, in the last revision up to this one that was planned afresh."""
    stored = session.scalar(
        select(PlanRow.settings)
        .where(PlanRow.job_id == job_id, PlanRow.revision <= upto, PlanRow.origin == "plan")
        .order_by(PlanRow.revision.desc())
        .limit(1)
    )
    return readable(Settings, stored) if stored else None


def tick(session: Session, row: JobRow, step: str, done: bool) -> None:
    """Mark a step of the run sheet done, or not."""
    found = session.scalar(select(TickRow).where(TickRow.job_id == row.id, TickRow.step == step))
    if done and found is None:
        session.add(TickRow(job_id=row.id, step=step))
    elif not done and found is not None:
        session.delete(found)


def newest_jobs(session: Session, limit: int) -> list[tuple[int, str, Job]]:
    """The jobs changed last, each as its newest version has it: number, title, job. What cannot be read is
    left out; plans are not read for it.
    """
    other = aliased(PlanRow)
    newest = select(func.max(other.revision)).where(other.job_id == JobRow.id).scalar_subquery()
    asked = (
        select(JobRow.id, JobRow.title, PlanRow.job_document)
        .join(PlanRow, (PlanRow.job_id == JobRow.id) & (PlanRow.revision == newest))
        .where(JobRow.put_away_at.is_(None))
        .order_by(JobRow.changed_at.desc(), JobRow.id.desc())
        .limit(limit)
    )
    found = [(number, title, readable(Job, stored)) for number, title, stored in session.execute(asked)]
    return [(number, title, job) for number, title, job in found if job is not None]


def count_put_away(session: Session) -> int:
    """How many jobs were put away."""
    return (
        session.scalar(select(func.count()).select_from(JobRow).where(JobRow.put_away_at.is_not(None))) or 0
    )


def find_jobs(session: Session, query: str = "", limit: int = 200, away: bool = False) -> list[JobRow]:
    """Jobs that have every word asked, newest change first; all of them when nothing is asked.
    ``away``: those put away.
    """
    chosen = matching(session, meant(session, query), query, away)
    if chosen is None:
        return []
    rows = select(JobRow).where(JobRow.id.in_(chosen)).options(selectinload(JobRow.welder))
    return list(session.scalars(rows.order_by(JobRow.changed_at.desc(), JobRow.id.desc()).limit(limit)))
