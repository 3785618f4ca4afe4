"""Recipes: revisions kept by name, to start other jobs from, with what is behind them. The caller commits."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, NamedTuple

from pydantic import TypeAdapter, ValidationError
from sqlalchemy import Text, func, select, type_coerce
from sqlalchemy.orm import Session, aliased, selectinload

from anvilsong.core.checks import newly_broken
from anvilsong.core.errors import BadInput
from anvilsong.core.job import Job
from anvilsong.core.machine import IDEAL, Machine, amps_on_panel, within_machine
from anvilsong.core.plan import worked_out
from anvilsong.core.settings import Settings
from anvilsong.core.shop import Evidence, Proof, keeps_heat, proof_of
from anvilsong.core.value import Name, Note
from anvilsong.core.words import sentence
from anvilsong.store import shop
from anvilsong.store.book import add_job, add_plan
from anvilsong.store.columns import BETWEEN
from anvilsong.store.models import CouponRow, JobRow, PlanRow, now
from anvilsong.store.reading import check_seen, readable, readable_text
from anvilsong.store.recipe_marks import Mark, marks_of, named_otherwise, tags_of
from anvilsong.store.recipe_proof import evidence_of, is_as

_NAME: TypeAdapter[str] = TypeAdapter(Name)
_NOTE: TypeAdapter[str] = TypeAdapter(Note)
AT_ONCE = 200


@dataclass(frozen=True)
class Recipe:
    """A kept revision as lists show it, the newest version of its name. ``job`` and ``settings`` are None
    where they cannot be read.
    """

    plan_id: int
    name: str
    job_id: int
    title: str
    revision: int
    coupons: int
    """How many coupons were run with exactly these settings."""
    job: Job | None
    settings: Settings | None
    machine: Machine = IDEAL
    amps: str = ""
    """Machine amps as the panel of its machine shows them."""
    versions: int = 1
    tags: tuple[str, ...] = ()
    favourite: bool = False
    retired: bool = False
    proof: Proof = field(default_factory=lambda: proof_of(Evidence()))


def keep_recipe(
    session: Session, plan: PlanRow, name: str, seen: str | None = None, why: str = "", version_of: str = ""
) -> None:
    """Keep a revision under a name, or under another one than before; ``seen`` is the digest of the name that
    the form was opened on.

    Parameters
    ----------
    why : what changed against the version before, where it is a new version
    version_of : the name of the recipe that this is a new version of; empty for one of its own

    Raises
    ------
    BadInput : somebody named it since, no name, a name of another recipe, or a revision without settings
    """
    try:
        clean = _NAME.validate_python(version_of or name)
    except ValidationError:
        raise BadInput.one("recipe", name, sentence("store.give_name_letters_one_2")) from None
    check_seen(seen, plan.recipe, f"the name of version {plan.revision}")
    if plan.settings is None:
        raise BadInput.one("recipe", name, sentence("store.refused_plan_has_no"))
    taken = select(PlanRow.recipe).where(PlanRow.recipe_key == clean.lower(), PlanRow.id != plan.id)
    stands = session.scalar(taken.limit(1))
    if stands is not None and not version_of:
        raise BadInput.one("recipe", clean, sentence("store.name_no_other_recipe"))
    if stands is None and version_of:
        raise BadInput.one("version_of", clean, sentence("store.recipe_version_of"))
    was, plan.recipe = plan.recipe, stands or clean
    plan.recipe_why = _note(why)
    plan.recipe_at = now()
    session.flush()
    if was is not None and not versions_of(session, was):
        named_otherwise(session, was, None if stands else clean)


def _note(text: str) -> str:
    """A note of a person, checked."""
    try:
        return _NOTE.validate_python(text.strip())
    except ValidationError:
        raise BadInput.one("why", text[:60], sentence("store.tags_few")) from None


def drop_recipe(session: Session, plan: PlanRow) -> None:
    """No longer a recipe, or a version of one; the revision stays in its job. With the last version goes what
    was said of the name.
    """
    was = plan.recipe or ""
    plan.recipe, plan.recipe_why, plan.recipe_at = None, "", None
    session.flush()
    if not versions_of(session, was):
        named_otherwise(session, was, None)


def find_recipe(session: Session, plan_id: int) -> PlanRow | None:
    """A kept revision by its number."""
    return session.scalar(select(PlanRow).where(PlanRow.id == plan_id, PlanRow.recipe.is_not(None)))


def versions_of(session: Session, name: str) -> list[tuple[PlanRow, str]]:
    """The versions of a recipe with the titles of their jobs, the newest first."""
    asked = (
        select(PlanRow, JobRow.title)
        .join(JobRow, JobRow.id == PlanRow.job_id)
        .where(PlanRow.recipe_key == name.lower())
        .order_by(PlanRow.recipe_at.desc().nulls_last(), PlanRow.id.desc())
    )
    return [(plan, title) for plan, title in session.execute(asked)]


class Head(NamedTuple):
    """A recipe by its name, the number of its newest version, and how many there are."""

    name: str
    plan_id: int
    versions: int


def heads(session: Session) -> list[Head]:
    """Every recipe, by name; little is read for it."""
    return _heads(session)[::-1]


def keys(session: Session) -> list[str]:
    """Every recipe's name in small letters, in their order."""
    text = session.connection().scalar(_ALL_KEYS)
    return text.split(BETWEEN) if text else []


# Fetched as one text, since thousands of rows would take longer.
_KEYS = select(PlanRow.recipe_key).where(PlanRow.recipe_key.is_not(None)).distinct()
_ALL_KEYS = select(func.aggregate_strings(_KEYS.order_by(PlanRow.recipe_key).subquery().c[0], BETWEEN))


def heads_of(session: Session, wanted: Sequence[str]) -> list[Head]:
    """Recipes by their names in small letters, in the order asked; names that none has are left out."""
    found = {head.name.lower(): head for head in _heads(session, wanted)}
    return [found[key] for key in wanted if key in found]


def _heads(session: Session, keys: Collection[str] | None = None) -> list[Head]:
    """Recipes, or those of some names in small letters; the last name first, as their index is read."""
    asked = (
        select(PlanRow.recipe_key, PlanRow.id, PlanRow.recipe)
        .where(PlanRow.recipe_key.is_not(None) if keys is None else PlanRow.recipe_key.in_(keys))
        .order_by(PlanRow.recipe_key.desc(), PlanRow.recipe_at.desc().nulls_last(), PlanRow.id.desc())
    )
    newest = dict[str | None, Any]()
    versions = Counter[str | None]()
    for row in session.connection().execute(asked).all():
        newest.setdefault(row[0], row)
        versions[row[0]] += 1
    return [Head(name or "", number, versions[key]) for key, number, name in newest.values()]


def head_of(session: Session, name: str) -> Head | None:
    """One recipe by its name."""
    return next(iter(_heads(session, [name.lower()])), None)


def newest_heads(session: Session, most: int) -> list[Head]:
    """The recipes that were kept last."""
    last = (
        select(PlanRow.recipe_key)
        .where(PlanRow.recipe_key.is_not(None))
        .group_by(PlanRow.recipe_key)
        .order_by(func.max(PlanRow.recipe_at).desc().nulls_last(), func.max(PlanRow.id).desc())
        .limit(most)
    )
    return heads_of(session, [key for (key,) in session.connection().execute(last) if key is not None])


def recipes(
    session: Session,
    only: Sequence[Head] | None = None,
    marks: Mapping[str, Mark] | None = None,
) -> list[Recipe]:
    """Recipes as their newest versions, by name; those of jobs that were put away too.

    Parameters
    ----------
    only : those of some heads; all where it is not given
    marks : what is said of recipes, where it is known already
    """
    chosen = heads(session) if only is None else list(only)
    marks = marks_of(session) if marks is None and chosen else marks or {}
    ran = select(func.count()).where(CouponRow.plan_id == PlanRow.id).correlate(PlanRow).scalar_subquery()
    found = list[Recipe]()
    for start in range(0, len(chosen), AT_ONCE):
        piece = {head.plan_id: head for head in chosen[start : start + AT_ONCE]}
        asked = (
            select(
                PlanRow.id, PlanRow.job_id, PlanRow.revision, type_coerce(PlanRow.job_document, Text),
                type_coerce(PlanRow.settings, Text), type_coerce(PlanRow.machine_document, Text),
                JobRow.title, ran,
            )
            .join(JobRow, JobRow.id == PlanRow.job_id)
            .where(PlanRow.id.in_(piece))
        )  # fmt: skip
        rows = {row[0]: row for row in session.execute(asked)}
        behind = evidence_of(session, rows)
        found += [
            _recipe(rows[number], piece[number], marks.get(piece[number].name.lower()), behind[number])
            for number in piece
            if number in rows
        ]
    return found


def _recipe(row: Any, head: Head, mark: Mark | None, behind: Evidence) -> Recipe:
    plan_id, job_id, revision, job, settings_text, machine_text, title, coupons = row
    settings = readable_text(Settings, settings_text) if settings_text != "null" else None
    machine = readable_text(Machine, machine_text) or IDEAL
    return Recipe(
        plan_id=plan_id,
        name=head.name,
        job_id=job_id,
        title=title,
        revision=revision,
        coupons=coupons,
        job=readable_text(Job, job),
        settings=settings,
        machine=machine,
        amps=amps_on_panel(settings, machine) if settings is not None else "",
        versions=head.versions,
        tags=tags_of(mark),
        favourite=bool(mark and mark.favourite),
        retired=bool(mark and mark.retired_at),
        proof=proof_of(behind),
    )


def coupons_behind(session: Session, plan: PlanRow) -> list[CouponRow]:
    """Coupons that count for a version: run with exactly its settings on its machine and kit, in its job or
    in one that was begun from it; the oldest first.
    """
    job, kept = plan.job_document, aliased(PlanRow)
    asked = (
        select(CouponRow)
        .join(PlanRow, PlanRow.id == CouponRow.plan_id)
        .join(kept, kept.id == plan.id)
        .where(
            is_as(kept, PlanRow),
            CouponRow.left_out.is_(False),
        )
        .order_by(CouponRow.id)
        .options(selectinload(CouponRow.readings), selectinload(CouponRow.job))
    )
    # Machine and kit are looked at here: asked for them, the database would read all their coupons.
    pair = (str(job.get("machine") or ""), str(job.get("kit") or ""))
    return [row for row in session.scalars(asked) if (row.machine, row.kit) == pair]


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
    own, settings = settings, within_machine(settings, bench.machine)
    planned = worked_out(job, None, *bench).settings
    broken = newly_broken(job, planned, settings, *bench) if planned else []
    if any(warning.level == "stop" for warning in broken) or not keeps_heat(own, settings):
        said = sentence("store.from_recipe_planned_afresh", recipe=recipe.recipe)
        add_plan(session, row, job, "recipe", said, planned)
    else:
        begun = add_plan(session, row, job, "recipe", f"From the recipe {recipe.recipe}", settings)
        begun.from_recipe = recipe.recipe_key
    return row
