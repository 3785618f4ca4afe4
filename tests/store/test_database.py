"""The database file: built whole or not at all, refused untouched when it is not ours, one transaction a migration."""

import hashlib
import os
import sqlite3
import subprocess
import sys
import threading
from contextlib import closing

import pytest
from alembic import command
from sqlalchemy import text

from anvilsong.core.errors import BadInput, CannotRead
from anvilsong.core.job import read_job
from anvilsong.store import book
from anvilsong.store.database import existing_database, open_database, sessions, standing
from anvilsong.store.databases import make_engine
from anvilsong.store.migrating import known_revisions, step_back


def mark(path):
    return hashlib.sha256(path.read_bytes()).hexdigest()


def foreign(path, *statements):
    with closing(sqlite3.connect(path)) as connection:
        for statement in statements:
            connection.execute(statement)
        connection.commit()
    return path


@pytest.mark.parametrize(
    ("statements", "said"),
    [
        (["CREATE TABLE songs (id)", "INSERT INTO songs VALUES (1)"], "another program's database"),
        (["CREATE TABLE alembic_version (version_num)", "INSERT INTO alembic_version VALUES ('0003')"], "another program's"),
        (["CREATE TABLE jobs (id)", "INSERT INTO jobs VALUES (1)"], "another program's database"),
        (
            ["CREATE TABLE alembic_version (version_num)", "CREATE TABLE jobs (id)", "CREATE TABLE plans (id)", "INSERT INTO alembic_version VALUES ('0999')"],
            "written by a newer version",
        ),
    ],
)  # fmt: skip
def test_what_is_not_ours_is_refused_untouched(tmp_path, statements, said):
    path = foreign(tmp_path / "other.sqlite", *statements)
    before = mark(path)
    with pytest.raises(CannotRead, match=said):
        open_database(path)
    assert mark(path) == before
    assert [left.name for left in tmp_path.iterdir()] == ["other.sqlite"]


def test_no_database_at_all(tmp_path):
    (tmp_path / "letter.txt").write_text("Dear reader, this is a letter and no database whatever its name.")
    with pytest.raises(CannotRead, match="not an SQLite database"):
        open_database(tmp_path / "letter.txt")
    with pytest.raises(CannotRead, match="it is a folder"):
        open_database(tmp_path)
    with pytest.raises(CannotRead, match="there is no database there"):
        existing_database(tmp_path / "mistyped.sqlite")
    assert not (tmp_path / "mistyped.sqlite").exists()


def test_names_with_signs_in_them(tmp_path):
    path = tmp_path / "what? 50%20 #1 & co" / "a?b%20c.sqlite"
    open_database(path).dispose()
    assert path.exists()
    assert standing(path) == "ours"
    assert [left.name for left in path.parent.iterdir()] == [path.name]


def test_a_start_that_was_killed_long_ago_starts_again(tmp_path):
    """An early version left empty tables without a revision; so may a file that was only touched."""
    for path in (
        foreign(
            tmp_path / "half.sqlite",
            "CREATE TABLE machines (id)",
            "CREATE TABLE alembic_version (version_num)",
        ),
        foreign(tmp_path / "empty.sqlite"),
        tmp_path / "touched.sqlite",
    ):
        path.touch()
        with sessions(open_database(path))() as session:
            assert session.scalar(text("SELECT version_num FROM alembic_version")) == known_revisions()[0]
            assert session.scalar(text("PRAGMA application_id")) == int.from_bytes(b"Anvs", "big")


def test_a_migration_that_fails_leaves_the_old_schema_whole(tmp_path, monkeypatch):
    path = tmp_path / "old.sqlite"
    open_database(path).dispose()
    engine = make_engine(path)
    step_back(engine, "0002")
    with engine.execution_options(writes=True).begin() as connection:
        connection.execute(
            text(
                "INSERT INTO jobs (title, made_at, changed_at) VALUES ('Old', '2026-01-01 00:00:00', '2026-01-01 00:00:00')"
            )
        )
    engine.dispose()

    def schema():
        with closing(sqlite3.connect(path)) as connection:
            return connection.execute("SELECT group_concat(sql) FROM sqlite_master").fetchone()

    before = schema()
    real = command.upgrade

    def breaks_off(config, target):
        real(config, target)
        raise RuntimeError("power cut")

    monkeypatch.setattr(command, "upgrade", breaks_off)
    with pytest.raises(RuntimeError):
        open_database(path)
    assert schema() == before
    monkeypatch.undo()
    with sessions(open_database(path))() as session:
        assert session.scalar(text("SELECT length(uid) FROM jobs WHERE title = 'Old'")) == 32


def test_two_first_starts_at_once_both_end_well(tmp_path):
    path = tmp_path / "new.sqlite"
    code = "from pathlib import Path; from anvilsong.store.database import open_database; import sys; open_database(Path(sys.argv[1])).dispose()"
    starts = [
        subprocess.Popen([sys.executable, "-c", code, os.fspath(path)], stderr=subprocess.PIPE)
        for _ in range(3)
    ]
    assert [start.wait(400) for start in starts] == [0, 0, 0]
    assert standing(path) == "ours"
    assert [left.name for left in tmp_path.iterdir()] == ["new.sqlite"]


def test_writers_wait_for_one_another_and_never_find_the_book_locked(make_session):
    """Everybody reads first and writes then; with deferred transactions the second of two would fail at once."""
    wrong = []

    def write(number):
        try:
            for _ in range(10):
                with make_session.begin() as session:
                    seen = session.scalar(text("SELECT count(*) FROM gauge_readings"))
                    session.execute(
                        text(
                            "INSERT INTO gauge_readings (cylinder, bar, note, made_at) VALUES ('x', :n, '', '2026-01-01 00:00:00')"
                        ),
                        {"n": seen},
                    )
        except Exception as error:
            wrong.append((number, error))

    threads = [threading.Thread(target=write, args=(number,)) for number in range(5)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join(60)
    assert wrong == []
    with make_session() as session:
        found = session.scalars(text("SELECT bar FROM gauge_readings WHERE cylinder = 'x' ORDER BY id")).all()
        assert len(set(found)) == 50


def test_a_part_of_a_hair_s_width_of_an_older_book_is_of_unknown_size(data_file):
    """It could be typed before; now it is refused, so a job that holds it must stay readable."""
    engine = make_engine(data_file)
    step_back(engine, "0009")
    odd = '{"kind": "plate", "width_mm": 0.001, "length_mm": 400}'
    with engine.execution_options(writes=True).begin() as connection:
        connection.execute(
            text(
                f"UPDATE plans SET job_document = json_set(job_document, '$.part', json('{odd}')), plan = json_set(plan, '$.job.part', json('{odd}')) WHERE job_id = 8"
            )
        )
    engine.dispose()
    with sessions(open_database(data_file))() as session:
        job = book.read_plan(book.find_plan(session, 8)).plan.job
        assert (job.part.width_mm, job.part.length_mm) == (None, 400)
    with pytest.raises(BadInput, match="allowed is 3 mm or more, or nothing"):
        read_job(job.model_dump(mode="json") | {"part": {"width_mm": 2.9}})
