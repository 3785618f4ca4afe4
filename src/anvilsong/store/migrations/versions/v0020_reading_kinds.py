"""What each reading asked for next, in a column of its own: what stands behind a recipe is counted without
opening a document for each coupon.
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

from anvilsong.store.columns import kind_of_change

revision = "0020"
down_revision = "0019"
branch_labels = None
depends_on = None

PIECE = 2000  # readings at a time
_READINGS = sa.text("SELECT id, change FROM readings WHERE id > :after ORDER BY id LIMIT :piece")
_SET = sa.text("UPDATE readings SET kind = :kind WHERE id = :id")


def upgrade() -> None:
    op.add_column("readings", sa.Column("kind", sa.String(20), nullable=False, server_default=""))
    bind, after = op.get_bind(), -(2**62)
    while rows := bind.execute(_READINGS, {"after": after, "piece": PIECE}).fetchall():
        bind.execute(_SET, [{"id": number, "kind": kind_of_change(change)} for number, change in rows])
        after = rows[-1][0]
    op.create_index("ix_readings_kind", "readings", ["coupon_id", "revision", "kind"])


def downgrade() -> None:
    op.drop_index("ix_readings_kind", "readings")
    op.execute("ALTER TABLE readings DROP COLUMN kind")
