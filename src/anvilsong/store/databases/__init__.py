"""What differs between the databases that a logbook can be in: SQLite in a file, PostgreSQL on a server.

Whatever else the store asks, it asks both in the same words.
"""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path
from typing import TYPE_CHECKING, Any, Protocol

from sqlalchemy import Connection, Engine
from sqlalchemy.orm import Session

from anvilsong.store.places import Place

if TYPE_CHECKING:
    from sqlalchemy import ColumnElement, Select, TextClause


class Database(Protocol):
    """One kind of database."""

    def generation(self, connection: Connection) -> int:
        """The number of the logbook: another one after each restore."""

    def state(self, connection: Connection) -> tuple[int, int] | None:
        """What differs whenever the transaction could read anything else than before; None where no such
        thing is counted.
        """

    def size_bytes(self, connection: Connection) -> int:
        """How much room the logbook takes."""

    def lowered(self, column: Any) -> ColumnElement[str]:
        """A column in small letters, of every alphabet."""

    def begins(self, word: str) -> str:
        """Asks the index of words for jobs with a word that begins so."""

    def any_of(self, words: Iterable[str]) -> str:
        """Asks for jobs with any of some words."""

    def all_of(self, asked: Iterable[str]) -> str:
        """Asks for jobs that fit every one of some questions."""

    def fitting(self, question: str) -> TextClause:
        """The numbers of the jobs that fit a question, as a statement to ask or to narrow by."""

    def worded(self, statement: str) -> str:
        """A statement that asks the tables ``main.…`` and ``came.…`` of such a connection, as it is put."""

    def numbered_on(self, connection: Connection, tables: Iterable[str]) -> None:
        """Rows to come get numbers behind those that were written with numbers of their own."""

    def count_fitting(self, question: str, away: bool) -> TextClause:
        """How many jobs fit a question, of those that are archived or of those that are not."""

    def with_pieces(self, pieces: Iterable[str]) -> Select[Any] | TextClause:
        """Terms that hold one of some pieces of three letters or more, the shortest first."""


def make_engine(place: Place, wal: bool = True) -> Engine:
    """An engine on a logbook, wherever it is; ``wal`` is SQLite's own, for files that several use."""
    if isinstance(place, Path):
        from anvilsong.store.databases.sqlite import make_engine as on_file

        return on_file(place, wal)
    from anvilsong.store.databases.postgres import make_engine as on_server

    return on_server(place)


def writing(engine: Engine) -> Engine:
    """The same engine for those who write: each waits for its turn when it begins."""
    return engine.execution_options(writes=True)


def reading(engine: Engine) -> Engine:
    """The same engine for those who only read: each sees the logbook as it stood when it began."""
    if engine.dialect.name == "sqlite":
        return engine
    from anvilsong.store.databases.postgres import READS

    return engine.execution_options(**READS)


def place_of(engine: Engine) -> Place:
    """Where the logbook of an engine is."""
    place: Place = engine.get_execution_options()["place"]
    return place


def database_of(asked: Session | Connection) -> Database:
    """What a session or connection asks."""
    connection = asked.connection() if isinstance(asked, Session) else asked
    if connection.dialect.name == "sqlite":
        from anvilsong.store.databases.sqlite import SQLITE

        return SQLITE
    from anvilsong.store.databases.postgres import POSTGRES

    return POSTGRES
