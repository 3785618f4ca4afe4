"""Whether a database has this program's tables, whole: what is missing, other or added is named."""

from __future__ import annotations

import sqlite3
import tempfile
from contextlib import closing
from functools import cache
from pathlib import Path

from anvilsong.core import say
from anvilsong.core.said import Words
from anvilsong.core.words import sentence
from anvilsong.store.database import write_empty

Shape = dict[str, str]


def schema_differences(connection: sqlite3.Connection) -> list[Words]:
    """What a database has otherwise than one that this program has just made, in words; empty when it is the
    same.
    """
    own, theirs = _own(), _shape(connection)
    other = [f"{name} is another one" for name in own if name in theirs and own[name] != theirs[name]]
    missing = [f"{name} is missing" for name in _outermost(own, theirs)]
    added: list[Words] = [
        sentence("store.there_which_not_programs", name=name) for name in _outermost(theirs, own)
    ]
    return [*other, *missing, *added]


def _outermost(these: Shape, those: Shape) -> list[str]:
    """What only the first has; of a whole table, the table alone and not its columns."""
    only = [name for name in these if name not in those]
    tables = tuple(f" of {name.removeprefix('the table ')}" for name in only if name.startswith("the table "))
    return [name for name in only if not (tables and name.removesuffix(" is unique").endswith(tables))]


@cache
def _own() -> Shape:
    """The shape of a new database."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "new.sqlite"
        write_empty(path)
        with closing(sqlite3.connect(path)) as connection:
            return _shape(connection)


def _shape(connection: sqlite3.Connection) -> Shape:
    """Every table, column, rule and index by name, with what makes it. Not their texts: a table that older
    versions made column by column is the same table.
    """
    shape: Shape = {}
    kinds = "SELECT type, name, tbl_name, coalesce(sql, '') FROM sqlite_master ORDER BY name"
    for kind, name, table, sql in connection.execute(kinds).fetchall():
        words = " ".join(sql.lower().split())
        if kind == "table" and words.startswith("create table"):
            shape[f"the table {name}"] = f"checks: {words.count(' check')}"
            shape |= _columns(connection, name)
        elif kind == "index":
            shape |= _index(connection, name, table)
        else:  # a virtual table, a trigger or a view
            shape[f"the {kind} {name}"] = words
    return shape


def _columns(connection: sqlite3.Connection, table: str) -> Shape:
    asked = connection.execute("SELECT * FROM pragma_table_xinfo(?)", (table,)).fetchall()
    found = {f"the column {column[1]} of {table}": repr(column[2:]) for column in asked}
    keys = connection.execute("SELECT * FROM pragma_foreign_key_list(?)", (table,)).fetchall()
    return found | {f"the reference {key[3]} of {table}": repr(key[2:]) for key in keys}


def _index(connection: sqlite3.Connection, name: str, table: str) -> Shape:
    of = [row[2] for row in connection.execute("SELECT * FROM pragma_index_info(?)", (name,))]
    listed = connection.execute("SELECT * FROM pragma_index_list(?)", (table,)).fetchall()
    rule = next((repr((row[2], row[4])) for row in listed if row[1] == name), "")
    if name.startswith("sqlite_autoindex"):  # a rule of its table, numbered as the table was made
        return {
            say.in_units(sentence("store.rule_unique", columns=", ".join(map(str, of)), table=table)): rule
        }
    return {f"the index {name}": f"{of} {rule}"}
