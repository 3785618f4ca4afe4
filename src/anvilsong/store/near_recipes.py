"""The recipes nearest to a job, and a job that starts from one. The caller commits."""

from __future__ import annotations

from itertools import groupby

from sqlalchemy import Text, func, select, type_coerce
from sqlalchemy.orm import Session

from anvilsong.core.job import Job
from anvilsong.core.settings import Settings
from anvilsong.core.shop import Kept, apart, nearest, proof_of
from anvilsong.core.words import sentence
from anvilsong.store import shop
from anvilsong.store.book import add_plan
from anvilsong.store.kept_models import RecipeRow
from anvilsong.store.models import JobRow, PlanRow
from anvilsong.store.reading import readable, readable_text
from anvilsong.store.recipe_proof import evidence_of

MOST_NEAR = 8


def kept_for(session: Session, job: Job, most: int = MOST_NEAR) -> list[Kept]:
    """The recipes nearest to a job, each as its newest version, with what is behind them; retired ones are
    left out.
    """
    asked = (
        select(PlanRow.id, PlanRow.recipe, type_coerce(PlanRow.job_document, Text))
        .where(PlanRow.recipe.is_not(None))
        .order_by(func.lower(PlanRow.recipe), PlanRow.recipe_at.desc(), PlanRow.id.desc())
    )
    retired = set(
        session.scalars(select(func.lower(RecipeRow.name)).where(RecipeRow.retired_at.is_not(None)))
    )
    ranked = []
    for key, rows in groupby(session.execute(asked), lambda row: (row[1] or "").lower()):
        plan_id, name, text = next(rows)
        kept = readable_text(Job, text) if key not in retired else None
        if kept is not None:
            ranked.append((apart(job, kept)[0], plan_id, name, kept))
    ranked.sort(key=lambda one: one[0])
    found = []
    behind = evidence_of(session, [plan_id for _, plan_id, *_ in ranked[:most]])
    for _, plan_id, name, kept in ranked[:most]:
        plan = session.get(PlanRow, plan_id)
        settings = readable(Settings, plan.settings) if plan is not None and plan.settings else None
        if plan is not None and settings is not None:
            proved = proof_of(behind[plan_id]).state == "proved"
            found.append(Kept(plan_id, name or "", kept, settings, shop.bench_of(session, kept), proved))
    return found


def start_near(session: Session, row: JobRow, recipe: PlanRow) -> bool:
    """A recipe's settings brought to a job that was just planned, as a version more; False where they would
    bring a stop, and nothing is done.
    """
    plan = session.scalar(select(PlanRow).where(PlanRow.job_id == row.id).order_by(PlanRow.revision.desc()))
    job = readable(Job, plan.job_document) if plan is not None else None
    own, settings = readable(Job, recipe.job_document), readable(Settings, recipe.settings or {})
    if job is None or own is None or settings is None:
        return False
    kept = Kept(recipe.id, recipe.recipe or "", own, settings, shop.bench_of(session, own), True)
    near = nearest(job, shop.bench_of(session, job), [kept])
    if not near or not near[0].is_whole:
        return False
    add_plan(session, row, job, "recipe", sentence("store.brought_over", name=kept.name), near[0].settings)
    return True
