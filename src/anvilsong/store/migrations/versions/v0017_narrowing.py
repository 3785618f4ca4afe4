"""What lists ask for as columns: what jobs are narrowed by, recipes by their names in small letters, what is
summed of welds on parts. The terms of the search are a table that spellings are found in by pieces of three
letters.
"""

from __future__ import annotations

from typing import Any

import sqlalchemy as sa
from alembic import op

from anvilsong.store.columns import figure, read_document
from anvilsong.store.narrowing import columns_of
from anvilsong.store.spelling import terms_of

revision = "0017"
down_revision = "0016"
branch_labels = None
depends_on = None

SUMMED = ("seconds", "gas_l", "rod_mm", "cost")
PIECE = 500  # jobs at a time
TEXTS = (("machine", 60), ("joint", 40), ("alloy_a", 40), ("alloy_b", 40), ("state", 20))
_JOBS = sa.text("""
    SELECT j.id,
        (SELECT p.job_document FROM plans p WHERE p.job_id = j.id ORDER BY p.revision DESC LIMIT 1),
        (SELECT p.settings FROM plans p WHERE p.job_id = j.id ORDER BY p.revision DESC LIMIT 1),
        (SELECT c.id FROM coupons c WHERE c.job_id = j.id ORDER BY c.number DESC LIMIT 1),
        (SELECT r.change FROM readings r WHERE r.coupon_id =
            (SELECT c.id FROM coupons c WHERE c.job_id = j.id ORDER BY c.number DESC LIMIT 1)
         ORDER BY r.revision DESC LIMIT 1),
        (SELECT w.text FROM words w WHERE w.rowid = j.id)
    FROM jobs j WHERE j.id > :after ORDER BY j.id LIMIT :piece
""")
_SET = sa.text("""
    UPDATE jobs SET machine = :machine, joint = :joint, alloy_a = :alloy_a, alloy_b = :alloy_b,
        thickness_a_mm = :thickness_a_mm, thickness_b_mm = :thickness_b_mm, state = :state WHERE id = :id
""")


def upgrade() -> None:
    for name, length in TEXTS:
        op.add_column("jobs", sa.Column(name, sa.String(length), nullable=False, server_default=""))
    for name in ("thickness_a_mm", "thickness_b_mm"):
        op.add_column("jobs", sa.Column(name, sa.Double(), nullable=True))
    op.add_column("plans", sa.Column("recipe_key", sa.String(120), nullable=True))
    op.add_column("plans", sa.Column("from_recipe", sa.String(120), nullable=True))
    op.create_index("ix_plans_from_recipe", "plans", ["from_recipe"])
    for name in SUMMED:
        op.add_column("part_runs", sa.Column(name, sa.Double(), nullable=True))
    op.drop_index("ix_plans_recipe_at", "plans")
    op.drop_index("ix_plans_recipe", "plans")
    op.create_index("ix_plans_recipe_at", "plans", ["recipe_at"])
    op.create_index("ix_plans_recipe_key", "plans", ["recipe_key", "recipe_at", "id", "recipe"])
    op.execute("DROP TABLE words_terms")
    op.create_table(
        "terms",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("term", sa.String(), nullable=False),
    )
    op.create_index("ix_terms_term", "terms", ["term"], unique=True)
    op.execute(
        "CREATE VIRTUAL TABLE words_pieces USING fts5(term, content='terms', content_rowid='id',"
        " tokenize='trigram')"
    )
    op.execute(
        "CREATE TRIGGER words_pieces_added AFTER INSERT ON terms BEGIN"
        " INSERT INTO words_pieces (rowid, term) VALUES (new.id, new.term); END"
    )
    _fill(op.get_bind())
    _fill_recipes(op.get_bind())
    _fill_runs(op.get_bind())


def _fill(bind: sa.Connection) -> None:
    after, known = -(2**62), set[str]()
    while rows := bind.execute(_JOBS, {"after": after, "piece": PIECE}).fetchall():
        for number, job, settings, coupon, change, words in rows:
            found = columns_of(read_document(job), settings not in (None, "null"), _kind(coupon, change))
            bind.execute(_SET, {"id": number, **found})
            for term in sorted(set(terms_of(str(words or ""))) - known):
                known.add(term)
                bind.execute(sa.text("INSERT INTO terms (term) VALUES (:term)"), {"term": term})
        after = rows[-1][0]


def _fill_recipes(bind: sa.Connection) -> None:
    for number, name in bind.execute(sa.text("SELECT id, recipe FROM plans WHERE recipe IS NOT NULL")).all():
        given = {"key": str(name).lower(), "id": number}
        bind.execute(sa.text("UPDATE plans SET recipe_key = :key WHERE id = :id"), given)


def _fill_runs(bind: sa.Connection) -> None:
    named = ", ".join(f"{name} = :{name}" for name in SUMMED)
    for number, text in bind.execute(sa.text("SELECT id, document FROM part_runs")).all():
        sums = {name: figure(read_document(text).get(name)) for name in SUMMED}
        bind.execute(sa.text(f"UPDATE part_runs SET {named} WHERE id = :id"), {"id": number, **sums})


def _kind(coupon: int | None, change: Any) -> str | None:
    return None if coupon is None else str(read_document(change).get("kind") or "")


def downgrade() -> None:
    op.execute("DROP TRIGGER words_pieces_added")
    op.execute("DROP TABLE words_pieces")
    op.drop_table("terms")
    op.execute("CREATE VIRTUAL TABLE words_terms USING fts5vocab(words, 'row')")
    op.drop_index("ix_plans_recipe_key", "plans")
    op.drop_index("ix_plans_recipe_at", "plans")
    op.create_index("ix_plans_recipe", "plans", ["recipe"])
    op.create_index("ix_plans_recipe_at", "plans", ["recipe", "recipe_at"])
    op.drop_index("ix_plans_from_recipe", "plans")
    op.execute("ALTER TABLE plans DROP COLUMN from_recipe")
    op.execute("ALTER TABLE plans DROP COLUMN recipe_key")
    for name in reversed(SUMMED):
        op.execute(f"ALTER TABLE part_runs DROP COLUMN {name}")
    for name in ("thickness_b_mm", "thickness_a_mm", *(name for name, _ in reversed(TEXTS))):
        op.execute(f"ALTER TABLE jobs DROP COLUMN {name}")
