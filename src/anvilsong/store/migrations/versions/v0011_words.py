"""Sentences of documents as values: their key, their words and the quantities among them."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator
from typing import Any

import sqlalchemy as sa
from alembic import op

from anvilsong.store.earlier_words import ESCAPED, MARK, words_earlier, words_now

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None

DOCUMENTS = {
    "plans": ("plan",),
    "readings": ("verdict", "change"),
    "heat_runs": ("result",),
    "attachments": ("document",),
}
PIECE = 200  # rows at a time, since a document is large


def upgrade() -> None:
    _rewrite((MARK, ESCAPED), words_now)
    for row, text in _texts(MARK):
        op.get_bind().execute(
            sa.text("UPDATE plans SET words = :words WHERE id = :id"),
            {"words": _stored(words_now(text)), "id": row},
        )


def downgrade() -> None:
    _rewrite(('"words"',), words_earlier)
    for row, text in _texts('{"key"'):
        try:
            words = words_earlier(json.loads(text))
        except (ValueError, RecursionError):
            continue
        if isinstance(words, str):
            op.get_bind().execute(
                sa.text("UPDATE plans SET words = :words WHERE id = :id"), {"words": words, "id": row}
            )


def _stored(words: Any) -> str:
    return words if isinstance(words, str) else json.dumps(words, ensure_ascii=False)


def _texts(mark: str) -> list[tuple[int, str]]:
    found = sa.text("SELECT id, words FROM plans WHERE typeof(words) = 'text' AND instr(words, :mark)")
    return [(row[0], row[1]) for row in op.get_bind().execute(found, {"mark": mark})]


def _rewrite(marks: tuple[str, ...], change: Callable[[Any], Any]) -> None:
    for table, columns in DOCUMENTS.items():
        for column in columns:
            for row, text in _documents(table, column, marks):
                try:
                    document = json.dumps(change(json.loads(text)))
                except (ValueError, RecursionError):  # damaged, and left so
                    continue
                op.get_bind().execute(
                    sa.text(f"UPDATE {table} SET {column} = :document WHERE id = :id"),
                    {"document": document, "id": row},
                )


def _documents(table: str, column: str, marks: tuple[str, ...]) -> Iterator[tuple[int, str]]:
    """Rows whose document holds one of the marks, some at a time."""
    holds = " OR ".join(f"instr({column}, :m{n})" for n in range(len(marks)))
    asked = sa.text(
        f"SELECT id, {column} FROM {table} WHERE id > :after AND typeof({column}) = 'text' AND ({holds})"
        f" ORDER BY id LIMIT {PIECE}"
    )
    after = -(2**62)
    while True:
        given = {f"m{n}": mark for n, mark in enumerate(marks)} | {"after": after}
        rows = op.get_bind().execute(asked, given).fetchall()
        yield from ((row[0], row[1]) for row in rows)
        if len(rows) < PIECE:
            return
        after = rows[-1][0]
