"""Checked entries as rows of the database aside."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from sqlalchemy.orm import Session

from anvilsong.core.errors import BadInput
from anvilsong.store import words
from anvilsong.store.exchange_format import (
    JobEntry,
    KitEntry,
    MachineEntry,
    WelderEntry,
)
from anvilsong.store.models import (
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
        raise BadInput.one(f"{place}.name", title, "it stands twice in the file")
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


def stage_job(
    staged: Session, entry: JobEntry, known: Known, welders: dict[str, WelderRow], place: str
) -> None:
    """A job with all that belongs to it as rows, when what it names is known."""
    if entry.uid in known.uids:
        raise BadInput.one(f"{place}.uid", entry.uid, "it stands twice in the file")
    known.uids.add(entry.uid)
    if entry.welder is not None and entry.welder not in known.welders:
        raise BadInput.one(
            f"{place}.welder", entry.welder, "this welder is neither in the file nor in the book"
        )
    for number, plan in enumerate(entry.plans):
        for named, names, what in (
            (plan.job_document.machine, known.machines, "machine"),
            (plan.job_document.kit, known.kits, "kit"),
        ):
            if named is not None and named not in names:
                raise BadInput.one(
                    f"{place}.plans.{number}.job_document.{what}",
                    named,
                    f"this {what} is neither in the file nor in the book",
                )
    welder = _staged_welder(staged, entry.welder, welders)
    row = JobRow(
        uid=entry.uid,
        title=entry.title,
        welder=welder,
        made_at=entry.made_at,
        changed_at=entry.changed_at,
        put_away_at=entry.put_away_at,
    )
    for plan in entry.plans:
        parts = {name: document(getattr(plan, name)) for name in ("job_document", "machine_document", "plan")}
        settings = document(plan.settings) if plan.settings else None
        row.plans.append(
            PlanRow(
                revision=plan.revision,
                origin=plan.origin,
                words=plan.words,
                settings=settings,
                recipe=plan.recipe,
                made_at=plan.made_at,
                **parts,
            )
        )
    by_revision = {plan.revision: plan for plan in row.plans}
    for coupon in entry.coupons:
        readings = [
            ReadingRow(
                revision=n,
                document=document(r.document),
                verdict=document(r.verdict),
                change=document(r.change),
                typed=r.typed,
                made_at=r.made_at,
            )
            for n, r in enumerate(coupon.readings, 1)
        ]
        row.coupons.append(
            CouponRow(
                uid=coupon.uid,
                number=coupon.number,
                left_out=coupon.left_out,
                machine=by_revision[coupon.revision].job_document.get("machine") or "",
                kit=by_revision[coupon.revision].job_document.get("kit") or "",
                plan=by_revision[coupon.revision],
                made_at=coupon.made_at,
                readings=readings,
            )
        )
    row.heat_runs = [
        HeatRunRow(
            uid=run.uid,
            revision=run.revision,
            part=document(run.part),
            result=document(run.result) if run.result else None,
            made_at=run.made_at,
        )
        for run in entry.heat_runs
    ]
    row.ticks = [TickRow(step=tick.step, done_at=tick.done_at) for tick in entry.ticks]
    staged.add(row)
    staged.flush()
    words.index_words(staged, row)


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
