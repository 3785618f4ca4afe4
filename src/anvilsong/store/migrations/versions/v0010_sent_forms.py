"""Forms that were stored: one that is sent twice is stored once, also after a restart. A part's size that no
person would mean, which could be typed before, is unknown from now on.
"""

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
    for column, part in (("job_document", "$.part"), ("plan", "$.job.part")):
        for size in ("width_mm", "length_mm"):
            place = f"'{part}.{size}'"
            op.execute(
                f"UPDATE plans SET {column} = json_set({column}, {place}, NULL) WHERE json_valid({column})"
                f" AND json_extract({column}, {place}) > 0 AND json_extract({column}, {place}) < 3"
            )


def downgrade() -> None:
    op.drop_table("sent_forms")
