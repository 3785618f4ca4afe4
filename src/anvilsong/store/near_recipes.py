"""The recipes nearest to a job, and a job that starts from one. The caller commits."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any
from weakref import WeakKeyDictionary

import numpy as np
from sqlalchemy import Connection, String, Text, cast, func, select, type_coerce
from sqlalchemy.orm import Session

from anvilsong.core.job import Job
from anvilsong.core.model import Bench
from anvilsong.core.settings import Settings
from anvilsong.core.shop import Kept, ManyTraits, Traits, nearest, proof_of, traits
from anvilsong.core.words import sentence
from anvilsong.store import shop
from anvilsong.store.book import add_plan
from anvilsong.store.columns import BETWEEN
from anvilsong.store.database import generation_of
from anvilsong.store.kept_models import RecipeRow
from anvilsong.store.models import JobRow, PlanRow
from anvilsong.store.reading import readable, readable_text
from anvilsong.store.recipe_proof import evidence_of

MOST_NEAR = 8
AT_ONCE = 500


def kept_for(session: Session, job: Job, most: int = MOST_NEAR) -> list[Kept]:
    """The recipes nearest to a job, each as its newest version, with what is behind them; retired ones are
    left out.
    """
    known, offered = _known(session)
    far = known.many.distances(traits(job))[[known.places[number] for number in offered]]
    wanted = [offered[place] for place in np.argsort(far, kind="stable")[:most]]
    plans = {plan.id: plan for plan in session.scalars(select(PlanRow).where(PlanRow.id.in_(wanted)))}
    behind = evidence_of(session, wanted)
    benches = dict[tuple[str | None, str | None], Bench]()
    found = []
    for plan_id in wanted:
        plan = plans[plan_id]
        kept, settings = readable(Job, plan.job_document), readable(Settings, plan.settings or {})
        if kept is not None and settings is not None:
            proved = proof_of(behind[plan_id]).state == "proved"
            pair = (kept.machine, kept.kit)
            if pair not in benches:
                benches[pair] = shop.bench_of(session, kept)
            found.append(Kept(plan_id, plan.recipe or "", kept, settings, benches[pair], proved))
    return found


class _Known:
    """What kept versions are told apart by: it never changes, so it is kept by their numbers, for each
    logbook that is open, until another one stands in its place, as after a restore.
    """

    def __init__(self, generation: int) -> None:
        self.generation = generation
        self.traits = dict[int, Traits]()
        self.unreadable = set[int]()
        self.places = dict[int, int]()
        self.many = ManyTraits([])
        self.versions = ("", "")
        """Numbers and names of all versions as the logbook gave them last, each in one text."""
        self.newest = dict[str, int]()
        """Of them the newest version of each name."""

    def add(self, texts: Iterable[tuple[int, str]]) -> None:
        """Versions by their numbers, each with its job's document."""
        for number, text in texts:
            job = readable_text(Job, text)
            if job is None:
                self.unreadable.add(number)
            else:
                self.traits[number] = traits(job)
        self.places = {number: place for place, number in enumerate(self.traits)}
        self.many = ManyTraits(list(self.traits.values()))


_OPEN: WeakKeyDictionary[Any, _Known] = WeakKeyDictionary()


def _known(session: Session) -> tuple[_Known, list[int]]:
    """What is known of kept versions, and the numbers of those to choose from: the newest of each recipe that
    is not retired and can be read.
    """
    connection = session.connection()
    known = _OPEN.get(connection.engine)
    generation = generation_of(connection)
    given = connection.execute(_VERSIONS).one()
    versions = (given[0] or "", given[1] or "")
    if known is None or known.generation != generation or known.versions != versions:
        known = _OPEN[connection.engine] = _read_anew(connection, known, generation, versions)
    retired = select(RecipeRow.name).where(RecipeRow.retired_at.is_not(None))
    gone = {name.lower() for name in session.scalars(retired)}
    return known, [
        number for name, number in known.newest.items() if number in known.places and name not in gone
    ]


def _read_anew(
    connection: Connection, known: _Known | None, generation: int, versions: tuple[str, str]
) -> _Known:
    """What is known, with the versions that were not; others may be reading what was known before."""
    anew = _Known(generation)
    if known is not None and known.generation == generation:
        anew.traits, anew.unreadable = dict(known.traits), set(known.unreadable)
    anew.versions = versions
    if versions[0]:
        numbers, names = (text.split(BETWEEN) for text in versions)
        pairs: Iterable[tuple[Any, str]] = zip(numbers, names, strict=False)
        if len(numbers) != len(names):  # a name that was damaged holds what stands between two
            pairs = [(number, name) for number, name in connection.execute(select(*_ORDERED.c)).all()]
        anew.newest = {name: int(number) for number, name in pairs}
    missing = [
        number
        for number in anew.newest.values()
        if number not in anew.traits and number not in anew.unreadable
    ]
    asked = select(PlanRow.id, type_coerce(PlanRow.job_document, Text))
    pieces = [missing[start : start + AT_ONCE] for start in range(0, len(missing), AT_ONCE)]
    anew.add(
        (number, text)
        for piece in pieces
        for number, text in connection.execute(asked.where(PlanRow.id.in_(piece))).all()
    )
    return anew


# All versions in two texts, the newest of each name last: thousands of rows would take longer to fetch than
# to compare, and they are the same ones nearly always.
_ORDERED = (
    select(cast(PlanRow.id, String).label("number"), PlanRow.recipe_key.label("name"))
    .where(PlanRow.recipe_key.is_not(None))
    .order_by(PlanRow.recipe_key, PlanRow.recipe_at.nulls_first(), PlanRow.id)
    .subquery()
)
_VERSIONS = select(
    func.aggregate_strings(_ORDERED.c.number, BETWEEN), func.aggregate_strings(_ORDERED.c.name, BETWEEN)
)


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
