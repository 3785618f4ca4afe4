"""The logbook's database: what may be opened, how it is made, engine and sessions, migrations.

A new file is built beside its place and put there whole, so that a start that is killed leaves either
nothing or a database.
Every migration runs inside one transaction, and so does every write.
"""

from __future__ import annotations

import logging
import os
import sqlite3
from collections.abc import Callable, Hashable, Iterator
from contextlib import closing, contextmanager, suppress
from functools import cache
from importlib.resources import files
from pathlib import Path
from threading import RLock
from typing import Any, TypeVar
from urllib.parse import quote

from sqlalchemy import Connection, Engine, TextClause, event
from sqlalchemy.exc import OperationalError
from sqlalchemy.orm import Session, sessionmaker

from anvilsong.core.errors import CannotRead
from anvilsong.core.words import sentence
from anvilsong.store.databases import database_of, make_engine, place_of, reading, writing
from anvilsong.store.databases.sqlite import BUSY_S
from anvilsong.store.faults import store_fault
from anvilsong.store.files import keep_private, own_file, sweep
from anvilsong.store.migrating import known_revisions, migrate
from anvilsong.store.models import Base
from anvilsong.store.places import OnServer, Place, beside
from anvilsong.store.unchanged import Watch

log = logging.getLogger("anvilsong")
TURN_WITHIN_S = 15.0
Written = TypeVar("Written")
OWN_TABLES = frozenset({*Base.metadata.tables, "alembic_version", "words"})


def open_database(place: Place | str) -> Engine:
    """An engine on this file or database, made when it is not there and brought to the newest migration.

    Raises
    ------
    CannotRead : the file is no SQLite database, another program's, damaged, or written by a newer version;
    it is left untouched. So is a database of a server
    """
    if isinstance(place, OnServer):
        sweep(beside(place), is_shared=True)
        return _migrated(make_engine(place))
    path = Path(place)
    path.parent.mkdir(parents=True, exist_ok=True)
    sweep(path)
    if standing(path) == "new":
        _build(path)
    keep_private(path)
    return _migrated(make_engine(path))


def _migrated(engine: Engine) -> Engine:
    try:
        migrate(engine)
    except BaseException:
        engine.dispose()
        raise
    return engine


def existing_database(place: Place) -> Engine:
    """As ``open_database``, but a file that is not there is an error: most likely its name was mistyped."""
    if not isinstance(place, OnServer) and not Path(place).exists():
        raise CannotRead(str(place), sentence("store.there_no_database_there"))
    return open_database(place)


def standing(path: Path) -> str:
    """``new`` when a database is still to be made there, ``ours`` when one of ours is. Reads only.

    Raises
    ------
    CannotRead : anything else stands there
    """
    if path.is_dir():
        raise CannotRead(str(path), sentence("store.folder_name_file"))
    if not path.exists() or path.stat().st_size == 0:
        return "new"
    try:
        with closing(read_only(path)) as connection:
            return _checked(connection, path)
    except ValueError:  # names that are no text
        raise CannotRead(str(path), sentence("store.damaged_restore_backup")) from None
    except sqlite3.DatabaseError as error:
        fault = store_fault(error)
        if fault is not None and fault.kind in ("busy", "full"):
            raise  # that says nothing about the file
        why = (
            sentence("store.not_sqlite_database")
            if "not a database" in str(error)
            else f"SQLite says: {error}"
        )
        raise CannotRead(str(path), why) from None


def _checked(connection: sqlite3.Connection, path: Path) -> str:
    names = {
        name
        for (name,) in connection.execute(
            "SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite_%'"
        )
    }
    tables = {name for name in names if not name.startswith("words_")}
    version = (
        connection.execute("SELECT version_num FROM alembic_version").fetchone()
        if "alembic_version" in tables
        else None
    )
    if version is None:
        # A start that was killed by an early version of this program left tables of ours with nothing in
        # them.
        empty = tables <= OWN_TABLES and all(
            connection.execute(f'SELECT 1 FROM "{name}" LIMIT 1').fetchone() is None for name in tables
        )
        if empty:
            return "new"
        raise CannotRead(str(path), sentence("store.another_programs_database_was"))
    if not {"jobs", "plans"} <= tables:
        raise CannotRead(str(path), sentence("store.another_programs_database_was"))
    if version[0] not in known_revisions():
        raise CannotRead(
            str(path),
            sentence("store.was_written_newer_version", version=version[0]),
        )
    return "ours"


def read_only(path: Path) -> sqlite3.Connection:
    """A connection that cannot write, and leaves nothing beside a file that nobody has open."""
    in_use = path.with_name(path.name + "-wal").exists()
    how = "mode=ro" if in_use else "immutable=1"
    return sqlite3.connect(f"file:{quote(str(path.absolute()))}?{how}", uri=True, timeout=BUSY_S)


def _build(path: Path) -> None:
    """Make the database beside its place and put it there, unless another start was quicker."""
    with own_file(path, "new") as made:
        write_empty(made)
        if not path.exists():
            _put(made, path)
        elif standing(path) == "new":  # empty, or left by a killed start
            os.replace(made, path)


def write_empty(path: Path) -> None:
    """Write an empty logbook of the newest schema into a file, and see it onto the disk."""
    with path.open("wb") as file:
        file.write(_empty())
        file.flush()
        os.fsync(file.fileno())


@cache
def _empty() -> bytes:
    """The file of an empty logbook, made in memory once a process: what all migrations come to
    (``scripts/empty_logbook.py``).
    """
    with closing(sqlite3.connect(":memory:", isolation_level=None)) as made:
        made.executescript(files("anvilsong.store").joinpath("empty.sql").read_text(encoding="utf-8"))
        return made.serialize()


def _put(made: Path, path: Path) -> None:
    try:
        os.link(made, path)  # fails when the name is taken, so that nobody's database is replaced
    except FileExistsError:
        return
    except OSError:  # a file system without links
        os.replace(made, path)


class Rehearsal(Session):
    """A session in which a write is gone through beforehand, on the book as it stands: reads are real, and
    nothing is written.
    """

    def flush(self, objects: Any = None) -> None:
        """Nothing reaches the book, so rows that were added have no number yet."""

    def execute(self, statement: Any, *given: Any, **more: Any) -> Any:
        """Statements that write are passed over."""
        writes = getattr(statement, "is_dml", False) or (
            isinstance(statement, TextClause) and not statement.text.lstrip().upper().startswith("SELECT")
        )
        return None if writes else super().execute(statement, *given, **more)


class Sessions:
    """Makes sessions, one transaction each: ``sessions()`` to read, ``with sessions.begin()`` to write,
    ``sessions.write(work)`` to write what takes time to work out.

    Writers of one program take turns, so that none waits in vain while others come and go.

    ``before_commit`` is asked last of all before a write is committed; what it raises undoes the write.
    """

    def __init__(self, engine: Engine, before_commit: Callable[[Session], None] | None = None) -> None:
        self.engine = engine
        self._reading = sessionmaker(reading(engine), expire_on_commit=False)
        self._writing = sessionmaker(writing(engine), expire_on_commit=False)
        self._rehearsing = sessionmaker(
            reading(engine), expire_on_commit=False, class_=Rehearsal, autoflush=False
        )
        self._turn = RLock()
        self._watch = Watch(engine)
        if before_commit is not None:
            event.listen(self._writing, "before_commit", before_commit)

    def __call__(self) -> Session:
        return self._reading()

    @contextmanager
    def begin(self) -> Iterator[Session]:
        """A session that writes, in one transaction that is committed at the end of the block.

        What stands in its ``info["afterwards"]`` is called when it was committed, with these sessions.
        """
        if not self._turn.acquire(timeout=TURN_WITHIN_S):
            raise OperationalError("BEGIN IMMEDIATE", {}, sqlite3.OperationalError("database is locked"))
        try:
            with self._writing.begin() as session:
                later = session.info.setdefault("afterwards", {})
                yield session
        finally:
            self._turn.release()
        for call in later.values():
            try:
                call(self)
            except (
                Exception
            ) as error:  # what was written stands; the next start, or the next of its kind, catches up
                log.warning("What follows from a write could not be done now", exc_info=error)

    def write(self, work: Callable[[Session], Written]) -> Written:
        """What ``work`` gives, done in one transaction.

        It is called twice: first as a rehearsal that nobody waits for, so that what takes time is worked out
        (`store.remembered`) before the book is held; then in earnest. A rehearsal decides nothing: whatever
        it raises, the second call says what holds.
        """
        with suppress(Exception), self._rehearsing() as session:
            session.info["afterwards"] = {}
            work(session)
        with self.begin() as session:
            return work(session)

    def unchanged(self, what: Hashable, read: Callable[[Session], Written]) -> Written:
        """What ``read`` gives, read once for as long as nobody commits anything: for what is asked many times
        a second. What it gives is shared by many, and must never be changed.
        """
        return self._watch.of(what, lambda: self._read(read))

    def _read(self, read: Callable[[Session], Written]) -> Written:
        with self() as session:
            return read(session)

    @property
    def place(self) -> Place:
        """Where the logbook is."""
        return place_of(self.engine)

    def size_bytes(self) -> int:
        """How much room the logbook takes where it is."""
        with self.engine.connect() as connection:
            return database_of(connection).size_bytes(connection)

    def generation(self) -> int:
        """Which book this is: another number after each restore."""
        with self.engine.connect() as connection:
            return generation_of(connection)


def sessions(engine: Engine, before_commit: Callable[[Session], None] | None = None) -> Sessions:
    """Sessions on an engine."""
    return Sessions(engine, before_commit)


def generation_of(connection: Connection) -> int:
    """The number that a restore draws for the book: pages opened before it carry another one."""
    return database_of(connection).generation(connection)
