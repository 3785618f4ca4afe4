"""A logbook on a PostgreSQL server: the same tables, transactions that begin as those of a file do, and words
asked of indexes that come with the server.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from functools import cache
from typing import Any

from sqlalchemy import (
    ColumnElement,
    Connection,
    Engine,
    Inspector,
    Select,
    String,
    TextClause,
    collate,
    create_engine,
    event,
    func,
    inspect,
    or_,
    select,
    text,
)
from sqlalchemy.exc import ArgumentError, NoSuchModuleError
from sqlalchemy.ext.compiler import compiles

from anvilsong.core.errors import CannotRead
from anvilsong.core.words import sentence
from anvilsong.store.places import OnServer

WAITS_S = 5.0  # patience with another writer, and with a server that does not answer
LEAST_VERSION = (13,)  # extensions that an owner of a database may make
TURN = 7_205_759_403  # names the writers' turn among the server's locks

# A reader sees the logbook as it stood when it began, as of a file; writers come one after another, and each
# sees what the one before it wrote.
READS = {"isolation_level": "REPEATABLE READ", "postgresql_readonly": True}
_TURN = f"SET LOCAL lock_timeout = '{WAITS_S:.0f}s'; SELECT pg_advisory_xact_lock({TURN})"

# What the models do not say: words are asked by lexemes, and pieces of three letters find the terms. Jobs are
# named as in the file's index of words, so that the same statements fill both.
_WORDS = (
    "CREATE EXTENSION IF NOT EXISTS pg_trgm",
    "CREATE TABLE words (rowid INTEGER PRIMARY KEY, text TEXT NOT NULL, lexemes TSVECTOR NOT NULL"
    " GENERATED ALWAYS AS (array_to_tsvector(array_remove(string_to_array(text, ' '), ''))) STORED)",
    "CREATE INDEX ix_words_lexemes ON words USING gin (lexemes)",
    "CREATE INDEX ix_terms_pieces ON terms USING gin (term gin_trgm_ops)",
)


@compiles(String, "postgresql")
def _as_text(_type: String, _compiler: Any, **given: Any) -> str:
    """Texts of any length; columns of them in the order of their letters' numbers, as in a file."""
    return 'TEXT COLLATE "C"' if given.get("type_expression") is not None else "TEXT"


def make_engine(place: OnServer) -> Engine:
    """An engine on a database of a server.

    Raises
    ------
    CannotRead : the address is none, or what speaks to such servers is not installed
    """
    try:
        engine = create_engine(
            place.url,
            pool_size=10,
            max_overflow=10,
            pool_timeout=WAITS_S,
            connect_args={"connect_timeout": int(WAITS_S), "application_name": "anvilsong"},
            execution_options={"place": place},
        )
    except ModuleNotFoundError:
        raise CannotRead(str(place), sentence("store.postgres_not_installed")) from None
    except (ArgumentError, NoSuchModuleError, ValueError):
        raise CannotRead(str(place), sentence("store.no_address_of_database")) from None
    event.listen(engine, "connect", _prepare)
    event.listen(engine, "begin", _begin)
    return engine


def _prepare(connection: Any, _record: Any) -> None:
    """Texts are sent without the letter that no text of such a server may have."""
    from psycopg.types.string import StrDumper

    class WithoutNul(StrDumper):
        def dump(self, obj: str) -> Any:
            return super().dump(obj.replace("\0", "\ufffd"))

    connection.adapters.register_dumper(str, WithoutNul)


def _begin(connection: Connection) -> None:
    if connection.get_execution_options().get("writes"):
        connection.exec_driver_sql(_TURN)


def make_words(connection: Connection) -> None:
    """The index of words, beside the tables of the models."""
    for statement in _WORDS:
        connection.exec_driver_sql(statement)


def check_server(connection: Connection) -> None:
    """That a logbook can be kept there.

    Raises
    ------
    CannotRead : the server is too old, or its texts are not in UTF-8
    """
    place = str(connection.engine.get_execution_options()["place"])
    version = connection.dialect.server_version_info or (0,)
    if version < LEAST_VERSION:
        raise CannotRead(place, sentence("store.server_too_old", least=LEAST_VERSION[0], version=version[0]))
    if connection.exec_driver_sql("SHOW server_encoding").scalar() != "UTF8":
        raise CannotRead(place, sentence("store.server_not_utf8"))


def tables_in(connection: Connection) -> set[str]:
    """The names of the tables that a logbook's place in the database holds."""
    asked: Inspector = inspect(connection)
    return set(asked.get_table_names())


_WORDED = (
    (r"\bcame\.(\w+)", r"came_\1"),
    (r"\bmain\.", ""),
    (r"lower\(hex\(randomblob\(16\)\)\)", "replace(CAST(gen_random_uuid() AS TEXT), '-', '')"),
    (r"\blower\((\w+)\)", r'lower(\1 COLLATE "und-x-icu")'),
    (r"\?", "%s"),
    (r"(?<!:):(\w+)", r"%(\1)s"),
)


@cache
def _worded(statement: str) -> str:
    for was, becomes in _WORDED:
        statement = re.sub(was, becomes, statement)
    return statement


class Postgres:
    """PostgreSQL: words as lexemes, their pieces by ``pg_trgm``."""

    def generation(self, connection: Connection) -> int:
        """The server's own number of a table that every restore makes anew."""
        return int(connection.exec_driver_sql("SELECT 'alembic_version'::regclass::oid").scalar() or 0)

    def state(self, connection: Connection) -> None:
        """A server counts no such thing."""

    def size_bytes(self, connection: Connection) -> int:
        return int(connection.exec_driver_sql("SELECT pg_database_size(current_database())").scalar() or 0)

    def lowered(self, column: Any) -> ColumnElement[str]:
        return func.lower(collate(column, "und-x-icu"))

    def begins(self, word: str) -> str:
        return f"'{word}':*"

    def any_of(self, words: Iterable[str]) -> str:
        return "(" + " | ".join(f"'{word}'" for word in words) + ")"

    def all_of(self, asked: Iterable[str]) -> str:
        return " & ".join(asked)

    def fitting(self, question: str) -> TextClause:
        asked = "SELECT rowid FROM words WHERE lexemes @@ CAST(:match AS tsquery)"
        return text(asked).bindparams(match=question)

    def count_fitting(self, question: str, away: bool) -> TextClause:
        asked = (
            "SELECT count(*) FROM words JOIN jobs ON jobs.id = words.rowid"
            " WHERE lexemes @@ CAST(:match AS tsquery)"
            f" AND jobs.put_away_at IS {'NOT ' if away else ''}NULL"
        )
        return text(asked).bindparams(match=question)

    def worded(self, statement: str) -> str:
        return _worded(statement)

    def numbered_on(self, connection: Connection, tables: Iterable[str]) -> None:
        for table in tables:
            connection.exec_driver_sql(
                f"SELECT setval(pg_get_serial_sequence('{table}', 'id'),"
                f" (SELECT coalesce(max(id), 1) FROM {table}))"
            )

    def with_pieces(self, pieces: Iterable[str]) -> Select[Any]:
        from anvilsong.store.models import TermRow

        holding = or_(*(TermRow.term.contains(piece, autoescape=True) for piece in sorted(pieces)))
        return select(TermRow.term).where(holding).order_by(func.length(TermRow.term), TermRow.term)


POSTGRES = Postgres()
