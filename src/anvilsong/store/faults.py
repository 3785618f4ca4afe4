"""What SQLite and the disk complain of, as a sentence for a person and what it means for who asked."""

from __future__ import annotations

import errno
import sqlite3
from dataclasses import dataclass
from typing import Literal

from sqlalchemy.exc import DBAPIError
from sqlalchemy.exc import TimeoutError as PoolTimeout

Kind = Literal["busy", "full", "read_only", "damaged", "clash", "other"]


@dataclass(frozen=True)
class StoreFault:
    """Nothing was written; why, and whether asking again helps."""

    kind: Kind
    title: str
    said: str


_NO_ROOM = (errno.ENOSPC, errno.EDQUOT, errno.EFBIG)
_FULL = StoreFault(
    "full", "The disk is full", "The disk is full, so nothing was stored. Make room and try again."
)
# SQLite's words, and ours.
_SAID: tuple[tuple[tuple[str, ...], StoreFault], ...] = (
    (
        ("locked", "busy"),
        StoreFault(
            "busy",
            "The logbook is busy",
            "Something else is writing into the logbook. Nothing of yours was stored; try again in a moment.",
        ),
    ),
    (("full",), _FULL),
    (
        ("readonly", "read-only", "unable to open", "disk i/o"),
        StoreFault(
            "read_only",
            "The logbook cannot be written",
            (
                "The database file cannot be written or opened. Nothing was stored; look at the disk "
                "and its permissions."
            ),
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
            "The database file is damaged. Stop the program and restore a backup: anvilsong restore FILE.",
        ),
    ),
    (
        ("constraint", "unique"),
        StoreFault(
            "clash",
            "It was there already",
            "Somebody stored the same thing a moment before. Nothing was stored twice; look again.",
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
    return StoreFault("other", "The logbook could not be used", f"SQLite says: {error}.")
