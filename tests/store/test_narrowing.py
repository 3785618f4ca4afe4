"""What the logbook is narrowed by says what versions and coupons say, however they came into it."""

import json
import shutil
import sqlite3
from contextlib import closing
from datetime import datetime, timedelta
from pathlib import Path

import pytest
from sqlalchemy import select, text

from anvilsong.core.bead import Looks
from anvilsong.store import book, coupons, lines, part_runs
from anvilsong.store.database import open_database, sessions
from anvilsong.store.databases import database_of, make_engine
from anvilsong.store.exchange import import_from
from anvilsong.store.export import export_book
from anvilsong.store.finding import meant
from anvilsong.store.kept_models import PartRunRow
from anvilsong.store.migrating import step_back
from anvilsong.store.models import JobRow, PlanRow, TermRow
from anvilsong.store.narrowing import FOUND_BY, columns_of
from anvilsong.store.words import index_words


def found_by(make):
    with make() as session:
        jobs = {
            row.uid: tuple(getattr(row, name) for name in FOUND_BY) for row in session.scalars(select(JobRow))
        }
        kept = {row.recipe_key: row.recipe for row in session.scalars(select(PlanRow)) if row.recipe}
        runs = sorted(
            (row.uid, row.seconds, row.gas_l, row.rod_mm, row.cost)
            for row in session.scalars(select(PartRunRow))
        )
        return jobs, set(session.scalars(select(TermRow.term))), kept, runs


def test_a_job_by_hand():
    job = {
        "a": {"alloy": "6061", "thickness": "1/8"},
        "b": {"alloy": "A356", "thickness": 5},
        "joint": "fillet",
        "machine": None,
    }
    found = columns_of(job, True, None)
    assert [found[name] for name in FOUND_BY] == [
        "",
        "fillet",
        "6061",
        "a356",
        pytest.approx(3.175),
        5.0,
        "planned",
    ]
    states = [
        columns_of(job, *given)["state"]
        for given in ((False, "keep"), (True, "keep"), (True, "hand"), (True, ""))
    ]
    assert states == ["refused", "as_wanted", "in_work", "in_work"]
    bare = columns_of({"a": {"thickness": ".125"}}, True, None)
    assert bare["thickness_a_mm"] == pytest.approx(3.175)  # as the job itself reads a bare .125: inches


@pytest.mark.parametrize("odd", [{}, {"a": 7, "b": None}, {"a": {"alloy": "\ud800", "thickness": "x"}, "machine": "\ud800"}])  # fmt: skip
def test_what_is_damaged_gives_nothing_and_can_be_stored(make_session, odd):
    found = columns_of(odd, True, None)
    assert found["thickness_a_mm"] is None
    with make_session.begin() as session:
        row = session.scalars(select(JobRow)).first()
        for name, value in found.items():
            setattr(row, name, value)


def test_an_older_book_is_narrowed_alike(data_file):
    """The demo's columns and terms as the store wrote them, and as the migration makes them from documents."""

    def read():
        engine = open_database(data_file)
        found = found_by(sessions(engine))
        engine.dispose()
        return found

    before = read()
    assert len({state for *_, state in before[0].values()}) == 3
    assert before[2] == {"tank lid, bright and tight": "Tank lid, bright and tight"}
    assert before[3][0][1] > 1
    engine = make_engine(data_file, wal=False)
    step_back(engine, "0016")
    engine.dispose()
    assert read() == before


def test_an_import_brings_them_along(make_session, tmp_path):
    with make_session() as session:
        (tmp_path / "out.json").write_text(json.dumps(export_book(session)), "utf-8")
    fresh = sessions(open_database(tmp_path / "fresh.sqlite"))
    import_from(fresh, tmp_path / "out.json")
    assert found_by(fresh) == found_by(make_session)


def test_what_two_books_put_together_is_found_by(make_session, data_file, tmp_path):
    """A coupon, a note with a new word and another machine of the van are what the job is found by here."""
    van = sessions(open_database(shutil.copy(data_file, tmp_path / "van.sqlite")))
    with van.begin() as session:
        row = session.scalars(select(JobRow).where(JobRow.state == "as_wanted")).first()
        uid, plan = row.uid, book.find_plan(session, row.id)
        looks = Looks(judged={"bright": 2}, note="Häringslake")
        coupons.add_coupon(session, row, plan, looks)
        job = book.read_plan(plan).plan.job
        book.add_plan(session, row, job.model_copy(update={"joint": "lap"}), "plan", "")
    with van() as session:
        (tmp_path / "van.json").write_text(json.dumps(export_book(session)), "utf-8")
    import_from(make_session, tmp_path / "van.json")
    here, there = found_by(make_session), found_by(van)
    assert here == there
    assert here[0][uid][1] == "lap"
    assert "haringslake" in here[1]
    with make_session.begin() as session:
        row = session.scalar(select(JobRow).where(JobRow.uid == uid))
        assert [line.job_id for line in lines.book_page(session, "harings").lines] == [row.id]
        index_words(session, row)
    assert found_by(make_session) == here


def test_a_misspelt_word_is_read_as_one_that_stands(make_session):
    with make_session() as session:
        assert meant(session, "flaot").read_as == (("flaot", ("flat", "float")),)
        assert meant(session, "FLÖAT").read_as == ()
        assert meant(session, "loat").match == database_of(session).any_of(["float"])
    with make_session.begin() as session:  # a word that nothing has any longer
        session.add(TermRow(term="flaots"))
        session.add(TermRow(term="coamingz"))  # nearer to what is typed below than the word that stands
    with make_session() as session:
        assert meant(session, "flaot").read_as == (("flaot", ("flat", "float")),)
        assert meant(session, "laots").match != '("flaots")'
        assert meant(session, "coamingzz").read_as == (("coamingzz", ("coaming",)),)


def test_each_question_narrows_to_the_jobs_that_are_so(make_session):
    """Every value that a job has, asked for, gives the jobs that have it and no others."""
    with make_session() as session:
        rows = list(session.scalars(select(JobRow).where(JobRow.put_away_at.is_(None))))
        asked = {("joint", row.joint) for row in rows} | {
            ("machine", row.machine) for row in rows if row.machine
        }
        asked |= {("state", row.state) for row in rows} | {("alloy", row.alloy_b.upper()) for row in rows}
        for name, value in asked:
            page = lines.book_page(session, narrowed=lines.Narrowed(**{name: value}))
            fits = {
                row.id
                for row in rows
                if value
                in ((row.alloy_a.upper(), row.alloy_b.upper()) if name == "alloy" else (getattr(row, name),))
            }
            assert {line.job_id for line in page.lines} == fits, (name, value)
        thickest = max(max(row.thickness_a_mm, row.thickness_b_mm) for row in rows)
        page = lines.book_page(session, narrowed=lines.Narrowed(thickness_mm=(thickest, None)))
        assert {line.job_id for line in page.lines} == {
            row.id for row in rows if thickest in (row.thickness_a_mm, row.thickness_b_mm)
        }
        jobs = session.scalar(text("SELECT count(*) FROM jobs"))
        assert len(set(session.scalars(select(PlanRow.job_id)))) == jobs


DAMAGED = [5, b"\xff\x00", "{", "[]", "null", '{"a": [1], "b": {"thickness": 1e999, "alloy": {}}}', '{"a": {"alloy": "\\ud800"}, "joint": 7}',
           '{"seconds": 1' + "0" * 400 + "}", '{"seconds": NaN, "cost": true}', '{"kind": {"x": 1}}']  # fmt: skip


@pytest.mark.parametrize(
    "column",
    ["plans.job_document", "plans.settings", "plans.recipe", "part_runs.document", "readings.change"],
)
def test_an_older_book_with_damage_opens(data_file, column):
    """What somebody's editor did to a document stops no migration, and gives no figure to a list."""
    engine = make_engine(data_file, wal=False)
    step_back(engine, "0016")
    engine.dispose()
    before = Path(data_file).read_bytes()
    table, _, name = column.partition(".")
    for damage in DAMAGED:
        for left in Path(data_file).parent.glob("book.sqlite*"):
            left.unlink()
        Path(data_file).write_bytes(before)
        with closing(sqlite3.connect(data_file)) as connection:
            connection.execute(f"UPDATE {table} SET {name} = ?", (damage,))
            connection.commit()
        engine = open_database(Path(data_file))
        with engine.connect() as connection:
            sums = connection.execute(text("SELECT count(seconds), count(cost) FROM part_runs")).one()
            lists = connection.execute(text("SELECT count(*) FROM jobs WHERE state = ''")).scalar()
        engine.dispose()
        assert lists == 0
        assert (sums[0] == 0) == (column == "part_runs.document"), damage


def test_each_week_that_is_told_is_whole(make_session):
    """Of 3 weeks with a gap between, the oldest is counted from its Monday; what lies before is not in it."""
    monday = datetime(2026, 3, 2)
    with make_session.begin() as session:
        session.execute(text("DELETE FROM part_runs"))
        row = session.scalars(select(JobRow)).first()
        for day in (0, 2, 6, 14, 16, -1):
            session.add(
                PartRunRow(
                    job_id=row.id,
                    revision=1,
                    document={"seconds": 36.0},
                    made_at=monday + timedelta(days=day),
                )
            )
    with make_session() as session:
        weeks = part_runs.by_week(session, 3)
        assert [(week, sums.runs) for week, sums in weeks] == [("2026-W12", 2), ("2026-W10", 3)]
        assert part_runs.by_week(session, 1) == weeks[:1]
        assert part_runs.whole(session)[:2] == (6, pytest.approx(0.06))
