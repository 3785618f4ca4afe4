"""A logbook of years: 20,000 jobs and 100,000 coupons, and one job with 100 revisions and 200 coupons.

The first jobs are recorded through the store; the rest are copies of their rows under other names.
"""

from __future__ import annotations

from pathlib import Path

from sqlalchemy import text
from sqlalchemy.orm import Session

from anvilsong.core.bead import Readings
from anvilsong.core.job import Job
from anvilsong.demo.workshop import load_demo
from anvilsong.store import book, coupons
from anvilsong.store.database import open_database, sessions
from anvilsong.store.models import JobRow

JOBS, COUPONS_A_JOB = 20000, 5
LONG_REVISIONS, LONG_COUPONS = 100, 200
FOUND_BY = "machine, joint, alloy_a, alloy_b, thickness_a_mm, thickness_b_mm, state"


def seed(data: Path) -> int:
    """The book; the number of its long job."""
    engine = open_database(data)
    make = sessions(engine)
    with make.begin() as session:
        load_demo(session)
    with make.begin() as session:
        long = _long_job(session)
    with make.begin() as session:
        for row in session.query(JobRow).filter(JobRow.id != long):
            while coupons.count_coupons(session, row.id) < COUPONS_A_JOB:
                plan = book.find_plan(session, row.id)
                if plan is None or plan.settings is None:
                    break
                coupons.add_coupon(session, row, plan, readings_of(coupons.count_coupons(session, row.id)))
        session.flush()
    with make.begin() as session:
        while (session.execute(text("SELECT max(id) FROM jobs")).scalar() or 0) < JOBS:
            _double(session, long)
    engine.dispose()
    return long


def readings_of(n: int) -> Readings:
    """The readings of a run by its number, so that no two runs that follow one another are alike."""
    return Readings(
        bead_width_mm=5.0 + 0.1 * (n % 9),
        border_left_mm=0.3 + 0.1 * (n % 7),
        border_right_mm=0.4,
        length_mm=100,
        seconds=26,
        note=f"Run {n}",
    )


def _long_job(session: Session) -> int:
    row = session.query(JobRow).first()
    assert row is not None
    plan = book.find_plan(session, row.id)
    assert plan is not None
    job = Job.model_validate(plan.job_document)
    for n in range(LONG_REVISIONS):
        plan = book.add_plan(
            session, row, job.model_copy(update={"weld_length_mm": 200.0 + n}), "plan", f"Plan {n}"
        )
    for n in range(LONG_COUPONS):
        coupons.add_coupon(session, row, plan, readings_of(n))
    return row.id


def _double(session: Session, long: int) -> None:
    """Every job but the long one once more, under another number, with its newest plan and its coupons."""
    step = session.execute(text("SELECT max(id) FROM jobs")).scalar() or 0
    plans = session.execute(text("SELECT max(id) FROM plans")).scalar() or 0
    coupons = session.execute(text("SELECT max(id) FROM coupons")).scalar() or 0
    names = {"step": step, "plans": plans, "coupons": coupons, "long": long, "room": JOBS}
    here = "job_id != :long AND job_id + :step <= :room"
    coupons_here = here.replace("AND job_id", "AND c.job_id")
    for statement in (
        f"INSERT INTO jobs (id, uid, title, welder_id, made_at, changed_at, {FOUND_BY})"
        " SELECT id + :step, lower(hex(randomblob(16))), title || ' ' || (id + :step), welder_id, made_at,"
        f" changed_at, {FOUND_BY} FROM jobs WHERE id != :long AND id + :step <= :room",
        "INSERT INTO plans (id, job_id, revision, origin, words, job_document, machine_document, settings,"
        " plan, made_at) SELECT id + :plans, job_id + :step, revision, origin, words, job_document,"
        f" machine_document, settings, plan, made_at FROM plans WHERE {here}",
        "INSERT INTO coupons (id, uid, job_id, plan_id, number, machine, kit, made_at) SELECT id + :coupons,"
        " lower(hex(randomblob(16))), job_id + :step, plan_id + :plans, number, machine, kit, made_at"
        f" FROM coupons WHERE {here}",
        "INSERT INTO readings (coupon_id, revision, document, verdict, change, kind, typed, made_at)"
        " SELECT coupon_id + :coupons, r.revision, r.document, r.verdict, r.change, r.kind, r.typed,"
        " r.made_at FROM readings r JOIN coupons c ON c.id = r.coupon_id"
        f" WHERE c.id <= :coupons AND c.{coupons_here}",
        "INSERT INTO words (rowid, text) SELECT rowid + :step, text || ' ' || (rowid + :step) FROM words"
        " WHERE rowid != :long AND rowid + :step <= :room",
        "INSERT INTO terms (term) SELECT id + :step FROM jobs WHERE id != :long AND id + :step <= :room"
        " AND CAST(id + :step AS TEXT) NOT IN (SELECT term FROM terms)",
    ):
        session.execute(text(statement), names)
