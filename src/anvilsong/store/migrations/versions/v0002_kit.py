"""Kits and the log of gauge readings."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "kits",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("name", sa.String(60), nullable=False, unique=True),
        sa.Column("document", sa.JSON, nullable=False),
    )
    op.create_table(
        "gauge_readings",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("cylinder", sa.String(60), nullable=False, index=True),
        sa.Column("bar", sa.Double, nullable=False),
        sa.Column("note", sa.String, nullable=False),
        sa.Column("made_at", sa.DateTime, nullable=False),
    )


def downgrade() -> None:
    op.drop_table("gauge_readings")
    op.drop_table("kits")
