"""Backup and restore: whole, also in use, checked before the book is touched, the book as it was kept."""

import shutil
import sqlite3
from contextlib import closing

import pytest
from sqlalchemy import text

from anvilsong.core.errors import CannotRead
from anvilsong.store import book
from anvilsong.store.backup import backup_to, restore_from
from anvilsong.store.database import open_database, sessions
from anvilsong.store.export import export_book
from anvilsong.store.models import JobRow


def content(make):
    with make() as session:
        whole = export_book(session)
    whole.pop("made_at")
    return whole


def test_back_to_the_backup_while_the_book_is_open(make_session, data_file, tmp_path):
    """Readers and writers of the running program see the restored book at once; what was written since is kept aside."""
    before = content(make_session)
    copy = backup_to(data_file, tmp_path / "deep" / "copy.sqlite")
    with make_session.begin() as session:
        session.execute(text("DELETE FROM ticks"))
        for row in session.query(JobRow):
            row.title = "Spoiled"
    with make_session() as reader:
        assert reader.query(JobRow).first().title == "Spoiled"
        restored = restore_from(data_file, copy)
    assert content(make_session) == before
    with make_session.begin() as session:
        book.find_jobs(session, "tank")[0].title = "Written after"
    kept = sessions(open_database(restored.kept))
    assert all(job["title"] == "Spoiled" for job in content(kept)["jobs"])
    assert "10 jobs" in restored.said
    assert not [left for left in tmp_path.iterdir() if left.name.endswith((".restore", ".part"))]


def test_a_backup_of_an_older_version_is_brought_up_to_date_and_stays_as_it_is(
    data_file, tmp_path, make_session
):
    old = tmp_path / "old.sqlite"
    backup_to(data_file, old)
    with closing(sqlite3.connect(old)) as connection:
        for statement in (
            "DROP TABLE heat_runs", "DROP INDEX ix_plans_recipe", "ALTER TABLE plans DROP COLUMN recipe", "DROP TABLE attachments", "DROP TABLE calibrations", "DROP TABLE fault_trials", "DROP INDEX ix_coupons_pair",
            *(f"ALTER TABLE coupons DROP COLUMN {name}" for name in ("machine", "kit", "left_out")),
            "DROP INDEX ix_jobs_changed", "DROP TABLE words",
            "CREATE VIRTUAL TABLE words USING fts5(job_id UNINDEXED, text)", "DROP INDEX ix_jobs_uid", "DROP INDEX ix_coupons_uid", "ALTER TABLE jobs DROP COLUMN uid", "ALTER TABLE coupons DROP COLUMN uid",
    "ALTER TABLE readings DROP COLUMN typed",
            *(f"ALTER TABLE {table} DROP COLUMN put_away_at" for table in ("machines", "kits", "welders", "jobs")),
            "UPDATE alembic_version SET version_num = '0002'",
        ):  # fmt: skip
            connection.execute(statement)
        connection.commit()
    as_it_was = old.read_bytes()
    restore_from(data_file, old)
    assert old.read_bytes() == as_it_was
    with make_session() as session:
        assert len(book.find_jobs(session)) == 10
        # The coupons know again what they were run on.
        tank = next(row for row in book.find_jobs(session) if row.coupons)
        on = {name: tank.plans[0].job_document[name] for name in ("machine", "kit")}
        assert [(run.machine, run.kit, run.left_out) for run in tank.coupons] == [(*on.values(), False)] * 3


@pytest.mark.parametrize("harm", ["cut", "flipped", "text", "foreign", "empty", "missing", "newer"])
def test_what_cannot_be_restored_leaves_the_book_alone(harm, make_session, data_file, tmp_path):
    bad = backup_to(data_file, tmp_path / "bad.sqlite")
    raw = bytearray(bad.read_bytes())
    if harm == "cut":
        bad.write_bytes(raw[: len(raw) // 2])
    elif harm == "flipped":
        for place in range(4096 * 3, len(raw), 4096):
            raw[place] ^= 0xFF
        bad.write_bytes(raw)
    elif harm == "text":
        bad.write_text("no database")
    elif harm == "empty":
        bad.write_bytes(b"")
    elif harm == "missing":
        bad.unlink()
    else:
        with closing(sqlite3.connect(bad)) as connection:
            connection.execute(
                "DROP TABLE alembic_version"
                if harm == "foreign"
                else "UPDATE alembic_version SET version_num = '9'"
            )
            connection.commit()
    before = content(make_session)
    with pytest.raises(CannotRead):
        restore_from(data_file, bad)
    assert content(make_session) == before


def test_a_ruined_book_is_moved_aside_and_the_backup_takes_its_place(data_file, tmp_path):
    copy = backup_to(data_file, tmp_path / "copy.sqlite")
    ruined = tmp_path / "ruined.sqlite"
    ruined.write_bytes(b"SQLite format 3\0" + b"\xff" * 9000)
    (tmp_path / "ruined.sqlite-wal").write_bytes(b"left by a crash")
    restored = restore_from(ruined, copy)
    with sessions(open_database(ruined))() as session:
        assert len(book.find_jobs(session)) == 10
    assert restored.kept.read_bytes().startswith(b"SQLite format 3\0\xff")
    assert (
        not (tmp_path / "ruined.sqlite-wal").exists()
        or b"crash" not in (tmp_path / "ruined.sqlite-wal").read_bytes()
    )


def test_nothing_that_is_not_ours_is_replaced(data_file, tmp_path):
    letter = tmp_path / "letter.txt"
    letter.write_text("Mine.")
    for target, said in (
        (letter, "another program's file"),
        (tmp_path, "it is a folder"),
        (data_file, "it is the database itself"),
    ):
        with pytest.raises(CannotRead, match=said):
            backup_to(data_file, type(tmp_path)(target))
    assert letter.read_text() == "Mine."
    target = backup_to(data_file, tmp_path / "b.sqlite")
    assert backup_to(data_file, target) == target  # an earlier backup is
    with pytest.raises(CannotRead, match="it is the book itself"):
        restore_from(data_file, type(tmp_path)(shutil.os.path.relpath(data_file)))
