"""What SQLite and the disk complain of, as a sentence for a person and what it means for who asked."""

from __future__ import annotations

import errno
import sqlite3
from dataclasses import dataclass
from typing import Literal

from sqlalchemy.exc import DBAPIError
from sqlalchemy.exc import TimeoutError as PoolTimeout

from anvilsong.core.said import Words
from anvilsong.core.words import sentence

Kind = Literal["busy", "full", "read_only", "damaged", "clash", "other"]


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


def store_fault(error: BaseException) -> StoreFault | None:
    """The fault an error of the store stands for; None when it is not one."""
    if isinstance(error, PoolTimeout):
        return _SAID[0][1]
    if isinstance(error, OSError) and error.errno in _NO_ROOM:
        return _FULL
    if isinstance(error, DBAPIError):
        error = error.orig if error.orig is not None else error
    if not isinstance(error, sqlite3.Error):
        return None
    if getattr(error, "sqlite_errorcode", None) == sqlite3.SQLITE_IOERR_SHMSIZE:
        return _FULL  # not even the index of its log finds room
    text = str(error).lower()
    for words, fault in _SAID:
        if any(word in text for word in words):
            return fault
    return StoreFault("other", sentence("store.logbook_could_not_used"), f"SQLite says: {error}.")
