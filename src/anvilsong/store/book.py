"""The book: jobs, their plans, coupons, and finding them again. Functions take a session; the caller commits."""

from __future__ import annotations

import re
from typing import Any

from sqlalchemy import func, select, text
from sqlalchemy.orm import Session, selectinload

from anvilsong.core.bead.coupon import Readings
from anvilsong.core.bead.next_change import NextChange, next_change
from anvilsong.core.bead.verdict import Verdict, read
from anvilsong.core.errors import BadInput
from anvilsong.core.job import Job
from anvilsong.core.machine.model import IDEAL, Machine, with_torch
from anvilsong.core.machine.panel import show_on_panel
from anvilsong.core.plan.checks import margins, warnings_for
from anvilsong.core.plan.consequences import consequences
from anvilsong.core.plan.planner import make_plan, torch_for
from anvilsong.core.plan.situation import situation
from anvilsong.core.plan.values import Plan
from anvilsong.core.settings import Settings
from anvilsong.core.torch.kit import Cylinder, Kit
from anvilsong.store.models import CouponRow, Document, GaugeRow, JobRow, KitRow, MachineRow, PlanRow, ReadingRow, TickRow, WelderRow, now


def document(value: Any) -> Document:
    """A core value as plain JSON data."""
    return value.model_dump(mode="json", by_alias=True)  # type: ignore[no-any-return]


# --- the shop -------------------------------------------------------------------------------------------------------


def machines(session: Session) -> list[Machine]:
    rows = session.scalars(select(MachineRow).order_by(MachineRow.id))
    return [Machine.model_validate(row.document) for row in rows]


def find_machine(session: Session, name: str | None) -> Machine:
    """The machine of that name; the ideal one when none is named."""
    if name is None:
        return IDEAL
    row = session.scalar(select(MachineRow).where(MachineRow.name == name))
    if row is None:
        known = ", ".join(session.scalars(select(MachineRow.name).order_by(MachineRow.id))) or "none yet: leave it out"
        raise BadInput.one("machine", name, f"known machines are {known}")
    return Machine.model_validate(row.document)


def add_machine(session: Session, machine: Machine) -> MachineRow:
    row = MachineRow(name=machine.name, document=document(machine))
    session.add(row)
    session.flush()
    return row


def save_machine(session: Session, machine: Machine, old_name: str | None) -> None:
    """A new machine, or the one of ``old_name`` changed. Plans keep the machine they were made for."""
    if old_name and machine.name != old_name:
        raise BadInput.one("name", machine.name, f"{old_name} is named in jobs and keeps its name; export it and bring it in under another")
    row = session.scalar(select(MachineRow).where(MachineRow.name == (old_name or "")))
    other = session.scalar(select(MachineRow).where(MachineRow.name == machine.name))
    if other is not None and other is not row:
        raise BadInput.one("name", machine.name, "a machine of this name is here already")
    if row is None:
        add_machine(session, machine)
        return
    row.name, row.document = machine.name, document(machine)
    session.flush()


def kits(session: Session) -> list[Kit]:
    return [Kit.model_validate(row.document) for row in session.scalars(select(KitRow).order_by(KitRow.id))]


def find_kit(session: Session, name: str | None) -> Kit:
    """The kit of that name; everything on the shelf when none is named."""
    if name is None:
        return Kit()
    row = session.scalar(select(KitRow).where(KitRow.name == name))
    if row is None:
        known = ", ".join(session.scalars(select(KitRow.name).order_by(KitRow.id))) or "none yet: leave it out"
        raise BadInput.one("kit", name, f"known kits are {known}")
    return Kit.model_validate(row.document)


def save_kit(session: Session, kit: Kit) -> None:
    """A new kit, or the same one with other things on its shelf. Plans that were made keep what they were made with."""
    row = session.scalar(select(KitRow).where(KitRow.name == kit.name))
    if row is None:
        session.add(KitRow(name=kit.name, document=document(kit)))
    else:
        row.document = document(kit)
    session.flush()


def gauge_log(session: Session, cylinder: str) -> list[GaugeRow]:
    """Readings of a cylinder, newest first."""
    return list(session.scalars(select(GaugeRow).where(GaugeRow.cylinder == cylinder).order_by(GaugeRow.id.desc())))


def read_gauge(session: Session, cylinder: Cylinder, bar: float, note: str = "") -> GaugeRow:
    """Record what the gauge says."""
    if not 0 <= bar <= 1.25 * cylinder.full_bar:
        raise BadInput.one("bar", f"{bar:g} bar", f"{cylinder.name} holds 0 to {cylinder.full_bar:g} bar")
    row = GaugeRow(cylinder=cylinder.name, bar=bar, note=note.strip()[:400])
    session.add(row)
    session.flush()
    return row


def welders(session: Session) -> list[WelderRow]:
    return list(session.scalars(select(WelderRow).order_by(WelderRow.id)))


# --- jobs and plans -------------------------------------------------------------------------------------------------


def get_job(session: Session, job_id: int) -> JobRow | None:
    """A job with everything a page needs, or None."""
    loaded = (
        selectinload(JobRow.plans),
        selectinload(JobRow.coupons).selectinload(CouponRow.readings),
        selectinload(JobRow.welder),
        selectinload(JobRow.ticks),
    )
    return session.scalar(select(JobRow).where(JobRow.id == job_id).options(*loaded))


def add_job(session: Session, title: str, job: Job, welder_id: int | None = None) -> JobRow:
    """A new job with its first plan."""
    clean = title.strip()
    if not clean or len(clean) > 120:
        raise BadInput.one("title", title, "give it a name of 1 to 120 letters, such as Float tank lid")
    row = JobRow(title=clean, welder_id=welder_id)
    session.add(row)
    session.flush()
    add_plan(session, row, job, "plan", "First plan")
    return row


def add_plan(session: Session, row: JobRow, job: Job, origin: str, words: str, settings: Settings | None = None) -> PlanRow:
    """A new revision: planned afresh, or the same job with other settings. Nothing is overwritten."""
    machine = find_machine(session, job.machine)
    kit = find_kit(session, job.kit)
    plan = make_plan(job, machine, kit)
    if plan.settings is not None:
        machine = with_torch(machine, torch_for(job, settings or plan.settings, kit))
    if settings is not None and plan.settings is not None:
        plan = with_settings(plan, settings, machine)
    revision = 1 + (session.scalar(select(func.max(PlanRow.revision)).where(PlanRow.job_id == row.id)) or 0)
    added = PlanRow(
        job=row,
        revision=revision,
        origin=origin,
        words=words,
        job_document=document(job),
        machine_document=document(machine),
        settings=document(plan.settings) if plan.settings else None,
        plan=document(plan),
    )
    session.add(added)
    row.changed_at = now()
    session.flush()
    index_words(session, row)
    return added


def with_settings(plan: Plan, settings: Settings, machine: Machine) -> Plan:
    """The plan with other settings, and everything that follows from them worked out again."""
    at = situation(plan.job)
    seen = consequences(plan.job, settings, machine)
    return plan.model_copy(
        update={
            "settings": settings,
            "consequences": seen,
            "warnings": warnings_for(at, settings, seen, machine),
            "margins": margins(at, settings, seen, machine),
            "panel": show_on_panel(settings, machine),
        }
    )


def current_plan(row: JobRow) -> PlanRow:
    return row.plans[-1]


# --- coupons --------------------------------------------------------------------------------------------------------


def judge(plan: PlanRow, readings: Readings) -> tuple[Verdict, NextChange]:
    """The verdict on readings and the next change, for the settings of a plan."""
    job, machine = Job.model_validate(plan.job_document), Machine.model_validate(plan.machine_document)
    settings = Settings.model_validate(plan.settings)
    verdict = read(job, settings, readings, machine)
    return verdict, next_change(job, settings, readings, verdict, machine)


def add_coupon(session: Session, row: JobRow, plan: PlanRow, readings: Readings) -> CouponRow:
    """Record a coupon run with the settings of a plan."""
    if plan.settings is None:
        raise BadInput.one("plan", f"revision {plan.revision}", "this job is refused, so there are no settings to run a coupon with")
    number = 1 + (session.scalar(select(func.max(CouponRow.number)).where(CouponRow.job_id == row.id)) or 0)
    coupon = CouponRow(job=row, plan=plan, number=number)
    session.add(coupon)
    _add_readings(coupon, plan, readings)
    row.changed_at = now()
    session.flush()
    index_words(session, row)
    return coupon


def correct_coupon(session: Session, coupon: CouponRow, readings: Readings) -> None:
    """Readings typed again: a new row, the old one stays."""
    _add_readings(coupon, coupon.plan, readings)
    session.flush()
    index_words(session, coupon.job)


def _add_readings(coupon: CouponRow, plan: PlanRow, readings: Readings) -> None:
    verdict, change = judge(plan, readings)
    revision = len(coupon.readings) + 1
    coupon.readings.append(ReadingRow(revision=revision, document=document(readings), verdict=document(verdict), change=document(change)))


# --- ticks ----------------------------------------------------------------------------------------------------------


def tick(session: Session, row: JobRow, step: str, done: bool) -> None:
    """Mark a step of the run sheet done, or not."""
    found = session.scalar(select(TickRow).where(TickRow.job_id == row.id, TickRow.step == step))
    if done and found is None:
        session.add(TickRow(job_id=row.id, step=step))
    elif not done and found is not None:
        session.delete(found)


# --- words ----------------------------------------------------------------------------------------------------------


def index_words(session: Session, row: JobRow) -> None:
    """Write everything a person might search for into the index, in the same transaction as the change."""
    job = session.scalars(select(PlanRow.job_document).where(PlanRow.job_id == row.id).order_by(PlanRow.revision.desc())).first() or {}
    notes = [
        reading["note"]
        for reading in session.scalars(select(ReadingRow.document).join(CouponRow, ReadingRow.coupon_id == CouponRow.id).where(CouponRow.job_id == row.id))
        if reading.get("note")
    ]
    sides = [job.get(side, {}) for side in ("a", "b")]
    pieces = [
        row.title,
        str(job.get("joint", "")).replace("_", " "),
        *(side.get("alloy", "") for side in sides),
        *(str(side.get("thickness", "")) for side in sides),
    ]
    pieces += [
        job.get("machine") or "",
        row.welder.name if row.welder else "",
        " ".join(job.get("purposes", [])),
        job.get("surface", ""),
        job.get("position", ""),
        *notes,
    ]
    session.execute(text("DELETE FROM words WHERE job_id = :id"), {"id": row.id})
    session.execute(text("INSERT INTO words (job_id, text) VALUES (:id, :text)"), {"id": row.id, "text": " ".join(pieces)})


def find_jobs(session: Session, query: str = "", limit: int = 200) -> list[JobRow]:
    """Jobs whose words begin with every word asked, newest change first; all of them when nothing is asked."""
    chosen = select(JobRow).options(selectinload(JobRow.plans), selectinload(JobRow.coupons).selectinload(CouponRow.readings), selectinload(JobRow.welder))
    words = re.findall(r"\w+", query)
    if words:
        match = " ".join(f'"{word}"*' for word in words)
        ids = session.scalars(text("SELECT job_id FROM words WHERE words MATCH :match"), {"match": match}).all()
        chosen = chosen.where(JobRow.id.in_([int(found) for found in ids]))
    elif query.strip():
        return []
    return list(session.scalars(chosen.order_by(JobRow.changed_at.desc(), JobRow.id.desc()).limit(limit)))
