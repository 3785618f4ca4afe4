"""Forms that were stored: one that is sent twice is stored once, also after a restart."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "sent_forms",
        sa.Column("mark", sa.String(32), primary_key=True),
        sa.Column("uid", sa.String(32), nullable=False),
        sa.Column("made_at", sa.DateTime(), nullable=False),
    )
    op.create_index("ix_sent_forms_uid", "sent_forms", ["uid"])


def downgrade() -> None:
    op.drop_table("sent_forms")
