"""The measures of a coupon in the words they were typed."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("readings", sa.Column("typed", sa.JSON))


def downgrade() -> None:
    op.drop_column("readings", "typed")
