"""Recipes: a plan that was kept by name."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("plans", sa.Column("recipe", sa.String(60), nullable=True))
    op.create_index("ix_plans_recipe", "plans", ["recipe"])


def downgrade() -> None:
    op.drop_index("ix_plans_recipe", "plans")
    op.drop_column("plans", "recipe")
