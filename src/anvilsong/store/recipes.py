"""Recipes: a revision kept by name, to start other jobs from. The caller commits."""

from __future__ import annotations

from dataclasses import dataclass

from pydantic import TypeAdapter, ValidationError
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from anvilsong.core.checks import newly_broken
from anvilsong.core.errors import BadInput
from anvilsong.core.job import Job
from anvilsong.core.machine import within_machine
from anvilsong.core.plan import worked_out
from anvilsong.core.settings import Settings
from anvilsong.core.value import Name
from anvilsong.core.words import sentence
from anvilsong.store import shop
from anvilsong.store.book import add_job, add_plan
from anvilsong.store.models import CouponRow, JobRow, PlanRow
from anvilsong.store.reading import check_seen, readable

_NAME: TypeAdapter[str] = TypeAdapter(Name)


@dataclass(frozen=True)
class Recipe:
    """A kept revision as the list shows it. ``job`` and ``settings`` are None where they cannot be read."""

    plan_id: int
    name: str
    job_id: int
    title: str
    revision: int
    coupons: int
    """How many coupons were run with exactly these settings."""
    job: Job | None
    settings: Settings | None


def keep_recipe(session: Session, plan: PlanRow, name: str, seen: str | None = None) -> None:
    """Keep a revision under a name, or under another one than before; ``seen`` is the digest of the name that
    the form was opened on.

    Raises
    ------
    BadInput : somebody named it since, no name, a name of another recipe, or a revision without settings
    """
    try:
        clean = _NAME.validate_python(name)
    except ValidationError:
        raise BadInput.one("recipe", name, sentence("store.give_name_letters_one_2")) from None
    check_seen(seen, plan.recipe, f"the name of version {plan.revision}")
    if plan.settings is None:
        raise BadInput.one("recipe", name, sentence("store.refused_plan_has_no"))
    taken = select(PlanRow.id).where(func.lower(PlanRow.recipe) == clean.lower(), PlanRow.id != plan.id)
    if session.scalar(taken.limit(1)) is not None:
        raise BadInput.one("recipe", clean, sentence("store.name_no_other_recipe"))
    plan.recipe = clean


def drop_recipe(plan: PlanRow) -> None:
    """No longer a recipe; the revision stays in its job."""
    plan.recipe = None


def find_recipe(session: Session, plan_id: int) -> PlanRow | None:
    """A kept revision by its number."""
    return session.scalar(select(PlanRow).where(PlanRow.id == plan_id, PlanRow.recipe.is_not(None)))


def recipes(session: Session) -> list[Recipe]:
    """Every recipe, by name; those of jobs that were put away too."""
    ran = select(func.count()).where(CouponRow.plan_id == PlanRow.id).correlate(PlanRow).scalar_subquery()
    asked = (
        select(PlanRow, JobRow.title, ran)
        .join(JobRow, JobRow.id == PlanRow.job_id)
        .where(PlanRow.recipe.is_not(None))
        .order_by(func.lower(PlanRow.recipe), PlanRow.id)
    )
    return [
        Recipe(
            plan.id,
            plan.recipe or "",
            plan.job_id,
            title,
            plan.revision,
            coupons,
            readable(Job, plan.job_document),
            readable(Settings, plan.settings) if plan.settings else None,
        )
        for plan, title, coupons in session.execute(asked)
    ]


def start_from(session: Session, recipe: PlanRow, title: str, welder_id: int | None = None) -> JobRow:
    """A new job as the recipe's: planned afresh, so that what coupons said since is seen, then with the
    recipe's settings over it. Settings that the machine, as it is now, cannot be set to, or that bring a stop
    which the plan has not, are not taken: the job keeps its fresh plan and says so.

    Raises
    ------
    BadInput : the title, or a recipe whose job or settings cannot be read
    """
    job, settings = readable(Job, recipe.job_document), readable(Settings, recipe.settings or {})
    if job is None or settings is None:
        raise BadInput.one("recipe", recipe.recipe, sentence("store.recipe_whose_settings_can"))
    row = add_job(session, title, job, welder_id)
    bench = shop.bench_of(session, job)
    settings = within_machine(settings, bench.machine)
    planned = worked_out(job, None, *bench).settings
    broken = newly_broken(job, planned, settings, *bench) if planned else []
    if any(warning.level == "stop" for warning in broken):
        said = sentence("store.from_recipe_planned_afresh", recipe=recipe.recipe)
        add_plan(session, row, job, "recipe", said, planned)
    else:
        add_plan(session, row, job, "recipe", f"From the recipe {recipe.recipe}", settings)
    return row
