"""Heat runs: parts that were drawn and welded in the computer, with what came of it."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "heat_runs",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("uid", sa.String(32), nullable=False),
        sa.Column("job_id", sa.Integer(), sa.ForeignKey("jobs.id"), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("part", sa.JSON(), nullable=False),
        sa.Column("result", sa.JSON(), nullable=True),
        sa.Column("film", sa.LargeBinary(), nullable=True),
        sa.Column("made_at", sa.DateTime(), nullable=False),
    )
    op.create_index("ix_heat_runs_uid", "heat_runs", ["uid"], unique=True)
    op.create_index("ix_heat_runs_job_id", "heat_runs", ["job_id"])


def downgrade() -> None:
    op.drop_table("heat_runs")
