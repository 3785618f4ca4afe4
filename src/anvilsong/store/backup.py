"""Backup and restore of the database file, through SQLite's own copying, never by moving files under a
running program.
"""

from __future__ import annotations

import os
import secrets
import sqlite3
import time
import uuid
from collections.abc import Iterator
from contextlib import closing, contextmanager
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from sqlalchemy.exc import DBAPIError

from anvilsong.core.errors import AnvilsongError, CannotRead
from anvilsong.core.said import Words, joined
from anvilsong.core.words import sentence
from anvilsong.store.database import read_only, standing
from anvilsong.store.databases import make_engine
from anvilsong.store.databases.sqlite import BUSY_S
from anvilsong.store.faults import store_fault
from anvilsong.store.files import own_file, written_whole
from anvilsong.store.migrating import migrate
from anvilsong.store.schema import schema_differences

COUNTED = ("jobs", "plans", "coupons", "readings", "machines", "kits", "welders", "gauge_readings")
WAITS_S = 10.0  # for another program that writes
STEPS = 50  # in which the pages are replaced, within one transaction
MOST_NAMED = 5  # of what a backup's tables have otherwise


def _is_backup(path: Path) -> bool:
    try:
        return standing(path) == "ours"
    except CannotRead:
        return False


def backup_to(data: Path, target: Path) -> Path:
    """A consistent copy of a database file, also while it is in use."""
    if not data.exists():
        raise CannotRead(str(data), sentence("store.there_no_database_there"))
    standing(data)
    if target.exists() and target.samefile(data):
        raise CannotRead(str(target), sentence("store.database_itself_name_another"))
    with written_whole(target, _is_backup) as part, closing(sqlite3.connect(data, timeout=BUSY_S)) as book:
        _copy(book, part)
    return target


def _copy(given: sqlite3.Connection, target: Path) -> None:
    """Every page of a database into another file, as one transaction there; the copy stands alone, with no
    log beside it.
    """
    with closing(sqlite3.connect(target)) as copy:
        given.backup(copy)
        copy.execute("PRAGMA journal_mode = DELETE")


@dataclass(frozen=True)
class Restored:
    """What a restore did: where the book as it was is kept, and how much the book holds now."""

    kept: Path | None
    counts: dict[str, int]

    @property
    def said(self) -> Words:
        """The outcome as one sentence."""
        kept = sentence("store.what_was_there_before", kept=self.kept) if self.kept else ""
        return sentence(
            "store.logbook_has_jobs_coupons",
            jobs=self.counts["jobs"],
            coupons=self.counts["coupons"],
            machines=self.counts["machines"],
            kept=kept,
        )


def restore_from(data: Path, file: Path) -> Restored:
    """Put a backup in the place of the book, also while the book is in use.

    The backup is checked and brought up to date in a copy of its own. Then, in one transaction that holds
    every writer off, the book as it is goes to a file beside it and the copy's pages take its place: what
    was acknowledged before stands in the file beside, what is acknowledged after stands in the book.

    Raises
    ------
    CannotRead : the file is missing, damaged, another program's, or newer than this program; the book was
    not touched
    AnvilsongError : another program goes on writing into the book; it was not touched
    """
    with _checked_copy(data, file) as copy:
        counts = counts_of(copy)
        return Restored(_replace(data, copy), counts)


def look_into(data: Path, file: Path) -> dict[str, int]:
    """How much a backup holds, checked as for a restore; nothing is replaced.

    Raises
    ------
    CannotRead : as ``restore_from``
    """
    with _checked_copy(data, file) as copy:
        return counts_of(copy)


@contextmanager
def _checked_copy(data: Path, file: Path) -> Iterator[Path]:
    """A copy of a backup beside the book, whole, this program's, up to date, under a new number."""
    if not file.exists():
        raise CannotRead(str(file), sentence("store.there_no_such_file"))
    if standing(file) == "new":
        raise CannotRead(str(file), sentence("store.there_nothing"))
    if data.exists() and file.samefile(data):
        raise CannotRead(str(file), sentence("store.logbook_itself_name_backup"))
    data.parent.mkdir(parents=True, exist_ok=True)
    with own_file(data, "restore") as aside:
        try:
            with closing(read_only(file)) as given:
                _copy(given, aside)
            _check(aside, file)
            engine = make_engine(aside, wal=False)
            try:
                migrate(engine)
            finally:
                engine.dispose()
            _check(aside, file)
            _check_schema(aside, file)
            with closing(sqlite3.connect(aside)) as copy:
                copy.execute(f"PRAGMA user_version = {secrets.randbelow(2**31 - 1) + 1}")
        except (sqlite3.DatabaseError, DBAPIError) as error:
            fault = store_fault(error)
            if fault is not None and fault.kind == "full":
                raise
            raise CannotRead(
                str(file), sentence("store.sqlite_says_logbook_was", error=_words(error))
            ) from error
        yield aside


def _words(error: sqlite3.DatabaseError | DBAPIError) -> str:
    return str(error.orig if isinstance(error, DBAPIError) else error)


def _check(aside: Path, file: Path) -> None:
    with closing(read_only(aside)) as connection:
        said = connection.execute("PRAGMA integrity_check(3)").fetchall()
        if said != [("ok",)]:
            raise CannotRead(
                str(file),
                sentence("store.damaged_logbook_was_not", found="; ".join(str(row[0]) for row in said)),
            )
        if connection.execute("PRAGMA foreign_key_check").fetchone():
            raise CannotRead(str(file), sentence("store.damaged_something_belongs_nothing"))


def _check_schema(aside: Path, file: Path) -> None:
    with closing(read_only(aside)) as connection:
        found = schema_differences(connection)
    if found:
        more = f" and {len(found) - MOST_NAMED} more" if len(found) > MOST_NAMED else ""
        said = joined(joined(*found[:MOST_NAMED], by="; "), more)
        raise CannotRead(str(file), sentence("store.tables_are_not_those", said=said))


def counts_of(path: Path) -> dict[str, int]:
    """How many jobs, coupons and machines a database holds."""
    with closing(read_only(path)) as connection:
        return {table: connection.execute(f"SELECT count(*) FROM {table}").fetchone()[0] for table in COUNTED}


def _replace(data: Path, aside: Path) -> Path | None:
    """The copy's pages into the book, the book as it was into a file beside it."""
    if not data.exists() or data.stat().st_size == 0:
        os.replace(aside, data)
        return None
    kept = data.with_name(
        f"{data.stem}-before-restore-{datetime.now():%Y%m%d-%H%M%S}-{uuid.uuid4().hex[:4]}{data.suffix}"
    )
    try:
        _swap(data, aside, kept)
    except (CannotRead, sqlite3.DatabaseError) as error:
        if not _is_ruined(data, error):
            kept.unlink(missing_ok=True)
            raise
        # The book cannot even be copied: it is moved aside as it is, with what belongs to it.
        for ending in ("-wal", "-shm", ""):
            part = data.with_name(data.name + ending)
            if part.exists():
                os.replace(part, kept.with_name(kept.name + ending))
        os.replace(aside, data)
    return kept


def _is_ruined(data: Path, error: Exception) -> bool:
    """Whether the book itself is what cannot be read; a full disk or a busy book is no reason to move it."""
    if isinstance(error, CannotRead):
        return error.what == str(data)
    fault = store_fault(error)
    return fault is not None and fault.kind == "damaged"


def _swap(data: Path, aside: Path, kept: Path) -> None:
    """One transaction: the first step holds every writer off, then the book is copied as it still
    stands for readers, then the other pages follow.
    """
    until, is_kept = time.monotonic() + WAITS_S, False

    def after_a_step(status: int, _remaining: int, _total: int) -> None:
        nonlocal is_kept
        if status in (sqlite3.SQLITE_BUSY, sqlite3.SQLITE_LOCKED):
            if time.monotonic() > until:
                raise AnvilsongError(sentence("store.another_program_has_been", waits_s=WAITS_S))
        elif not is_kept:
            backup_to(data, kept)
            is_kept = True

    standing(data)
    with (
        closing(sqlite3.connect(data, timeout=1)) as book,
        closing(sqlite3.connect(aside, isolation_level=None)) as copy,
    ):
        book.execute("PRAGMA journal_mode = WAL")
        size = book.execute("PRAGMA page_size").fetchone()[0]
        if copy.execute("PRAGMA page_size").fetchone()[0] != size:
            copy.execute(f"PRAGMA page_size = {size}")
            copy.execute("VACUUM")
        pages = copy.execute("PRAGMA page_count").fetchone()[0]
        # Never all at once: the book is copied aside between the first step and the last.
        copy.backup(book, pages=max(1, pages // STEPS), progress=after_a_step, sleep=0.05)
