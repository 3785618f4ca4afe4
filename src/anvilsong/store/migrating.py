"""The schema from one version to the next, and back: each way in one transaction."""

from __future__ import annotations

from functools import cache
from importlib.resources import files
from typing import Literal

from sqlalchemy import Connection, Engine, inspect

from anvilsong.core.errors import CannotRead
from anvilsong.core.words import sentence
from anvilsong.store.databases import place_of, writing
from anvilsong.store.models import Base


@cache
def known_revisions() -> tuple[str, ...]:
    """The migrations this version knows, newest first, by the names of their files
    (``v0001_first_tables.py``).
    """
    names = (path.name for path in files("anvilsong.store.migrations").joinpath("versions").iterdir())
    return tuple(sorted((name[1:5] for name in names if name.startswith("v")), reverse=True))


def migrate(engine: Engine) -> None:
    """Bring the schema up to date, in one transaction; nothing is written when it is."""
    with engine.connect() as connection:
        version = _version(connection)
    if version == known_revisions()[0]:
        return
    _walk(engine, "upgrade", "head")


def _version(connection: Connection) -> str:
    """The schema's version; empty where there is none."""
    if not inspect(connection).has_table("alembic_version"):
        return ""
    return str(connection.exec_driver_sql("SELECT version_num FROM alembic_version").scalar() or "")


def _begin_on_server(connection: Connection) -> bool:
    """Make the tables of this version in an empty database of a server; False where they are there, to be
    brought up to date as those of a file are.

    Raises
    ------
    CannotRead : it holds another program's tables, or those of a newer version
    """
    from anvilsong.store.databases.postgres import check_server, make_words, tables_in

    check_server(connection)
    version, tables = _version(connection), tables_in(connection)
    place = str(place_of(connection.engine))
    if version:
        if version not in known_revisions():
            raise CannotRead(place, sentence("store.was_written_newer_version", version=version))
        return False
    if tables:
        raise CannotRead(place, sentence("store.another_programs_database_was"))
    Base.metadata.create_all(connection)
    make_words(connection)
    return True


def step_back(engine: Engine, revision: str) -> None:
    """Take the schema back to an older one, as a database of an older version of this program has it."""
    _walk(engine, "downgrade", revision)


def _walk(engine: Engine, way: Literal["upgrade", "downgrade"], revision: str) -> None:
    # Only a new file or an older one waits for what brings it up to date.
    from alembic import command
    from alembic.config import Config as AlembicConfig

    config = AlembicConfig()
    config.set_main_option("script_location", "anvilsong.store:migrations")
    with writing(engine).begin() as connection:
        config.attributes["connection"] = connection
        if connection.dialect.name == "postgresql" and _begin_on_server(connection):
            command.stamp(config, "head")
        else:
            getattr(command, way)(config, revision)
