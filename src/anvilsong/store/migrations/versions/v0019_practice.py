"""Exercises that were done."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0019"
down_revision = "0018"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "practice",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("uid", sa.String(32), nullable=False),
        sa.Column("welder", sa.String(60), nullable=False, server_default=""),
        sa.Column("skill", sa.String(20), nullable=False),
        sa.Column("item", sa.String(60), nullable=False),
        sa.Column("score", sa.Double(), nullable=False),
        sa.Column("document", sa.JSON().with_variant(sa.Text(), "postgresql"), nullable=False),
        sa.Column("made_at", sa.DateTime(), nullable=False),
    )
    op.create_index("ix_practice_uid", "practice", ["uid"], unique=True)
    op.create_index("ix_practice_welder", "practice", ["welder"])


def downgrade() -> None:
    op.drop_table("practice")
