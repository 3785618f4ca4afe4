"""Checked entries as rows of the database aside."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from anvilsong.core.errors import BadInput
from anvilsong.core.words import sentence
from anvilsong.store import words
from anvilsong.store.exchange_format import (
    CouponEntry,
    HeatEntry,
    JobEntry,
    JobTrialEntry,
    KitEntry,
    MachineEntry,
    MachineTrialEntry,
    MemoryEntry,
    PartRunEntry,
    PlanEntry,
    PracticeEntry,
    WelderEntry,
)
from anvilsong.store.kept_models import MemoryRow, PartRunRow, PracticeRow
from anvilsong.store.models import (
    BenchTrialRow,
    CouponRow,
    HeatRunRow,
    JobRow,
    KitRow,
    MachineRow,
    PlanRow,
    ReadingRow,
    TickRow,
    WelderRow,
)
from anvilsong.store.reading import document


@dataclass
class Known:
    """Names that references may point to: here already, or in the file."""

    machines: set[str] = field(default_factory=set)
    kits: set[str] = field(default_factory=set)
    welders: set[str] = field(default_factory=set)
    uids: set[str] = field(default_factory=set)


def stage_shop(staged: Session, name: str, entry: Any, seen: set[str], place: str) -> None:
    """A machine, kit or welder as a row; no name twice."""
    title = entry.name if name == "welders" else entry.document.name
    if title in seen:
        raise BadInput.one(f"{place}.name", title, sentence("store.stands_twice_file"))
    seen.add(title)
    match entry:
        case MachineEntry():
            staged.add(
                MachineRow(
                    name=title,
                    document=document(entry.document),
                    made_at=entry.made_at,
                    put_away_at=entry.put_away_at,
                )
            )
        case KitEntry():
            staged.add(KitRow(name=title, document=document(entry.document), put_away_at=entry.put_away_at))
        case WelderEntry():
            staged.add(
                WelderRow(
                    name=title,
                    school=entry.school.model_dump(),
                    note=entry.note,
                    put_away_at=entry.put_away_at,
                )
            )


def practice_row(entry: PracticeEntry) -> PracticeRow:
    """An exercise that was done."""
    done = entry.document
    return PracticeRow(
        uid=entry.uid,
        welder=entry.welder,
        skill=done.skill,
        item=done.item,
        score=done.score,
        document=document(done),
        made_at=entry.made_at,
    )


def stage_job(
    staged: Session, entry: JobEntry, known: Known, welders: dict[str, WelderRow], place: str
) -> None:
    """A job with all that belongs to it as rows, when what it names is known."""
    _check_names(entry, known, place)
    known.uids.add(entry.uid)
    row = JobRow(
        uid=entry.uid,
        title=entry.title,
        welder=_staged_welder(staged, entry.welder, welders),
        made_at=entry.made_at,
        changed_at=entry.changed_at,
        put_away_at=entry.put_away_at,
        plans=[_plan(plan) for plan in entry.plans],
        heat_runs=[_heat_run(run) for run in entry.heat_runs],
        trials=[_trial(trial) for trial in entry.trials],
        memories=[_memory(memory) for memory in entry.memories],
        part_runs=[_part_run(run) for run in entry.part_runs],
        ticks=[TickRow(step=tick.step, done_at=tick.done_at) for tick in entry.ticks],
    )
    by_revision = {plan.revision: plan for plan in row.plans}
    row.coupons = [_coupon(coupon, by_revision[coupon.revision]) for coupon in entry.coupons]
    staged.add(row)
    try:
        staged.flush()
    except IntegrityError:
        raise BadInput.one(f"{place}.uid", entry.uid, sentence("store.name_stands_twice")) from None
    words.index_words(staged, row)


def _check_names(entry: JobEntry, known: Known, place: str) -> None:
    """That the job is new in the file, and that welder, machines and kits are somewhere."""
    if entry.uid in known.uids:
        raise BadInput.one(f"{place}.uid", entry.uid, sentence("store.stands_twice_file"))
    asked = [(f"{place}.welder", "welder", entry.welder, known.welders)]
    for number, plan in enumerate(entry.plans):
        at, job = f"{place}.plans.{number}.job_document", plan.job_document
        asked.append((f"{at}.machine", "machine", job.machine, known.machines))
        asked.append((f"{at}.kit", "kit", job.kit, known.kits))
    for field_name, what, named, names in asked:
        if named is not None and named not in names:
            raise BadInput.one(field_name, named, sentence("store.neither_file_nor_logbook", what=what))


def _memory(memory: MemoryEntry) -> MemoryRow:
    panel = document(memory.panel) if memory.panel is not None else None
    return MemoryRow(**memory.model_dump(exclude={"panel"}), panel=panel)


def _plan(plan: PlanEntry) -> PlanRow:
    return PlanRow(
        revision=plan.revision,
        origin=plan.origin,
        words=plan.words,
        settings=document(plan.settings) if plan.settings else None,
        recipe=plan.recipe,
        recipe_why=plan.recipe_why,
        from_recipe=plan.from_recipe,
        recipe_at=plan.recipe_at or (plan.made_at if plan.recipe else None),
        made_at=plan.made_at,
        job_document=document(plan.job_document),
        machine_document=document(plan.machine_document),
        plan=document(plan.plan),
    )


def _coupon(coupon: CouponEntry, plan: PlanRow) -> CouponRow:
    """Machine and kit are those of its plan's job."""
    return CouponRow(
        uid=coupon.uid,
        number=coupon.number,
        left_out=coupon.left_out,
        machine=plan.job_document.get("machine") or "",
        kit=plan.job_document.get("kit") or "",
        plan=plan,
        made_at=coupon.made_at,
        readings=[
            ReadingRow(
                revision=number,
                document=document(reading.document),
                verdict=document(reading.verdict),
                change=document(reading.change),
                typed=reading.typed,
                made_at=reading.made_at,
            )
            for number, reading in enumerate(coupon.readings, 1)
        ],
    )


def _heat_run(run: HeatEntry) -> HeatRunRow:
    return HeatRunRow(
        uid=run.uid,
        revision=run.revision,
        part=document(run.part),
        result=document(run.result) if run.result else None,
        made_at=run.made_at,
    )


def _trial(trial: JobTrialEntry) -> BenchTrialRow:
    return BenchTrialRow(
        uid=trial.uid, kind=trial.document.kind, document=document(trial.document), made_at=trial.made_at
    )


def _part_run(run: PartRunEntry) -> PartRunRow:
    return PartRunRow(
        uid=run.uid, revision=run.revision, document=document(run.document), made_at=run.made_at
    )


def machine_trial(trial: MachineTrialEntry, known: Known, place: str) -> BenchTrialRow:
    """A test of a machine's arc as a row, when the machine is known; it belongs to no job."""
    if trial.machine not in known.machines:
        refusal = sentence("store.neither_file_nor_logbook", what="machine")
        raise BadInput.one(f"{place}.machine", trial.machine, refusal)
    return BenchTrialRow(
        uid=trial.uid,
        machine=trial.machine,
        kind=trial.document.kind,
        document=document(trial.document),
        made_at=trial.made_at,
    )


def _staged_welder(staged: Session, name: str | None, welders: dict[str, WelderRow]) -> WelderRow | None:
    """The welder's row in the database aside; one who is only in the book gets a row there that the taking
    over finds again.
    """
    if name is None:
        return None
    if name not in welders:
        welders[name] = WelderRow(name=name, school={})
        staged.add(welders[name])
    return welders[name]
