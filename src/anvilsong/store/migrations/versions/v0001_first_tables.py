"""First tables: machines, welders, jobs, plans, coupons, readings, ticks, and the index of words."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


def _id() -> sa.Column[int]:
    return sa.Column("id", sa.Integer, primary_key=True)


def _job() -> sa.Column[int]:
    return sa.Column("job_id", sa.Integer, sa.ForeignKey("jobs.id"), nullable=False, index=True)


def _time(name: str = "made_at") -> sa.Column[object]:
    return sa.Column(name, sa.DateTime, nullable=False)


def upgrade() -> None:
    op.create_table(
        "machines",
        _id(),
        sa.Column("name", sa.String(60), nullable=False, unique=True),
        sa.Column("document", sa.JSON, nullable=False),
        _time(),
    )
    op.create_table(
        "welders",
        _id(),
        sa.Column("name", sa.String(60), nullable=False, unique=True),
        sa.Column("school", sa.JSON, nullable=False),
        sa.Column("note", sa.String, nullable=False),
    )
    op.create_table(
        "jobs",
        _id(),
        sa.Column("title", sa.String(120), nullable=False),
        sa.Column("welder_id", sa.Integer, sa.ForeignKey("welders.id")),
        _time(),
        _time("changed_at"),
    )
    op.create_table(
        "plans",
        _id(),
        _job(),
        sa.Column("revision", sa.Integer, nullable=False),
        sa.Column("origin", sa.String(20), nullable=False),
        sa.Column("words", sa.String, nullable=False),
        sa.Column("job_document", sa.JSON, nullable=False),
        sa.Column("machine_document", sa.JSON, nullable=False),
        sa.Column("settings", sa.JSON),
        sa.Column("plan", sa.JSON, nullable=False),
        _time(),
        sa.UniqueConstraint("job_id", "revision"),
    )
    op.create_table(
        "coupons",
        _id(),
        _job(),
        sa.Column("plan_id", sa.Integer, sa.ForeignKey("plans.id"), nullable=False),
        sa.Column("number", sa.Integer, nullable=False),
        _time(),
        sa.UniqueConstraint("job_id", "number"),
    )
    op.create_table(
        "readings",
        _id(),
        sa.Column("coupon_id", sa.Integer, sa.ForeignKey("coupons.id"), nullable=False),
        sa.Column("revision", sa.Integer, nullable=False),
        sa.Column("document", sa.JSON, nullable=False),
        sa.Column("verdict", sa.JSON, nullable=False),
        sa.Column("change", sa.JSON, nullable=False),
        _time(),
        sa.UniqueConstraint("coupon_id", "revision"),
    )
    op.create_table(
        "ticks",
        _id(),
        _job(),
        sa.Column("step", sa.String(60), nullable=False),
        _time("done_at"),
        sa.UniqueConstraint("job_id", "step"),
    )
    op.execute(
        "CREATE VIRTUAL TABLE words USING fts5(job_id UNINDEXED, text, tokenize='unicode61 "
        "remove_diacritics 2')"
    )


def downgrade() -> None:
    for name in ("words", "ticks", "readings", "coupons", "plans", "jobs", "welders", "machines"):
        op.drop_table(name)
