"""The store: schema, revisions, corrections, one transaction a write, exchange."""

from datetime import timedelta

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy import select, text

from anvilsong.core.bead.coupon import Readings
from anvilsong.core.errors import BadInput
from anvilsong.core.job import Job, read_job
from anvilsong.store import book, coupons, near_recipes, recipe_marks, recipes, words
from anvilsong.store.lines import LINES_A_PAGE, book_page
from anvilsong.store.models import Base, JobRow, PlanRow, now

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
            opts={
                "include_name": lambda name, kind, _: (
                    not (kind == "table" and name.startswith("words")) and name != "ix_terms_pieces"
                )
            },
        )
        assert compare_metadata(context, Base.metadata) == []
        if session.connection().dialect.name == "postgresql":
            return
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
        coupons.add_coupon(session, row, row.plans[-1], READINGS)
        assert titles("zigzag") == [row.title]


def test_revisions_and_corrections_keep_what_was(make_session):
    with make_session.begin() as session:
        row = book.find_jobs(session, "rail")[0]
        first = row.plans[0].plan
        job = Job.model_validate(row.plans[-1].job_document).model_copy(update={"position": "vertical"})
        book.add_plan(session, row, job, "plan", "Planned again")
        coupon = coupons.add_coupon(session, row, row.plans[-1], READINGS)
        coupons.correct_coupon(session, coupon, READINGS.model_copy(update={"border_left_mm": 1.2}))
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


def many(session, jobs):
    """The book with so many more jobs, as copies of the first job's rows."""
    row = book.find_jobs(session, "tank")[0]
    plan = book.find_plan(session, row.id)
    for n in range(jobs):
        copy = JobRow(title=f"Copy {n:03d}", welder=row.welder)
        session.add(copy)
        session.flush()
        session.add(
            PlanRow(
                job_id=copy.id, revision=1, origin="plan", job_document=plan.job_document, plan=plan.plan,
                machine_document=plan.machine_document, settings=plan.settings,
            )
        )  # fmt: skip
        session.flush()
        words.index_words(session, copy)


def test_the_book_comes_in_pages_with_true_counts(make_session):
    with make_session.begin() as session:
        before = book_page(session).jobs
        many(session, 93)
    with make_session() as session:
        pages = [book_page(session, number=number) for number in (1, 2, 3)]
        assert [page.jobs for page in pages] == [before + 93] * 3
        assert [len(page.lines) for page in pages] == [
            LINES_A_PAGE,
            LINES_A_PAGE,
            before + 93 - 2 * LINES_A_PAGE,
        ]
        ids = [line.job_id for page in pages for line in page.lines]
        assert len(ids) == len(set(ids)) == before + 93
        assert book_page(session, number=99).number == pages[0].pages == 3
        found = book_page(session, "copy 01")
        assert (found.jobs, {line.title[:6] for line in found.lines}) == (10, {"Copy 0"})
        assert book_page(session, "…").jobs == 0
        tank = next(line for line in book_page(session, "float tank").lines if line.coupons)
        assert (tank.coupons, tank.last_change, tank.revision) == (3, "keep", 3)
        assert tank.job.a.alloy == "5083"
        assert not tank.refused


def test_a_line_of_the_book_is_the_job_as_its_page_has_it(make_session):
    with make_session() as session:
        for line in book_page(session).lines:
            row = book.get_job(session, line.job_id)
            newest = row.plans[-1]
            assert (line.title, line.revision, line.coupons) == (row.title, newest.revision, len(row.coupons))
            assert line.welder == (row.welder.name if row.welder else "")
            assert line.refused == (newest.settings is None)


def test_revisions_and_coupons_in_parts(make_session):
    with make_session() as session:
        row = book.find_jobs(session, "float tank")[0]
        named = book.revisions(session, row.id)
        assert [(each.revision, each.origin) for each in named] == [(1, "plan"), (2, "rung"), (3, "rung")]
        assert all(each.has_settings for each in named)
        assert book.find_plan(session, row.id).revision == 3
        assert book.find_plan(session, row.id, 2).revision == 2
        assert book.find_plan(session, row.id, 9) is None
        first = row.plans[0].settings
        assert book.planned_settings(session, row.id, 3).model_dump(mode="json", by_alias=True) == first
        assert [each.number for each in coupons.find_coupons(session, row.id, 2)] == [2, 3]
        assert [each.number for each in coupons.find_coupons(session, row.id, 2, skip=1)] == [1, 2]
        assert coupons.count_coupons(session, row.id) == 3
        assert coupons.find_coupon(session, row.id, 2).number == 2
        assert coupons.find_coupon(session, row.id, 4) is None


def test_a_search_counts_what_is_put_away_apart(make_session):
    with make_session.begin() as session:
        many(session, 7)
        for row in session.scalars(select(JobRow).where(JobRow.title.in_(["Copy 001", "Copy 005"]))):
            row.put_away_at = now()
    with make_session() as session:
        for away, fit in ((False, 5), (True, 2)):
            page = book_page(session, "copy", away)
            assert (page.jobs, len(page.lines)) == (fit, fit)


def test_the_nearest_recipes_follow_every_change_of_their_names(make_session):
    job = read_job({"a": {"alloy": "5083", "thickness": "3 mm"}, "joint": "butt"})

    def near():
        with make_session() as session:
            return {one.name: one.key for one in near_recipes.kept_for(session, job, 99)}

    ((first, first_id),) = near().items()
    with make_session.begin() as session:
        plan = session.scalar(select(PlanRow).where(PlanRow.settings.is_not(None), PlanRow.id != first_id))
        second_id = plan.id
        recipes.keep_recipe(session, plan, "Second")
    assert near() == {first: first_id, "Second": second_id}
    with make_session.begin() as session:
        recipes.keep_recipe(session, session.get(PlanRow, second_id), "Another name")
    assert near() == {first: first_id, "Another name": second_id}
    with make_session.begin() as session:  # a version of the first one, older than what stands there
        plan, newest = session.get(PlanRow, second_id), session.get(PlanRow, first_id)
        plan.recipe, plan.recipe_at = newest.recipe, newest.recipe_at - timedelta(1)
    assert near() == {first: first_id}
    with make_session.begin() as session:
        session.get(PlanRow, second_id).recipe_at += timedelta(2)
    assert near() == {first: second_id}
    with make_session.begin() as session:
        recipe_marks.mark_recipe(session, first, "", favourite=False, retired=True)
    assert near() == {}
