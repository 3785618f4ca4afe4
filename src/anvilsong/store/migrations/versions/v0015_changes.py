"""Who changed what, and when."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0015"
down_revision = "0014"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "changes",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("job_id", sa.Integer(), nullable=True),
        sa.Column("who", sa.String(60), nullable=False, server_default=""),
        sa.Column("what", sa.String(40), nullable=False),
        sa.Column("made_at", sa.DateTime(), nullable=False),
    )
    op.create_index("ix_changes_job_id", "changes", ["job_id"])


def downgrade() -> None:
    op.drop_table("changes")
