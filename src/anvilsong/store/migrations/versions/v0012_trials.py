"""Trials: test series, blind judgements, tests of a machine's arc."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "trials",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("uid", sa.String(32), nullable=False),
        sa.Column("job_id", sa.Integer(), sa.ForeignKey("jobs.id"), nullable=True),
        sa.Column("machine", sa.String(60), nullable=False, server_default=""),
        sa.Column("kind", sa.String(20), nullable=False),
        sa.Column("document", sa.JSON(), nullable=False),
        sa.Column("made_at", sa.DateTime(), nullable=False),
    )
    op.create_index("ix_trials_uid", "trials", ["uid"], unique=True)
    op.create_index("ix_trials_job_id", "trials", ["job_id"])
    op.create_index("ix_trials_machine", "trials", ["machine"])


def downgrade() -> None:
    op.drop_table("trials")
