"""What was read of a logbook, for as long as nobody changes the logbook: the same machines and kits are asked
for by every page and every what-if.

It is held beside each connection, under what SQLite itself counts: the commits of others that the connection
has seen, and the rows that it has changed. Both are read inside the transaction that asks, so what is given
is what the transaction would read. Who writes reads anew, since a write may be undone; so does everybody on a
server, which counts no such thing.
"""

from __future__ import annotations

import os
import sqlite3
from collections.abc import Callable, Hashable
from threading import Lock
from typing import Any, TypeVar

from sqlalchemy import Engine, event
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from anvilsong.store.databases import database_of

Given = TypeVar("Given")
MOST_HELD = 1000
_PLACE = "unchanged"


def unchanged(session: Session, what: Hashable, read: Callable[[], Given]) -> Given:
    """What ``read`` gives, read once for as long as the logbook stays as it is.

    Parameters
    ----------
    what : names what is read; the same name stands for the same question
    read : reads it with this session; what it gives is shared by many, and must never be changed

    Raises
    ------
    Whatever ``read`` raises; nothing is held then
    """
    connection = session.connection()
    is_writing = connection.get_execution_options().get("writes", False)
    state = None if is_writing else database_of(connection).state(connection)
    if state is None:
        return read()
    held: tuple[Any, dict[Hashable, Any]] | None = connection.info.get(_PLACE)
    if held is None or held[0] != state or len(held[1]) > MOST_HELD:
        held = connection.info[_PLACE] = (state, {})
    if what not in held[1]:
        held[1][what] = read()
    found: Given = held[1][what]
    return found


class Watch:
    """The same without a transaction: whoever asks gets what held when he asked, or later.

    One connection of its own, which never writes, sees the number of the last commit of anybody. What was
    read after a number was seen holds for as long as that number stays.
    """

    def __init__(self, engine: Engine) -> None:
        self._engine, self._lock = engine, Lock()
        self._connection: sqlite3.Connection | None = None
        self._file = 0
        self._held: tuple[int | None, dict[Hashable, Any]] = (None, {})
        event.listen(engine, "engine_disposed", self._closed)

    def of(self, what: Hashable, read: Callable[[], Given]) -> Given:
        """What ``read`` gives, which begins a transaction of its own."""
        with self._lock:
            commit = self._last_commit()
            if self._held[0] != commit or len(self._held[1]) > MOST_HELD:
                self._held = (commit, {})
            held = self._held[1]
        if commit is None:
            return read()
        if what not in held:
            held[what] = read()
        found: Given = held[what]
        return found

    def _last_commit(self) -> int | None:
        """A number that every commit changes; None on a server, and where the file cannot be asked."""
        if self._engine.dialect.name != "sqlite":
            return None
        try:
            return self._asked()
        except (sqlite3.Error, DBAPIError, OSError):  # whoever reads says what is wrong
            self._connection = None
            return None

    def _closed(self, _engine: Engine) -> None:
        """Whoever closes the logbook last leaves one whole file: this connection closes with the others."""
        with self._lock:
            if self._connection is not None:
                self._connection.close()
            self._connection, self._held = None, (None, {})

    def _asked(self) -> int:
        file = os.stat(self._engine.get_execution_options()["place"]).st_ino
        if self._connection is None or file != self._file:  # a ruined logbook was replaced by a copy
            self._held, self._file = (None, {}), file
            if self._connection is not None:
                self._connection.close()
            opened = self._engine.raw_connection()
            driver = opened.driver_connection
            opened.detach()
            assert isinstance(driver, sqlite3.Connection)
            self._connection = driver
        number: int = self._connection.execute("PRAGMA data_version").fetchone()[0]
        return number
