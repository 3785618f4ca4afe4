"""What the database and the disk complain of, as a sentence for a person and what it means for who asked."""

from __future__ import annotations

import errno
import sqlite3
from dataclasses import dataclass
from typing import Literal

from sqlalchemy.exc import DBAPIError
from sqlalchemy.exc import TimeoutError as PoolTimeout

from anvilsong.core.said import Words
from anvilsong.core.words import sentence

Kind = Literal["busy", "full", "read_only", "damaged", "clash", "away", "other"]


@dataclass(frozen=True)
class StoreFault:
    """Nothing was written; why, and whether asking again helps."""

    kind: Kind
    title: Words
    said: Words


_NO_ROOM = (errno.ENOSPC, errno.EDQUOT, errno.EFBIG)
_FULL = StoreFault("full", "The disk is full", sentence("store.disk_full_nothing_was"))
# SQLite's words, and ours.
_SAID: tuple[tuple[tuple[str, ...], StoreFault], ...] = (
    (
        ("locked", "busy"),
        StoreFault(
            "busy",
            "The logbook is busy",
            sentence("store.something_else_writing_into"),
        ),
    ),
    (("full",), _FULL),
    (
        ("readonly", "read-only", "unable to open", "disk i/o"),
        StoreFault(
            "read_only",
            sentence("store.logbook_cannot_written"),
            sentence("store.database_file_cannot_written"),
        ),
    ),
    (
        (
            "malformed",
            "not a database",
            "corrupt",
            "file is encrypted",
            "no such table",
            "no such column",
            "decode",
            "unsupported file format",
        ),
        StoreFault(
            "damaged",
            "The logbook is damaged",
            sentence("store.database_file_damaged_stop"),
        ),
    ),
    (
        ("constraint", "unique"),
        StoreFault(
            "clash",
            "It was there already",
            sentence("store.somebody_stored_same_thing"),
        ),
    ),
)


_BUSY, _CLASH = _SAID[0][1], _SAID[-1][1]
_AWAY = StoreFault("away", sentence("store.server_is_away"), sentence("store.server_does_not_answer"))
_READ_ONLY = StoreFault(
    "read_only", sentence("store.logbook_cannot_written"), sentence("store.server_takes_no_writes")
)
_DAMAGED = StoreFault("damaged", "The logbook is damaged", sentence("store.server_tables_damaged"))
# PostgreSQL's five letters by their beginnings, the longer first.
_STATES: tuple[tuple[str, StoreFault], ...] = (
    ("53100", _FULL),
    ("53", _BUSY),  # connections or memory
    ("55P03", _BUSY),
    ("40", _BUSY),
    ("57014", _BUSY),
    ("57", _AWAY),
    ("08", _AWAY),
    ("28", _AWAY),
    ("3D", _AWAY),
    ("25006", _READ_ONLY),
    ("42501", _READ_ONLY),
    ("42P01", _DAMAGED),
    ("42703", _DAMAGED),
    ("XX", _DAMAGED),
    ("23", _CLASH),
)


def store_fault(error: BaseException) -> StoreFault | None:
    """The fault an error of the store stands for; None when it is not one."""
    if isinstance(error, PoolTimeout):
        return _SAID[0][1]
    if isinstance(error, OSError) and error.errno in _NO_ROOM:
        return _FULL
    if isinstance(error, DBAPIError):
        error = error.orig if error.orig is not None else error
    if not isinstance(error, sqlite3.Error):
        return _server_fault(error)
    if getattr(error, "sqlite_errorcode", None) == sqlite3.SQLITE_IOERR_SHMSIZE:
        return _FULL  # not even the index of its log finds room
    text = str(error).lower()
    for words, fault in _SAID:
        if any(word in text for word in words):
            return fault
    return StoreFault("other", sentence("store.logbook_could_not_used"), f"SQLite says: {error}.")


def _server_fault(error: BaseException) -> StoreFault | None:
    """The fault an error of a PostgreSQL server stands for; None when it is not one."""
    if not type(error).__module__.startswith("psycopg"):
        return None
    state = getattr(error, "sqlstate", None)
    if state is None:  # said by what speaks to the server: there is no connection, or none any more
        return _AWAY
    found = next((fault for beginning, fault in _STATES if state.startswith(beginning)), None)
    said = " ".join(str(error).split())
    return found or StoreFault("other", sentence("store.logbook_could_not_used"), f"PostgreSQL says: {said}.")
