"""Engines on a database: how each connection is made, and how its transactions begin."""

from __future__ import annotations

import sqlite3
from pathlib import Path
from typing import Any

from sqlalchemy import Engine, QueuePool, create_engine, event

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
        "sqlite://", creator=connect, poolclass=QueuePool, pool_size=10, max_overflow=50, pool_timeout=BUSY_S
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
