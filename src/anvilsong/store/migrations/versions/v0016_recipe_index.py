"""Recipes by name and moment, without reading the large documents of their versions."""

from __future__ import annotations

from alembic import op

revision = "0016"
down_revision = "0015"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_index("ix_plans_recipe_at", "plans", ["recipe", "recipe_at"])


def downgrade() -> None:
    op.drop_index("ix_plans_recipe_at", "plans")
