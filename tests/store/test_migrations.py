"""Sentences in documents of an older book: turned into words when it is opened, and back for an older program."""

import json
import sqlite3
from concurrent.futures import ThreadPoolExecutor
from contextlib import closing

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from alembic.operations import Operations
from sqlalchemy import inspect
from sqlalchemy.exc import ProgrammingError

from anvilsong.core.errors import CannotRead
from anvilsong.core.job import read_job
from anvilsong.core.said import in_units
from anvilsong.store import book
from anvilsong.store.database import open_database, sessions
from anvilsong.store.databases import make_engine
from anvilsong.store.earlier_words import MARK, words_earlier, words_now
from anvilsong.store.exchange import import_from
from anvilsong.store.export import export_book
from anvilsong.store.faults import store_fault
from anvilsong.store.migrating import known_revisions, migrate, step_back
from anvilsong.store.models import Base

TEXTS = {
    "plans": ("plan", "words"),
    "readings": ("verdict", "change"),
    "heat_runs": ("result",),
    "attachments": ("document",),
}


def texts(path):
    """Every document that holds sentences, as it lies in the file."""
    with closing(sqlite3.connect(path)) as connection:
        return {
            (table, column, row[0]): row[1]
            for table, columns in TEXTS.items()
            for column in columns
            for row in connection.execute(f"SELECT id, {column} FROM {table}")
        }


def older(path):
    """The file as the version before kept it."""
    engine = make_engine(path, wal=False)
    step_back(engine, "0010")
    engine.dispose()


def said_by(path):
    """What the plans of a book say to a reader of inches."""
    engine = open_database(path)
    with sessions(engine)() as session:
        plans = [book.read_plan(book.find_plan(session, job)).plan for job in range(1, 11)]
        found = [
            in_units(words, "inch")
            for plan in plans
            for words in (
                *(step.text for step in plan.run_sheet),
                *(reason.said for reason in plan.reasons),
                *(warning.message for warning in plan.warnings),
            )
        ]
    engine.dispose()
    return found


def test_an_older_book_says_the_same(data_file):
    before, said = texts(data_file), said_by(data_file)
    assert any(" in" in words for words in said)
    older(data_file)
    old = texts(data_file)
    assert sum(MARK in (text or "") or "\\u27e6" in (text or "") for text in old.values()) > 10
    assert not any('"words": [' in (text or "") for text in old.values())
    assert said_by(data_file) == said
    after = texts(data_file)
    assert after.keys() == before.keys()
    # Keys of sentences are of this version; the words and quantities are those that were kept.
    assert not any(MARK in (text or "") or "\\u27e6" in (text or "") for text in after.values())
    older(data_file)
    assert texts(data_file) == old


def test_what_is_damaged_or_was_typed_stays(data_file):
    older(data_file)
    odd = [
        "{" + MARK,
        f'"{MARK}3 mm 1',
        "[" * 2000 + MARK,
        f'{{"a": "{MARK}1 kg 999999⟧ and {MARK}\ufe0e3 mm 1⟧"}}',
    ]
    with closing(sqlite3.connect(data_file)) as connection, connection:
        for number, text in enumerate(odd, 1):
            connection.execute("UPDATE plans SET plan = ? WHERE id = ?", (text, number))
        connection.execute(
            "UPDATE plans SET words = ? WHERE id = 5", (f"Cup {MARK}9.5 mm size⟧, {MARK}, kept",)
        )
        connection.execute("UPDATE plans SET words = 7 WHERE id = 6")
    with sessions(open_database(data_file))() as session:
        row = session.get(book.PlanRow, 5)
        assert in_units(row.words, "inch") == f"Cup 3/8 in, {MARK}, kept"
    found = texts(data_file)
    assert [found["plans", "plan", number] for number in (1, 2, 3)] == odd[:3]
    assert json.loads(found["plans", "plan", 4]) == json.loads(odd[3])


def test_an_export_of_the_version_before_comes_in(make_session, tmp_path):
    with make_session() as session:
        whole = export_book(session)
    old = words_earlier(json.loads(json.dumps(whole))) | {"version": 2}
    assert MARK in json.dumps(old, ensure_ascii=False)
    file = tmp_path / "old.json"
    file.write_text(json.dumps(old), "utf-8")
    target = tmp_path / "target.sqlite"
    import_from(sessions(open_database(target)), file)
    with sessions(open_database(target))() as session:
        came = export_book(session)
    assert words_earlier(came["jobs"]) == old["jobs"]
    assert came["version"] == 4
    assert words_now("plain") == "plain"


def test_migrations_run_on_both_databases(logbook):
    """A logbook of version 0017, on a file and on a server: brought up to date it has what a new one has, and loses nothing."""
    make = logbook("book")
    with make() as session:
        before = export_book(session)
    step_back(make.engine, "0017")
    assert "part_run_id" not in columns_of(make)
    migrate(make.engine)
    assert "part_run_id" in columns_of(make)
    with make() as session:
        assert export_book(session) | {"made_at": ""} == before | {"made_at": ""}
        context = MigrationContext.configure(
            session.connection(),
            opts={
                "include_name": lambda name, kind, _: (
                    kind not in ("table", "index") or not name.startswith(("words", "ix_terms_p"))
                )
            },
        )
        assert compare_metadata(context, Base.metadata) == []


def columns_of(make):
    return {column["name"] for column in inspect(make.engine).get_columns("attachments")}


def test_a_migration_that_fails_on_a_server_leaves_the_schema_as_it_was(
    database_server, tmp_path, monkeypatch
):
    place = database_server.place(tmp_path)
    engine = open_database(place)
    step_back(engine, "0017")
    monkeypatch.setattr(Operations, "create_index", broken)
    with pytest.raises(RuntimeError, match="half way"):
        migrate(engine)
    assert "part_run_id" not in columns_of(sessions(engine))
    monkeypatch.undo()
    migrate(engine)
    engine.dispose()
    database_server.ask("UPDATE alembic_version SET version_num = '9999'", place.name)
    with pytest.raises(CannotRead, match="newer version"):
        open_database(place)
    database_server.drop(place)


def broken(*_given, **_more):
    raise RuntimeError("half way")


@pytest.mark.parametrize(
    ("prepared", "said"),
    [
        ("CREATE TABLE theirs (id INTEGER)", "another program's database"),
        ("ALTER TABLE terms RENAME TO words_of_old", None),
    ],
)
def test_what_a_server_must_have(database_server, tmp_path, prepared, said):
    """Another program's tables are left as they are; where a table is missing it is said, not mended by guesses."""
    place = database_server.place(tmp_path)
    if said is None:
        open_database(place).dispose()
    database_server.ask(prepared, place.name)
    if said is None:
        with pytest.raises(ProgrammingError) as trouble, sessions(open_database(place)).begin() as session:
            book.add_job(session, "Lid", read_job({"a": {"alloy": "6061", "thickness": 3}, "joint": "butt"}))
        fault = store_fault(trouble.value)
        assert (fault.kind, "Ask whoever keeps" in in_units(fault.said)) == ("damaged", True)
    else:
        with pytest.raises(CannotRead, match=said):
            open_database(place)
        assert database_server.ask("SELECT count(*) FROM theirs", place.name) == [(0,)]
    database_server.drop(place)


def test_two_first_starts_on_a_server_at_once_both_end_well(database_server, tmp_path):
    place = database_server.place(tmp_path)
    with ThreadPoolExecutor(6) as pool:
        for engine in pool.map(lambda _: open_database(place), range(6)):
            engine.dispose()
    assert database_server.ask("SELECT version_num FROM alembic_version", place.name) == [
        (known_revisions()[0],)
    ]
    database_server.drop(place)


def test_a_new_file_is_what_all_migrations_come_to(tmp_path):
    """Statement by statement and row by row; ``scripts/empty_logbook.py`` writes it anew after a migration."""
    new, walked = tmp_path / "new.sqlite", tmp_path / "walked.sqlite"
    open_database(new).dispose()
    engine = make_engine(walked)
    migrate(engine)
    engine.dispose()
    with closing(sqlite3.connect(new)) as one, closing(sqlite3.connect(walked)) as other:
        shapes = [
            book.execute("SELECT type, name, tbl_name, sql FROM sqlite_master ORDER BY name").fetchall()
            for book in (one, other)
        ]
        assert shapes[0] == shapes[1]
        for kind, name, *_ in shapes[0]:
            if kind == "table":
                rows = [book.execute(f"SELECT * FROM {name}").fetchall() for book in (one, other)]
                assert rows[0] == rows[1], name
        for mark in ("page_size", "application_id", "user_version", "encoding", "auto_vacuum"):
            assert one.execute(f"PRAGMA {mark}").fetchone() == other.execute(f"PRAGMA {mark}").fetchone()
