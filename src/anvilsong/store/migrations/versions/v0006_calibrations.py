"""What coupons say of a machine and kit, which pair each was run on, and what helped against a fault."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    for name in ("machine", "kit"):
        op.add_column("coupons", sa.Column(name, sa.String(60), nullable=False, server_default=""))
        # What is no JSON names no machine; such a coupon counts for nobody.
        op.execute(
            f"UPDATE coupons SET {name} = coalesce((SELECT json_extract(job_document, '$.{name}') FROM plans"
            " WHERE plans.id = coupons.plan_id AND json_valid(job_document)), '')"
        )
    op.add_column("coupons", sa.Column("left_out", sa.Boolean(), nullable=False, server_default=sa.false()))
    op.create_index("ix_coupons_pair", "coupons", ["machine", "kit", "id"])
    op.create_table(
        "calibrations",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("machine", sa.String(60), nullable=False),
        sa.Column("kit", sa.String(60), nullable=False),
        sa.Column("is_on", sa.Boolean(), nullable=False),
        sa.Column("document", sa.JSON(), nullable=False),
        sa.Column("members", sa.JSON(), nullable=False),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.UniqueConstraint("machine", "kit"),
    )
    op.create_table(
        "fault_trials",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("sign", sa.String(40), nullable=False),
        sa.Column("cause", sa.String(40), nullable=False),
        sa.Column("helped", sa.Boolean(), nullable=False),
        sa.Column("made_at", sa.DateTime(), nullable=False),
    )
    op.create_index("ix_fault_trials_sign", "fault_trials", ["sign"])


def downgrade() -> None:
    op.drop_table("fault_trials")
    op.drop_table("calibrations")
    op.drop_index("ix_coupons_pair", "coupons")
    for name in ("left_out", "kit", "machine"):
        op.drop_column("coupons", name)
