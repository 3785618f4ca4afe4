"""The recipes nearest to a job, and a job that starts from one. The caller commits."""

from __future__ import annotations

from functools import lru_cache

from sqlalchemy import Text, select, type_coerce
from sqlalchemy.orm import Session

from anvilsong.core.job import Job
from anvilsong.core.settings import Settings
from anvilsong.core.shop import Kept, Traits, apart, nearest, proof_of, traits
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
        select(PlanRow.recipe_key, PlanRow.id, PlanRow.recipe, type_coerce(PlanRow.job_document, Text))
        .where(PlanRow.recipe_key.is_not(None))
        .order_by(PlanRow.recipe_key.desc(), PlanRow.recipe_at.desc(), PlanRow.id.desc())
    )
    retired = select(RecipeRow.name).where(RecipeRow.retired_at.is_not(None))
    passed: set[str | None] = {name.lower() for name in session.scalars(retired)}
    here, ranked = traits(job), []
    for key, plan_id, name, text in session.execute(asked):
        if key in passed:
            continue
        passed.add(key)  # its older versions
        found = _traits(text)
        if found is not None:
            ranked.append((apart(here, found)[0], plan_id, name))
    ranked.sort(key=lambda one: one[0])
    behind = evidence_of(session, [plan_id for _, plan_id, _ in ranked[:most]])
    nearest_ones = []
    for _, plan_id, name in ranked[:most]:
        plan = session.get_one(PlanRow, plan_id)
        kept, settings = readable(Job, plan.job_document), readable(Settings, plan.settings or {})
        if kept is not None and settings is not None:
            proved = proof_of(behind[plan_id]).state == "proved"
            bench = shop.bench_of(session, kept)
            nearest_ones.append(Kept(plan_id, name or "", kept, settings, bench, proved))
    return nearest_ones


@lru_cache(maxsize=16384)
def _traits(text: str) -> Traits | None:
    """The traits of a job by its document's text; None where it cannot be read."""
    job = readable_text(Job, text)
    return traits(job) if job is not None else None


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
