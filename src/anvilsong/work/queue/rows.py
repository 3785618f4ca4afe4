"""The works of a queue as rows of the logbook's database: what was asked, where it stands, what came of it.

They are read and written outside of the writers' turn of the logbook, each statement by itself, so that
nobody waits for a logbook that is being written.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Literal

from sqlalchemy import Engine, create_engine, inspect, text

from anvilsong.store.databases import make_engine, writing
from anvilsong.store.places import OnServer

State = Literal["waits", "runs", "done", "stopped", "failed"]
PIECE_BYTES = 1 << 20
KEPT_FOR = "1 day"
BEAT_S, STALLED_S = 2.0, 12.0
"""A worker says so often that it is there, and counts as gone when it did not for so long."""

_TABLES = (
    "CREATE TABLE works (id BIGSERIAL PRIMARY KEY, room TEXT NOT NULL, page TEXT NOT NULL, part TEXT,"
    " function TEXT NOT NULL, count INTEGER NOT NULL, given TEXT NOT NULL,"
    " state TEXT NOT NULL DEFAULT 'waits', turn INTEGER NOT NULL DEFAULT 0,"
    " share DOUBLE PRECISION NOT NULL DEFAULT 0, stops BOOLEAN NOT NULL DEFAULT false, found TEXT,"
    " made_at TIMESTAMPTZ NOT NULL DEFAULT now())",
    "CREATE INDEX ix_works_part ON works (part)",
    "CREATE TABLE work_pieces (work BIGINT NOT NULL REFERENCES works ON DELETE CASCADE, side TEXT NOT NULL,"
    " number INTEGER NOT NULL, content BYTEA NOT NULL, PRIMARY KEY (work, side, number))",
)
# A work whose job is in the queue no more, and which nobody finished, was lost.
_STATE = """
    CASE WHEN state NOT IN ('waits', 'runs') OR made_at > now() - interval '10 s' OR EXISTS (
        SELECT 1 FROM procrastinate_jobs j WHERE j.status IN ('todo', 'doing')
        AND j.args ->> 'work' = CAST(works.id AS TEXT))
    THEN state ELSE 'failed' END
"""
_ROW = (
    "SELECT id, room, function, count, given, turn, share, stops, found, part,"
    f" {_STATE} AS state FROM works WHERE "
)


def address_of(place: OnServer) -> str:
    """The address as the server's own library reads it."""
    return place.url.replace("+psycopg", "", 1)


def prepare(place: OnServer) -> None:
    """Make the queue's tables beside the logbook's, where they are not there yet."""
    from procrastinate.schema import SchemaManager

    engine = make_engine(place)
    try:
        with writing(engine).begin() as connection:
            if inspect(connection).has_table("works"):
                return
            for statement in _TABLES:
                connection.exec_driver_sql(statement)
            driver: Any = connection.connection.driver_connection
            driver.execute(SchemaManager.get_schema())
    finally:
        engine.dispose()


@dataclass(frozen=True)
class WorkRow:
    """A work as it stands: ``turn`` counts how often it was begun, ``part`` names the drawn part that it is
    for.
    """

    id: int
    room: str
    function: str
    count: int
    given: str
    turn: int
    share: float
    stops: bool
    found: str | None
    part: str | None
    state: State


class Works:
    """The works of a logbook's queue."""

    def __init__(self, place: OnServer) -> None:
        self.place = place
        self.engine: Engine = create_engine(
            place.url, isolation_level="AUTOCOMMIT", pool_size=5, max_overflow=10, pool_pre_ping=True
        )

    def close(self) -> None:
        self.engine.dispose()

    def _ask(self, statement: str, **given: Any) -> Any:
        with self.engine.connect() as connection:
            done = connection.execute(text(statement), given)
            return done.mappings().all() if done.returns_rows else done.rowcount

    def add(self, room: str, page: str, part: str | None, function: str, count: int, given: str) -> int:
        """A work that waits; its number."""
        added = self._ask(
            "INSERT INTO works (room, page, part, function, count, given)"
            " VALUES (:room, :page, :part, :function, :count, :given) RETURNING id",
            room=room,
            page=page,
            part=part,
            function=function,
            count=count,
            given=given,
        )
        return int(added[0]["id"])

    def find(self, number: int) -> WorkRow | None:
        found = self._ask(f"{_ROW}id = :number", number=number)
        return WorkRow(**found[0]) if found else None

    def of_part(self, part: str) -> WorkRow | None:
        """The newest work for a drawn part."""
        found = self._ask(f"{_ROW}part = :part ORDER BY id DESC LIMIT 1", part=part)
        return WorkRow(**found[0]) if found else None

    def open_in(self, room: str) -> int:
        """How many wait or run in a room; one that was lost takes no place."""
        asked = f"SELECT count(*) AS n FROM works WHERE room = :room AND {_STATE} IN ('waits', 'runs')"
        return int(self._ask(asked, room=room)[0]["n"])

    def workers(self) -> int:
        """How many workers are there."""
        asked = (
            "SELECT count(*) AS n FROM procrastinate_workers"
            " WHERE last_heartbeat > now() - :old * interval '1 s'"
        )
        return int(self._ask(asked, old=STALLED_S)[0]["n"])

    def give_way(self, room: str, page: str) -> None:
        """What a page asked for before, and nobody has begun, is not wanted any more."""
        self._ask(
            "UPDATE works SET state = 'stopped', stops = true"
            " WHERE room = :room AND page = :page AND state = 'waits'",
            room=room,
            page=page,
        )

    def stop(self, number: int) -> None:
        """A work that waits is stopped; one that runs is stopped at its next step."""
        self._ask(
            "UPDATE works SET stops = true, state = CASE WHEN state = 'waits' THEN 'stopped' ELSE state END"
            " WHERE id = :number",
            number=number,
        )

    def begin(self, number: int) -> WorkRow | None:
        """A worker's turn at a work: None where it was stopped or is done."""
        begun = self._ask(
            "UPDATE works SET state = 'runs', turn = turn + 1, share = 0"
            " WHERE id = :number AND state IN ('waits', 'runs') AND NOT stops RETURNING id",
            number=number,
        )
        if begun:
            return self.find(number)
        self._ask("UPDATE works SET state = 'stopped' WHERE id = :number AND state = 'runs'", number=number)
        return None

    def goes_on(self, row: WorkRow, share: float) -> Literal["on", "stops", "lost"]:
        """Say how far a work has come: whether it goes on, shall stop, or is another worker's by now."""
        still = self._ask(
            "UPDATE works SET share = :share WHERE id = :number AND turn = :turn AND state = 'runs'"
            " RETURNING stops",
            share=share,
            number=row.id,
            turn=row.turn,
        )
        return "lost" if not still else "stops" if still[0]["stops"] else "on"

    FINISH = (
        "UPDATE works SET state = :state, found = :found, share = 1"
        " WHERE id = :number AND turn = :turn AND state = 'runs'"
    )

    def finish(self, row: WorkRow, state: State, found: str | None) -> bool:
        """End a work, once: False where another worker took it over or ended it."""
        return bool(self._ask(self.FINISH, state=state, found=found, number=row.id, turn=row.turn))

    def drop(self, number: int) -> None:
        """What came of it was taken; nobody asks again."""
        self._ask("DELETE FROM works WHERE id = :number", number=number)

    def forget_old(self) -> None:
        """Works of long ago that nobody fetched go."""
        self._ask(f"DELETE FROM works WHERE made_at < now() - interval '{KEPT_FOR}'")

    def send(self, number: int, side: str, file: Path) -> None:
        """A file into pieces of a work."""
        self._ask("DELETE FROM work_pieces WHERE work = :number AND side = :side", number=number, side=side)
        with file.open("rb") as out:
            for place, content in enumerate(iter(lambda: out.read(PIECE_BYTES), b"")):
                self._ask(
                    "INSERT INTO work_pieces (work, side, number, content)"
                    " VALUES (:number, :side, :place, :content)",
                    number=number,
                    side=side,
                    place=place,
                    content=content,
                )

    def fetch(self, number: int, side: str, file: Path) -> None:
        """The pieces of a work as a file again."""
        with file.open("wb") as into:
            for content in self._pieces(number, side):
                into.write(content)

    def _pieces(self, number: int, side: str) -> Iterator[bytes]:
        place, asked = (
            0,
            "SELECT content FROM work_pieces WHERE work = :number AND side = :side AND number = :place",
        )
        while found := self._ask(asked, number=number, side=side, place=place):
            yield bytes(found[0]["content"])
            place += 1
