"""Attachments: what a coupon was recorded with, a photograph for a start."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "attachments",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("uid", sa.String(32), nullable=False),
        sa.Column("job_id", sa.Integer(), sa.ForeignKey("jobs.id"), nullable=False),
        sa.Column("coupon_id", sa.Integer(), sa.ForeignKey("coupons.id"), nullable=True),
        sa.Column("kind", sa.String(20), nullable=False),
        sa.Column("media_type", sa.String(40), nullable=False),
        sa.Column("content", sa.LargeBinary(), nullable=False),
        sa.Column("document", sa.JSON(), nullable=False),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.Column("put_away_at", sa.DateTime(), nullable=True),
    )
    op.create_index("ix_attachments_uid", "attachments", ["uid"], unique=True)
    op.create_index("ix_attachments_job_id", "attachments", ["job_id"])
    op.create_index("ix_attachments_coupon_id", "attachments", ["coupon_id"])


def downgrade() -> None:
    op.drop_table("attachments")
