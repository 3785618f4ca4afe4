"""Writes ``store/empty.sql``, the schema of an empty logbook as all migrations together make it: a new file
is made of it at once. Run it after adding a migration.
"""

from __future__ import annotations

from contextlib import closing
from pathlib import Path

import anvilsong.store
from anvilsong.store.databases import make_engine
from anvilsong.store.migrating import known_revisions, migrate

FILE = Path(anvilsong.store.__file__).with_name("empty.sql")
MARKS = ("application_id", "user_version")
# The index of words makes tables of its own.
_MADE = """
    SELECT sql FROM sqlite_master WHERE sql IS NOT NULL AND name NOT LIKE 'sqlite_%'
    AND name NOT IN (SELECT name FROM pragma_table_list WHERE type = 'shadow') ORDER BY rowid
"""


def written() -> str:
    """The statements, as the migrations leave them."""
    engine = make_engine(Path(":memory:"), wal=False)
    try:
        migrate(engine)
        with closing(engine.raw_connection()) as connection:
            driver = connection.driver_connection
            statements = [sql for (sql,) in driver.execute(_MADE)]
            marks = [f"PRAGMA {mark} = {driver.execute(f'PRAGMA {mark}').fetchone()[0]}" for mark in MARKS]
    finally:
        engine.dispose()
    version = f"INSERT INTO alembic_version (version_num) VALUES ('{known_revisions()[0]}')"
    return "".join(f"{statement};\n" for statement in [*marks, *statements, version])


if __name__ == "__main__":
    FILE.write_text(written(), encoding="utf-8")
