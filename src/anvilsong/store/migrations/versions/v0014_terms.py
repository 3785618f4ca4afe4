"""The terms of the index of words, so that a misspelt word finds the one that was meant."""

from __future__ import annotations

from alembic import op

revision = "0014"
down_revision = "0013"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("CREATE VIRTUAL TABLE words_terms USING fts5vocab(words, 'row')")


def downgrade() -> None:
    op.execute("DROP TABLE words_terms")
