"""A photograph may be of a weld on a part. The first migration that logbooks on a server go through too."""

from __future__ import annotations

from alembic import op

revision = "0018"
down_revision = "0017"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("ALTER TABLE attachments ADD COLUMN part_run_id INTEGER REFERENCES part_runs (id)")
    op.create_index("ix_attachments_part_run_id", "attachments", ["part_run_id"])


def downgrade() -> None:
    op.drop_index("ix_attachments_part_run_id", "attachments")
    with op.batch_alter_table("attachments") as attachments:
        attachments.drop_column("part_run_id")
