"""A logbook in a file: how each connection is made, how its transactions begin, how its words are asked."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable
from pathlib import Path
from typing import Any

from sqlalchemy import (
    URL,
    ColumnElement,
    Connection,
    Engine,
    QueuePool,
    TextClause,
    create_engine,
    event,
    func,
    text,
)

BUSY_S = 5.0  # patience with another writer


def make_engine(path: Path, wal: bool = True) -> Engine:
    """An engine on a file: WAL, foreign keys on, every commit on the disk, five seconds' patience with other
    writers.

    SQLite's own driver would begin transactions late and end them before a change of tables; here BEGIN is
    said by us: IMMEDIATE
    by those who write, so that nobody reads first and finds the book locked afterwards.
    """

    def connect() -> sqlite3.Connection:
        return sqlite3.connect(str(path), timeout=BUSY_S, isolation_level=None, check_same_thread=False)

    engine = create_engine(
        URL.create("sqlite"),
        creator=connect,
        poolclass=QueuePool,
        pool_size=10,
        pool_use_lifo=True,  # the connection used last knows what has not changed since
        max_overflow=50,
        pool_timeout=BUSY_S,
        execution_options={"place": path},
    )
    pragmas = (f"journal_mode={'WAL' if wal else 'DELETE'}", "foreign_keys=ON", "synchronous=FULL")

    def prepare(connection: Any, _record: Any) -> None:
        cursor = connection.cursor()
        for pragma in pragmas:
            cursor.execute(f"PRAGMA {pragma}")
        cursor.close()
        lower_like_python(connection)

    event.listen(engine, "connect", prepare)
    event.listen(engine, "begin", _begin)
    return engine


def lower_like_python(connection: Any) -> None:
    """Names are compared by every letter there is; SQLite's own ``lower`` knows those of ASCII alone."""
    connection.create_function("lower", 1, _lower, deterministic=True)


def _lower(text: Any) -> Any:
    return text.lower() if isinstance(text, str) else text


def _begin(connection: Any) -> None:
    connection.exec_driver_sql(
        "BEGIN IMMEDIATE" if connection.get_execution_options().get("writes") else "BEGIN"
    )


class Sqlite:
    """SQLite: words in FTS5 tables, of which the second knows pieces of three letters."""

    def generation(self, connection: Connection) -> int:
        return int(connection.exec_driver_sql("PRAGMA user_version").scalar() or 0)

    def state(self, connection: Connection) -> tuple[int, int]:
        # The first moves with every commit of others, the second with every row that this connection writes.
        driver = connection.connection.driver_connection
        assert isinstance(driver, sqlite3.Connection)
        return driver.execute("PRAGMA data_version").fetchone()[0], driver.total_changes

    def size_bytes(self, connection: Connection) -> int:
        asked = "SELECT page_count * page_size FROM pragma_page_count(), pragma_page_size()"
        return int(connection.exec_driver_sql(asked).scalar() or 0)

    def lowered(self, column: Any) -> ColumnElement[str]:
        return func.lower(column)

    def begins(self, word: str) -> str:
        return f'"{word}"*'

    def any_of(self, words: Iterable[str]) -> str:
        return "(" + " OR ".join(f'"{word}"' for word in words) + ")"

    def all_of(self, asked: Iterable[str]) -> str:
        return " AND ".join(asked)

    def fitting(self, question: str) -> TextClause:
        return text("SELECT rowid FROM words WHERE words MATCH :match").bindparams(match=question)

    def count_fitting(self, question: str, away: bool) -> TextClause:
        # Each job has one row of words, so a row is looked for among the few jobs that are put away; the plus
        # keeps the index of words from being asked once for each of those.
        asked = (
            "SELECT count(*) FROM words WHERE words MATCH :match"
            f" AND +rowid {'' if away else 'NOT '}IN (SELECT id FROM jobs WHERE put_away_at IS NOT NULL)"
        )
        return text(asked).bindparams(match=question)

    def worded(self, statement: str) -> str:
        return statement

    def numbered_on(self, connection: Connection, tables: Iterable[str]) -> None:
        """SQLite does so by itself."""

    def with_pieces(self, pieces: Iterable[str]) -> TextClause:
        return text(
            "SELECT t.term FROM terms t"
            " WHERE t.id IN (SELECT rowid FROM words_pieces WHERE words_pieces MATCH :match)"
            " ORDER BY length(t.term), t.term"
        ).bindparams(match=" OR ".join(f'"{piece}"' for piece in sorted(pieces)))


SQLITE = Sqlite()
