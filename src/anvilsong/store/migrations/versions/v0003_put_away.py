"""Rows that can be put away, names that stay after export and import, and the program's own mark in the
file.
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None

PUT_AWAY = ("machines", "kits", "welders", "jobs")
NAMED = ("jobs", "coupons")


def upgrade() -> None:
    for table in PUT_AWAY:
        op.add_column(table, sa.Column("put_away_at", sa.DateTime))
    for table in NAMED:
        op.add_column(table, sa.Column("uid", sa.String(32), nullable=False, server_default=""))
        op.execute(f"UPDATE {table} SET uid = lower(hex(randomblob(16)))")
        op.create_index(f"ix_{table}_uid", table, ["uid"], unique=True)
    op.execute(f"PRAGMA application_id = {0x416E7673}")


def downgrade() -> None:
    for table in NAMED:
        op.drop_index(f"ix_{table}_uid", table)
        op.drop_column(table, "uid")
    for table in PUT_AWAY:
        op.drop_column(table, "put_away_at")
