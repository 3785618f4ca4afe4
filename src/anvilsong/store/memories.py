"""Numbered memories of machines: what is stored where, and whether it still is what the recipe says. The
caller commits.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import Select, select
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
    asked = _here(machine.name).where(MemoryRow.slot <= machine.memory_slots)
    found: dict[int, Stored] = {}
    for row in session.scalars(asked.order_by(MemoryRow.made_at, MemoryRow.id)):
        found[row.slot] = _stored(session, machine, row)
    return dict(sorted(found.items()))


def of_job(session: Session, job_id: int) -> list[MemoryRow]:
    """Where versions of a job are stored now."""
    asked = select(MemoryRow).where(MemoryRow.job_id == job_id, MemoryRow.gone_at.is_(None))
    return list(session.scalars(asked.order_by(MemoryRow.machine, MemoryRow.slot)))


def _stored(session: Session, machine: Machine, row: MemoryRow) -> Stored:
    plan = session.scalar(
        select(PlanRow).where(PlanRow.job_id == row.job_id, PlanRow.revision == row.revision)
    )
    job, settings = session.get_one(JobRow, row.job_id), _settings_of(plan)
    if plan is None or settings is None:
        return Stored(row, job.title, None, [], None, [])
    panel = readable(Panel, row.panel) if row.panel else None
    lines = (panel or show_on_panel(settings, machine)).lines
    newest = _newest_like(session, plan) or plan
    wanted = _settings_of(newest)
    is_of_it = str(newest.job_document.get("machine") or "") == machine.name
    return Stored(
        row=row,
        title=job.title,
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


def _newest_like(session: Session, plan: PlanRow) -> PlanRow | None:
    """The version that holds now: of its recipe where it is one, else of its job."""
    if plan.recipe is not None:
        of_recipe = select(PlanRow).where(PlanRow.recipe_key == plan.recipe.lower())
        return session.scalar(
            of_recipe.order_by(PlanRow.recipe_at.desc().nulls_last(), PlanRow.id.desc()).limit(1)
        )
    of_job = select(PlanRow).where(PlanRow.job_id == plan.job_id)
    return session.scalar(of_job.order_by(PlanRow.revision.desc()).limit(1))
