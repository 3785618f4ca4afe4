"""What a shop keeps: marks of recipes and why a version was kept, memories of machines, runs on the part."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("plans", sa.Column("recipe_why", sa.String(400), nullable=False, server_default=""))
    op.add_column("plans", sa.Column("recipe_at", sa.DateTime(), nullable=True))
    op.execute("UPDATE plans SET recipe_at = made_at WHERE recipe IS NOT NULL")
    op.create_table(
        "recipes",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("name", sa.String(60), nullable=False, unique=True),
        sa.Column("tags", sa.String(200), nullable=False, server_default=""),
        sa.Column("favourite", sa.Boolean(), nullable=False, server_default=sa.false()),
        sa.Column("retired_at", sa.DateTime(), nullable=True),
    )
    for name, more in (
        (
            "memories",
            (
                sa.Column("machine", sa.String(60), nullable=False),
                sa.Column("slot", sa.Integer(), nullable=False),
                sa.Column("label", sa.String(40), nullable=False, server_default=""),
                sa.Column("gone_at", sa.DateTime(), nullable=True),
                sa.Column("panel", sa.JSON(), nullable=True),
            ),
        ),
        ("part_runs", (sa.Column("document", sa.JSON(), nullable=False),)),
    ):
        op.create_table(
            name,
            sa.Column("id", sa.Integer(), primary_key=True),
            sa.Column("uid", sa.String(32), nullable=False),
            sa.Column("job_id", sa.Integer(), sa.ForeignKey("jobs.id"), nullable=False),
            sa.Column("revision", sa.Integer(), nullable=False),
            *more,
            sa.Column("made_at", sa.DateTime(), nullable=False),
        )
        op.create_index(f"ix_{name}_uid", name, ["uid"], unique=True)
        op.create_index(f"ix_{name}_job_id", name, ["job_id"])
    op.create_index("ix_coupons_plan_id", "coupons", ["plan_id"])
    op.create_index("ix_memories_machine", "memories", ["machine"])
    op.create_index("ix_part_runs_made_at", "part_runs", ["made_at"])


def downgrade() -> None:
    op.drop_index("ix_coupons_plan_id", "coupons")
    for name in ("part_runs", "memories", "recipes"):
        op.drop_table(name)
    op.drop_column("plans", "recipe_at")
    op.drop_column("plans", "recipe_why")
