"""Numbered memories of machines: what is stored where, and whether it still is what the recipe says. The
caller commits.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass

from sqlalchemy import Select, and_, select
from sqlalchemy.orm import Session

from anvilsong.core.errors import BadInput
from anvilsong.core.machine import Machine, Panel, PanelLine, show_on_panel
from anvilsong.core.settings import Settings
from anvilsong.core.words import sentence
from anvilsong.store.kept_models import MemoryRow
from anvilsong.store.models import JobRow, PlanRow, now
from anvilsong.store.reading import document, readable

MOST_LABEL = 40


@dataclass(frozen=True)
class Stored:
    """What lies in a memory: its row, the job's title, the version's recipe name, the panel as it stood when
    it was stored, and what differs from how the panel should stand now.

    What should stand now is the newest version of that recipe, or of that job where it is none, on the
    machine as it is now: a knob that was calibrated since makes a memory old as well.
    """

    row: MemoryRow
    title: str
    recipe: str | None
    lines: list[PanelLine]
    """Nothing where what is stored of the version cannot be read."""
    newest: PlanRow | None
    differs: list[tuple[str, str, str]]
    """Label, as stored, as it should stand now."""

    @property
    def is_old(self) -> bool:
        """Whether the panel should stand otherwise than the memory has it."""
        return bool(self.differs)

    @property
    def is_newest(self) -> bool:
        """Whether no version came since, so that only the machine can have changed."""
        here = (self.row.job_id, self.row.revision)
        return self.newest is None or (self.newest.job_id, self.newest.revision) == here


def store_now(session: Session, machine: Machine, plan: PlanRow, slot: int, label: str) -> MemoryRow:
    """A version of a job into a memory; what was there is gone from now on.

    Raises
    ------
    BadInput : no such memory, a label too long, a version without settings, or one planned for another
    machine
    """
    if not 1 <= slot <= machine.memory_slots:
        raise BadInput.one("slot", slot, sentence("store.memory_slot", most=machine.memory_slots))
    settings = _settings_of(plan)
    if settings is None:
        raise BadInput.one("slot", f"version {plan.revision}", sentence("store.refused_plan_has_no"))
    planned_for = str(plan.job_document.get("machine") or "")
    if planned_for != machine.name:
        raise BadInput.one(
            "slot", slot, sentence("store.memory_of_other", machine=planned_for or "no machine")
        )
    for row in session.scalars(_here(machine.name).where(MemoryRow.slot == slot)):
        row.gone_at = now()
    clean = " ".join(label.split())
    if len(clean) > MOST_LABEL or not clean.isprintable():
        raise BadInput.one("label", clean[:60], sentence("store.memory_label", most=MOST_LABEL))
    panel = show_on_panel(settings, machine)
    stored = MemoryRow(
        job_id=plan.job_id,
        revision=plan.revision,
        machine=machine.name,
        slot=slot,
        label=clean,
        panel=document(panel),
    )
    session.add(stored)
    session.flush()
    return stored


def clear(session: Session, machine: str, slot: int) -> None:
    """Nothing of ours is in that memory any more."""
    for row in session.scalars(_here(machine).where(MemoryRow.slot == slot)):
        row.gone_at = now()
    session.flush()


def _here(machine: str) -> Select[MemoryRow]:
    return select(MemoryRow).where(MemoryRow.machine == machine, MemoryRow.gone_at.is_(None))


def memories_of(session: Session, machine: Machine) -> dict[int, Stored]:
    """What lies in the memories that a machine has, by their numbers; of two that claim one the newer."""
    return memories_of_each(session, [machine])[machine.name]


def memories_of_each(session: Session, machines: Iterable[Machine]) -> dict[str, dict[int, Stored]]:
    """The same of some machines, by their names."""
    known = {machine.name: machine for machine in machines}
    asked = (
        select(MemoryRow, JobRow.title, PlanRow)
        .join(JobRow, JobRow.id == MemoryRow.job_id)
        .outerjoin(PlanRow, and_(PlanRow.job_id == MemoryRow.job_id, PlanRow.revision == MemoryRow.revision))
        .where(MemoryRow.machine.in_(known), MemoryRow.gone_at.is_(None))
        .order_by(MemoryRow.made_at, MemoryRow.id)
    )
    rows = {
        (row.machine, row.slot): (row, title, plan)
        for row, title, plan in session.execute(asked)
        if row.slot <= known[row.machine].memory_slots
    }
    newest = _newest_like(session, [plan for *_, plan in rows.values() if plan is not None])
    found: dict[str, dict[int, Stored]] = {name: {} for name in known}
    for (name, slot), (row, title, plan) in sorted(rows.items(), key=lambda one: one[0]):
        found[name][slot] = _stored(known[name], row, title, plan, newest)
    return found


def of_job(session: Session, job_id: int) -> list[MemoryRow]:
    """Where versions of a job are stored now."""
    asked = select(MemoryRow).where(MemoryRow.job_id == job_id, MemoryRow.gone_at.is_(None))
    return list(session.scalars(asked.order_by(MemoryRow.machine, MemoryRow.slot)))


def _stored(
    machine: Machine, row: MemoryRow, title: str, plan: PlanRow | None, newest_of: dict[int, PlanRow]
) -> Stored:
    settings = _settings_of(plan)
    if plan is None or settings is None:
        return Stored(row, title, None, [], None, [])
    panel = readable(Panel, row.panel) if row.panel else None
    lines = (panel or show_on_panel(settings, machine)).lines
    newest = newest_of.get(plan.id, plan)
    wanted = _settings_of(newest)
    is_of_it = str(newest.job_document.get("machine") or "") == machine.name
    return Stored(
        row=row,
        title=title,
        recipe=plan.recipe,
        lines=lines,
        newest=newest,
        differs=otherwise(lines, show_on_panel(wanted, machine).lines) if wanted and is_of_it else [],
    )


def _settings_of(plan: PlanRow | None) -> Settings | None:
    return readable(Settings, plan.settings) if plan is not None and plan.settings else None


def otherwise(were: Sequence[PanelLine], now_are: Sequence[PanelLine]) -> list[tuple[str, str, str]]:
    """Controls that stand otherwise on two panels of one machine: label, the first figure, the second."""
    by_setting = {line.setting: line for line in now_are}
    pairs = [(was, by_setting[was.setting]) for was in were if was.setting in by_setting]
    return [(line.label, _figure(was), _figure(line)) for was, line in pairs if _figure(was) != _figure(line)]


def _figure(line: PanelLine) -> str:
    return f"{line.shown} {line.unit}".strip()


def _newest_like(session: Session, plans: Collection[PlanRow]) -> dict[int, PlanRow]:
    """The versions that hold now, by the numbers of some: of its recipe where it is one, else of its job."""
    keys = {plan.recipe_key for plan in plans if plan.recipe_key is not None}
    jobs = {plan.job_id for plan in plans if plan.recipe_key is None}
    of_recipes, of_jobs = dict[str | None, int](), dict[int, int]()
    if keys:
        by_recipe = (
            select(PlanRow.recipe_key, PlanRow.id)
            .where(PlanRow.recipe_key.in_(keys))
            .order_by(PlanRow.recipe_at.desc().nulls_last(), PlanRow.id.desc())
        )
        for key, number in session.execute(by_recipe):
            of_recipes.setdefault(key, number)
    if jobs:
        by_job = select(PlanRow.job_id, PlanRow.id).where(PlanRow.job_id.in_(jobs))
        for job, number in session.execute(by_job.order_by(PlanRow.revision.desc())):
            of_jobs.setdefault(job, number)
    wanted = {
        plan.id: of_recipes[plan.recipe_key] if plan.recipe_key is not None else of_jobs[plan.job_id]
        for plan in plans
    }
    rows = session.scalars(select(PlanRow).where(PlanRow.id.in_(set(wanted.values()))))
    found = {row.id: row for row in rows} if wanted else {}
    return {number: found[newest] for number, newest in wanted.items()}
