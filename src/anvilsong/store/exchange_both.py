"""The logbook, and the database aside that an export was read into, asked together in one transaction."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Iterator, Mapping, Sequence
from contextlib import closing, contextmanager
from itertools import islice
from pathlib import Path
from typing import Any

from sqlalchemy import Column, Connection, CursorResult, MetaData, RootTransaction, Table, select

from anvilsong.store.databases import database_of, make_engine, writing
from anvilsong.store.models import Base
from anvilsong.store.places import OnServer, Place

Given = Mapping[str, Any] | Sequence[Any]
ROWS_AT_ONCE = 500
CAME = (
    "machines", "kits", "welders", "gauge_readings", "fault_trials", "trials", "practice", "recipes",
    "calibrations", "jobs", "plans", "coupons", "readings", "attachments", "heat_runs", "memories",
    "part_runs", "ticks", "terms",
)  # fmt: skip


class Both:
    """Asks the tables ``main.…`` of the logbook and ``came.…`` of the database aside."""

    def __init__(self, connection: Connection, transaction: RootTransaction) -> None:
        self._connection, self._transaction = connection, transaction
        self._database = database_of(connection)

    def rows(self, statement: str, given: Given = ()) -> list[tuple[Any, ...]]:
        """What a statement gives, asked with ``?`` and a sequence, or with ``:name`` and a mapping."""
        return [tuple(row) for row in self._asked(statement, given).fetchall()]

    def first(self, statement: str, given: Given = ()) -> Any:
        """The first figure or text that a statement gives; None without any."""
        return self._asked(statement, given).scalar()

    def change(self, statement: str, given: Given = ()) -> int:
        """How many rows a statement added or changed."""
        return self._asked(statement, given).rowcount

    def _asked(self, statement: str, given: Given) -> CursorResult[Any]:
        bound = dict(given) if isinstance(given, Mapping) else tuple(given)
        return self._connection.exec_driver_sql(self._database.worded(statement), bound or None)

    def number_on(self, tables: Iterable[str]) -> None:
        """Rows to come get numbers behind those that were written with numbers of their own."""
        self._database.numbered_on(self._connection, tables)

    def undo(self) -> None:
        """Nothing of it is written."""
        self._transaction.rollback()


@contextmanager
def both_logbooks(place: Place, aside: Path) -> Iterator[Both]:
    """A transaction on a logbook that is committed at the end of the block, unless it was undone."""
    engine = make_engine(place)
    try:
        with writing(engine).connect() as connection:
            if isinstance(place, Path):
                driver = connection.connection.driver_connection
                assert isinstance(driver, sqlite3.Connection)
                driver.execute("ATTACH ? AS came", (str(aside),))  # never within a transaction
            with connection.begin() as transaction:
                if isinstance(place, OnServer):
                    _send(connection, aside)
                yield Both(connection, transaction)
    finally:
        engine.dispose()


def _send(server: Connection, aside: Path) -> None:
    """The tables of the database aside to a server, as tables of this connection's own."""
    engine = make_engine(aside, wal=False)
    try:
        with engine.connect() as came:
            for name in CAME:
                _send_table(server, came, Base.metadata.tables[name])
    finally:
        engine.dispose()
    with closing(sqlite3.connect(aside)) as file:
        server.exec_driver_sql("CREATE TEMP TABLE came_words (rowid INTEGER PRIMARY KEY, text TEXT)")
        rows = file.execute("SELECT rowid, text FROM words")
        while piece := rows.fetchmany(ROWS_AT_ONCE):
            server.exec_driver_sql("INSERT INTO came_words (rowid, text) VALUES (%s, %s)", piece)
    server.exec_driver_sql("ANALYZE " + ", ".join(f"came_{name}" for name in (*CAME, "words")))


def _send_table(server: Connection, came: Connection, table: Table) -> None:
    columns = [Column(column.name, column.type, primary_key=column.primary_key) for column in table.columns]
    sent = Table(f"came_{table.name}", MetaData(), *columns, prefixes=["TEMPORARY"])
    sent.create(server)
    for name in ("uid", "job_id", "coupon_id"):
        if name in sent.columns:
            server.exec_driver_sql(f"CREATE INDEX ON came_{table.name} ({name})")
    rows = came.execute(select(table).order_by(*table.primary_key)).mappings()
    while piece := list(islice(rows, ROWS_AT_ONCE)):
        server.execute(sent.insert(), [dict(row) for row in piece])
