"""A PostgreSQL server for benchmarks, with a logbook brought there table by table."""

from __future__ import annotations

import sqlite3
import sys
from collections.abc import Iterator
from contextlib import closing, contextmanager
from itertools import islice
from pathlib import Path

from sqlalchemy import select, text

sys.path.insert(0, str(Path(__file__).parents[1]))

from tests.server import Server

from _peer import cpu_s
from anvilsong.store.database import open_database
from anvilsong.store.databases import database_of, make_engine, writing
from anvilsong.store.models import Base
from anvilsong.store.places import OnServer

ROWS = 1000


@contextmanager
def database_server() -> Iterator[Server]:
    """A server whose commits reach the disk."""
    server = Server(is_safe=True)
    try:
        yield server
    finally:
        server.close()


def brought(data: Path, server: Server, folder: Path) -> OnServer:
    """The logbook of a file in a database of a server, row by row."""
    place = server.place(folder)
    here, there = make_engine(data), open_database(place)
    tables = Base.metadata.sorted_tables
    with here.connect() as given, writing(there).begin() as into:
        for table in tables:
            rows = given.execution_options(yield_per=ROWS).execute(select(table)).mappings()
            while piece := list(islice(rows, ROWS)):
                into.execute(table.insert(), [dict(row) for row in piece])
        with closing(sqlite3.connect(data)) as file:
            words = file.execute("SELECT rowid, text FROM words")
            while found := words.fetchmany(ROWS):
                named = [{"job": job, "words": said.lower()} for job, said in found]
                into.execute(text("INSERT INTO words (rowid, text) VALUES (:job, :words)"), named)
        database_of(into).numbered_on(into, (t.name for t in tables if "id" in t.columns))
    with there.connect().execution_options(isolation_level="AUTOCOMMIT") as asked:
        asked.exec_driver_sql("VACUUM ANALYZE")
    here.dispose()
    there.dispose()
    return place


def server_cpu_s(server: Server) -> float:
    """Processor time of all of a server's processes that are there, and of those that ended, s."""
    first = int((server.folder / "data" / "postmaster.pid").read_text().split()[0])
    fields = Path(f"/proc/{first}/stat").read_text().rpartition(")")[2].split()
    ended = (int(fields[13]) + int(fields[14])) / 100
    children = Path(f"/proc/{first}/task/{first}/children").read_text().split()
    return cpu_s(first) + ended + sum(cpu_s(int(child)) for child in children)
