"""Backup and restore of the database file, through SQLite's own copying, never by moving files under a
running program.
"""

from __future__ import annotations

import os
import sqlite3
import uuid
from contextlib import closing
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from anvilsong.core.errors import AnvilsongError, CannotRead
from anvilsong.store.database import BUSY_S, make_engine, migrate, read_only, standing
from anvilsong.store.files import remove_beside, written_whole

COUNTED = ("jobs", "plans", "coupons", "readings", "machines", "kits", "welders", "gauge_readings")


def _is_backup(path: Path) -> bool:
    try:
        return standing(path) == "ours"
    except CannotRead:
        return False


def backup_to(data: Path, target: Path) -> Path:
    """A consistent copy of a database file, also while it is in use."""
    if not data.exists():
        raise CannotRead(str(data), "there is no database there")
    standing(data)
    if target.exists() and target.samefile(data):
        raise CannotRead(str(target), "it is the database itself; name another file")
    with written_whole(target, _is_backup) as aside, closing(sqlite3.connect(data, timeout=BUSY_S)) as book:
        _copy(book, aside)
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
    def said(self) -> str:
        """The outcome as one sentence."""
        kept = f" What was there before is kept in {self.kept}." if self.kept else ""
        return (
            f"The book holds {self.counts['jobs']} jobs, {self.counts['coupons']} coupons and "
            f"{self.counts['machines']} machines now.{kept}"
        )


def restore_from(data: Path, file: Path) -> Restored:
    """Put a backup in the place of the book, also while the book is in use.

    The backup is checked and brought up to date in a copy of its own; the book as it is goes to a file
    beside it; then the
    copy's pages replace the book's in one transaction, which waits for writers and holds them off; then
    the result is checked.

    Raises
    ------
    CannotRead : the file is missing, damaged, another program's, or newer than this program; the book was
    not touched
    """
    if not file.exists():
        raise CannotRead(str(file), "there is no such file")
    if standing(file) == "new":
        raise CannotRead(str(file), "there is nothing in it")
    if data.exists() and file.samefile(data):
        raise CannotRead(str(file), "it is the book itself; name a backup of it")
    data.parent.mkdir(parents=True, exist_ok=True)
    aside = data.with_name(f".{data.name}.{uuid.uuid4().hex}.restore")
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
        counts = _counts(aside)
        kept = _replace(data, aside)
        if _counts(data) != counts:
            raise CannotRead(
                str(data), f"it does not hold what the backup holds; the book as it was is in {kept}"
            )
        return Restored(kept, counts)
    except sqlite3.DatabaseError as error:
        raise CannotRead(str(file), f"SQLite says: {error}; the book was not touched") from error
    finally:
        remove_beside(aside)


def _check(aside: Path, file: Path) -> None:
    with closing(read_only(aside)) as connection:
        said = connection.execute("PRAGMA integrity_check(3)").fetchall()
        if said != [("ok",)]:
            raise CannotRead(
                str(file),
                f"it is damaged ({'; '.join(str(row[0]) for row in said)}); the book was not touched",
            )
        if connection.execute("PRAGMA foreign_key_check").fetchone():
            raise CannotRead(
                str(file), "it is damaged: something in it belongs to nothing; the book was not touched"
            )


def _counts(path: Path) -> dict[str, int]:
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
        backup_to(data, kept)
    except (AnvilsongError, sqlite3.DatabaseError):
        # The book cannot even be copied: it is moved aside as it is, with what belongs to it.
        for ending in ("-wal", "-shm", ""):
            part = data.with_name(data.name + ending)
            if part.exists():
                os.replace(part, kept.with_name(kept.name + ending))
        os.replace(aside, data)
        return kept
    with (
        closing(sqlite3.connect(data, timeout=30)) as book,
        closing(sqlite3.connect(aside, isolation_level=None)) as copy,
    ):
        size = book.execute("PRAGMA page_size").fetchone()[0]
        if copy.execute("PRAGMA page_size").fetchone()[0] != size:
            copy.execute(f"PRAGMA page_size = {size}")
            copy.execute("VACUUM")
        copy.backup(book)
    return kept
