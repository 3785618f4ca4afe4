"""Long books: the words of a job found by its number, and jobs in the order they changed."""

from __future__ import annotations

from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None

TOKENS = "tokenize='unicode61 remove_diacritics 2'"


def upgrade() -> None:
    op.execute("ALTER TABLE words RENAME TO words_before")
    op.execute(f"CREATE VIRTUAL TABLE words USING fts5(text, {TOKENS})")
    op.execute(
        "INSERT INTO words (rowid, text) SELECT job_id, text FROM words_before"
        " WHERE rowid IN (SELECT max(rowid) FROM words_before GROUP BY job_id)"
    )
    op.execute("DROP TABLE words_before")
    op.create_index("ix_jobs_changed", "jobs", ["put_away_at", "changed_at", "id"])


def downgrade() -> None:
    op.drop_index("ix_jobs_changed", "jobs")
    op.execute("ALTER TABLE words RENAME TO words_after")
    op.execute(f"CREATE VIRTUAL TABLE words USING fts5(job_id UNINDEXED, text, {TOKENS})")
    op.execute("INSERT INTO words (job_id, text) SELECT rowid, text FROM words_after")
    op.execute("DROP TABLE words_after")
