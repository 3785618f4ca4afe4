"""The database file: engine, sessions, migrations."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from alembic import command
from alembic.config import Config as AlembicConfig
from sqlalchemy import Engine, create_engine, event
from sqlalchemy.orm import Session, sessionmaker


def open_database(path: Path) -> Engine:
    """An engine on this file, brought to the newest migration. WAL, foreign keys on, five seconds' patience."""
    path.parent.mkdir(parents=True, exist_ok=True)
    engine = create_engine(f"sqlite:///{path}", connect_args={"timeout": 5})
    event.listen(engine, "connect", _prepare)
    migrate(engine)
    return engine


def _prepare(connection: Any, _record: Any) -> None:
    cursor = connection.cursor()
    for pragma in ("journal_mode=WAL", "foreign_keys=ON", "synchronous=NORMAL"):
        cursor.execute(f"PRAGMA {pragma}")
    cursor.close()


def migrate(engine: Engine) -> None:
    """Bring the schema up to date."""
    config = AlembicConfig()
    config.set_main_option("script_location", "anvilsong.store:migrations")
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "head")


def sessions(engine: Engine) -> sessionmaker[Session]:
    """Makes sessions; ``with make.begin() as session`` is one transaction."""
    return sessionmaker(engine, expire_on_commit=False)
