"""Backup and restore: whole, also in use, checked before the book is touched, the book as it was kept."""

import shutil
import sqlite3
import threading
import time
from contextlib import closing

import pytest
from sqlalchemy import text

from anvilsong.core.errors import AnvilsongError, CannotRead
from anvilsong.store import backup, book
from anvilsong.store.backup import backup_to, restore_from
from anvilsong.store.database import open_database, sessions
from anvilsong.store.databases import make_engine
from anvilsong.store.export import export_book
from anvilsong.store.migrating import step_back
from anvilsong.store.models import JobRow


def content(make):
    with make() as session:
        whole = export_book(session)
    whole.pop("made_at")
    return whole


def taken_back(path, revision):
    """The file as an older version of this program has it."""
    engine = make_engine(path, wal=False)
    step_back(engine, revision)
    engine.dispose()


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
    taken_back(old, "0002")
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
    with pytest.raises(CannotRead, match="it is the logbook itself"):
        restore_from(data_file, type(tmp_path)(shutil.os.path.relpath(data_file)))


def titles_in(path):
    with closing(sqlite3.connect(path)) as connection:
        assert connection.execute("PRAGMA integrity_check").fetchone() == ("ok",)
        return {title for (title,) in connection.execute("SELECT title FROM jobs")}


def test_what_four_writers_were_told_is_stored_stands_in_the_book_or_beside_it(
    make_session, data_file, tmp_path
):
    """Every title that was acknowledged while backups were restored again and again: none is lost between the two."""
    copy, stored, ends = backup_to(data_file, tmp_path / "copy.sqlite"), [], threading.Event()

    def write(name):
        number = 0
        while not ends.is_set():
            title, number = f"{name} {number}", number + 1
            with make_session.begin() as session:
                session.add(JobRow(title=title))
            stored.append(title)

    writers = [threading.Thread(target=write, args=(name,)) for name in ("Ann", "Ben", "Cai", "Dot")]
    for writer in writers:
        writer.start()
    kept = []
    for _ in range(6):
        enough = len(stored) + 8
        while len(stored) < enough:
            time.sleep(0.005)
        kept.append(restore_from(data_file, copy).kept)
    ends.set()
    for writer in writers:
        writer.join()
    found = set().union(*(titles_in(path) for path in (data_file, *kept)))
    assert len(stored) > 48
    assert set(stored) - found == set()
    # Each restore began anew: what stands in the book now was written after the last one.
    assert not set(stored[:8]) & titles_in(data_file)


def test_a_lock_that_stays_ends_in_a_sentence(make_session, data_file, tmp_path, monkeypatch):
    monkeypatch.setattr(backup, "WAITS_S", 0.3)
    copy, before = backup_to(data_file, tmp_path / "copy.sqlite"), content(make_session)
    with closing(sqlite3.connect(data_file, isolation_level=None)) as other:
        other.execute("BEGIN IMMEDIATE")
        with pytest.raises(AnvilsongError, match=r"has been writing into the logbook for 0.3 s"):
            restore_from(data_file, copy)
        other.execute("ROLLBACK")
    assert content(make_session) == before
    assert {each.name.partition("-")[0] for each in tmp_path.iterdir()} == {
        "book.sqlite",
        "copy.sqlite",
    }
    assert backup.restore_from(data_file, copy).counts["jobs"] == 10


@pytest.mark.parametrize(
    ("harm", "said"),
    [
        ("DROP TABLE ticks", "the table ticks is missing"),
        ("ALTER TABLE readings DROP COLUMN typed", "the column typed of readings is missing"),
        ("ALTER TABLE jobs ADD COLUMN price REAL", "there is the column price of jobs, which is not this program's"),
        ("DROP INDEX ix_jobs_changed", "the index ix_jobs_changed is missing"),
        ("CREATE TRIGGER eats AFTER INSERT ON coupons BEGIN DELETE FROM coupons; END", "there is the trigger eats"),
        ("CREATE VIEW spy AS SELECT title FROM jobs", "there is the view spy"),
        ("DROP INDEX ix_jobs_uid; CREATE INDEX ix_jobs_uid ON jobs (uid)", "the index ix_jobs_uid is another one"),
        ("DROP TABLE words; CREATE TABLE words (text)", "the table words is another one"),
    ],
)  # fmt: skip
def test_a_backup_with_other_tables_is_refused_and_says_what_differs(
    harm, said, make_session, data_file, tmp_path
):
    copy, before = backup_to(data_file, tmp_path / "copy.sqlite"), content(make_session)
    with closing(sqlite3.connect(copy)) as connection:
        connection.executescript(harm)
    with pytest.raises(CannotRead, match="its tables are not those of this program") as refused:
        restore_from(data_file, copy)
    assert said in str(refused.value)
    assert "the logbook was not touched" in str(refused.value)
    assert content(make_session) == before


@pytest.mark.parametrize("revision", ["0001", "0004", "0008"])
def test_every_older_backup_has_the_tables_of_this_program_once_it_is_brought_up_to_date(
    revision, data_file, tmp_path
):
    copy = backup_to(data_file, tmp_path / "copy.sqlite")
    taken_back(copy, revision)
    assert restore_from(data_file, copy).counts["jobs"] == 10


def test_a_foreign_file_never_says_that_the_book_is_damaged(client, data_file, tmp_path):
    """An old backup in which a table that the migrations ask for is gone: SQLite's own complaint is about that file."""
    copy = backup_to(data_file, tmp_path / "copy.sqlite")
    taken_back(copy, "0003")
    with closing(sqlite3.connect(copy)) as connection:
        connection.execute("DROP TABLE readings")
        connection.commit()
    answer = client.post("/book/restore", files={"file": ("copy.sqlite", copy.read_bytes())})
    assert answer.status_code == 422
    assert "The backup cannot be read: SQLite says: no such table: readings" in " ".join(answer.text.split())
    assert "The logbook is damaged" not in answer.text
    assert not [each for each in data_file.parent.iterdir() if each.name.startswith(f".{data_file.name}.")]


def test_the_files_of_a_book_are_their_owners(client, data_file, tmp_path):
    """The book, its log, backups, exports and what a restore keeps: nobody else on the machine reads them."""
    copy = backup_to(data_file, tmp_path / "copy.sqlite")
    client.post("/book/restore", files={"file": ("copy.sqlite", copy.read_bytes())})
    files = [each for each in tmp_path.iterdir() if each.is_file()]
    assert len(files) >= 4
    assert {each.name: oct(each.stat().st_mode & 0o777) for each in files} == {
        each.name: "0o600" for each in files
    }
