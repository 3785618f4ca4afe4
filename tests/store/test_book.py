"""The store: schema, revisions, corrections, one transaction a write, exchange."""

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy import text

from anvilsong.core.bead.coupon import Readings
from anvilsong.core.errors import BadInput
from anvilsong.core.job import Job, read_job
from anvilsong.store import book
from anvilsong.store.models import Base

READINGS = Readings(
    bead_width_mm=6,
    border_left_mm=0.4,
    border_right_mm=0.5,
    seconds=27,
    length_mm=100,
    note="Zigzag ripples.",
)


def test_migrations_make_what_the_models_say(make_session):
    with make_session() as session:
        context = MigrationContext.configure(
            session.connection(),
            opts={"include_name": lambda name, kind, _: not (kind == "table" and name.startswith("words"))},
        )
        assert compare_metadata(context, Base.metadata) == []
        assert session.scalar(text("PRAGMA foreign_keys")) == 1
        assert session.scalar(text("PRAGMA journal_mode")) == "wal"


def test_the_workshop_climbs_its_ladder(make_session):
    with make_session() as session:
        rows = book.find_jobs(session)
        assert len(rows) >= 6
        tank = rows[0]
        assert [len(tank.plans), len(tank.coupons)] == [3, 3]
        borders = [coupon.readings[-1].verdict["border_mm"] for coupon in tank.coupons]
        assert borders == sorted(borders)
        assert tank.coupons[-1].readings[-1].change["kind"] == "keep"


def test_words_find_jobs(make_session):
    with make_session.begin() as session:
        titles = lambda query: [row.title for row in book.find_jobs(session, query)]  # noqa: E731
        assert titles("tank 508") == ["Float tank lid"]
        assert titles("ottilie corner") == ["Instrument housing seam"]
        assert titles("nothing-like-this") == []
        assert titles('"; drop') == []
        row = book.find_jobs(session, "rail")[0]
        book.add_coupon(session, row, row.plans[-1], READINGS)
        assert titles("zigzag") == [row.title]


def test_revisions_and_corrections_keep_what_was(make_session):
    with make_session.begin() as session:
        row = book.find_jobs(session, "rail")[0]
        first = row.plans[0].plan
        job = Job.model_validate(row.plans[-1].job_document).model_copy(update={"position": "vertical"})
        book.add_plan(session, row, job, "plan", "Planned again")
        coupon = book.add_coupon(session, row, row.plans[-1], READINGS)
        book.correct_coupon(session, coupon, READINGS.model_copy(update={"border_left_mm": 1.2}))
        row_id = row.id
    with make_session() as session:
        row = book.get_job(session, row_id)
        assert [plan.revision for plan in row.plans] == [1, 2]
        assert row.plans[0].plan == first
        assert [reading.document["border_left_mm"] for reading in row.coupons[0].readings] == [0.4, 1.2]


def test_a_failed_write_leaves_nothing(make_session):
    with make_session() as session:
        before = (
            session.scalar(text("SELECT count(*) FROM jobs")),
            session.scalar(text("SELECT count(*) FROM words")),
        )
    job = read_job({"a": {"alloy": "6061", "thickness": 3}, "joint": "butt", "machine": "No Such 300"})
    with (
        pytest.raises(BadInput, match="machine: “No Such 300” cannot be used; known machines are Curlew 220"),
        make_session.begin() as session,
    ):
        book.add_job(session, "Half a job", job)
    with make_session() as session:
        assert (
            session.scalar(text("SELECT count(*) FROM jobs")),
            session.scalar(text("SELECT count(*) FROM words")),
        ) == before
