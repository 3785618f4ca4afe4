"""The schema from one version to the next, and back: each way in one transaction."""

from __future__ import annotations

from functools import cache
from importlib.resources import files
from typing import Literal

from sqlalchemy import Engine


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
        has = connection.exec_driver_sql("SELECT 1 FROM sqlite_master WHERE name = 'alembic_version'").first()
        version = (
            connection.exec_driver_sql("SELECT version_num FROM alembic_version").scalar() if has else ""
        )
    if version == known_revisions()[0]:
        return
    _walk(engine, "upgrade", "head")


def step_back(engine: Engine, revision: str) -> None:
    """Take the schema back to an older one, as a database of an older version of this program has it."""
    _walk(engine, "downgrade", revision)


def _walk(engine: Engine, way: Literal["upgrade", "downgrade"], revision: str) -> None:
    # Only a new file or an older one waits for what brings it up to date.
    from alembic import command
    from alembic.config import Config as AlembicConfig

    config = AlembicConfig()
    config.set_main_option("script_location", "anvilsong.store:migrations")
    with engine.execution_options(writes=True).begin() as connection:
        config.attributes["connection"] = connection
        getattr(command, way)(config, revision)
