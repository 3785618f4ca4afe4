"""Backup of the file, and export and import of everything in it as JSON (docs/formats.md)."""

from __future__ import annotations

import json
import sqlite3
from contextlib import closing
from datetime import datetime
from pathlib import Path
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from anvilsong.core.errors import CannotRead
from anvilsong.core.machine.model import Machine
from anvilsong.core.torch.kit import Kit
from anvilsong.store import book
from anvilsong.store.models import CouponRow, GaugeRow, JobRow, KitRow, MachineRow, PlanRow, ReadingRow, WelderRow

FORMAT, FORMAT_VERSION = "anvilsong-book", 1
PLAN_FIELDS = ("revision", "origin", "words", "job_document", "machine_document", "settings", "plan")


def backup_to(data: Path, target: Path) -> Path:
    """A consistent copy of a database file, also while it is in use."""
    if not data.exists():
        raise CannotRead(str(data), "there is no database there")
    target.parent.mkdir(parents=True, exist_ok=True)
    with closing(sqlite3.connect(data)) as source, closing(sqlite3.connect(target)) as copy:
        source.backup(copy)
    return target


def export_book(session: Session) -> dict[str, Any]:
    """Everything as plain data."""
    jobs = session.scalars(select(JobRow).order_by(JobRow.id)).all()
    return {
        "format": FORMAT,
        "version": FORMAT_VERSION,
        "machines": [row.document for row in session.scalars(select(MachineRow).order_by(MachineRow.id))],
        "kits": [row.document for row in session.scalars(select(KitRow).order_by(KitRow.id))],
        "gauge_readings": [
            {"cylinder": row.cylinder, "bar": row.bar, "note": row.note, "made_at": row.made_at.isoformat()}
            for row in session.scalars(select(GaugeRow).order_by(GaugeRow.id))
        ],
        "welders": [{"name": row.name, "school": row.school, "note": row.note} for row in session.scalars(select(WelderRow).order_by(WelderRow.id))],
        "jobs": [_job_out(row) for row in jobs],
    }


def _job_out(row: JobRow) -> dict[str, Any]:
    plans = [{name: getattr(plan, name) for name in PLAN_FIELDS} for plan in row.plans]
    coupons = [
        {
            "number": coupon.number,
            "revision": coupon.plan.revision,
            "readings": [{"document": r.document, "verdict": r.verdict, "change": r.change} for r in coupon.readings],
        }
        for coupon in row.coupons
    ]
    return {"title": row.title, "welder": row.welder.name if row.welder else None, "plans": plans, "coupons": coupons}


def export_to(session: Session, file: Path) -> str:
    """Write the export; says how much."""
    data = export_book(session)
    file.write_text(json.dumps(data, ensure_ascii=False, indent=1), encoding="utf-8")
    return f"{len(data['jobs'])} jobs and {len(data['machines'])} machines"


def import_from(session: Session, file: Path) -> str:
    """Read an export. Machines and welders of a known name stay as they are; jobs are added, the same one not twice."""
    try:
        data = json.loads(file.read_text(encoding="utf-8"))
    except (OSError, ValueError) as error:
        raise CannotRead(str(file), "it is not a JSON file") from error
    if not isinstance(data, dict) or data.get("format") != FORMAT or data.get("version") != FORMAT_VERSION:
        raise CannotRead(str(file), f"it does not say format {FORMAT}, version {FORMAT_VERSION}")
    return import_book(session, data)


def import_book(session: Session, data: dict[str, Any]) -> str:
    """As ``import_from``, from plain data."""
    known = set(session.scalars(select(MachineRow.name)))
    for document in data["machines"]:
        if document["name"] not in known:
            book.add_machine(session, Machine.model_validate(document))
    owned = {kit.name for kit in book.kits(session)}
    for document in data.get("kits", []):
        if document["name"] not in owned:
            book.save_kit(session, Kit.model_validate(document))
    logged = {(row.cylinder, row.made_at, row.bar) for row in session.scalars(select(GaugeRow))}
    for reading in data.get("gauge_readings", []):
        made_at = datetime.fromisoformat(reading["made_at"])
        if (reading["cylinder"], made_at, reading["bar"]) not in logged:
            session.add(GaugeRow(cylinder=reading["cylinder"], bar=reading["bar"], note=reading["note"], made_at=made_at))
    welders = {row.name: row for row in book.welders(session)}
    for given in data["welders"]:
        if given["name"] not in welders:
            welders[given["name"]] = WelderRow(**given)
            session.add(welders[given["name"]])
    session.flush()
    here = [_job_out(row) for row in session.scalars(select(JobRow))]
    added = [given for given in data["jobs"] if given not in here]
    for given in added:
        _job_in(session, given, welders)
    return f"{len(added)} jobs"


def _job_in(session: Session, given: dict[str, Any], welders: dict[str, WelderRow]) -> None:
    row = JobRow(title=given["title"], welder=welders.get(given["welder"] or ""))
    row.plans = [PlanRow(**{name: plan[name] for name in PLAN_FIELDS}) for plan in given["plans"]]
    by_revision = {plan.revision: plan for plan in row.plans}
    for coupon in given["coupons"]:
        readings = [ReadingRow(revision=place, **reading) for place, reading in enumerate(coupon["readings"], 1)]
        row.coupons.append(CouponRow(number=coupon["number"], plan=by_revision[coupon["revision"]], readings=readings))
    session.add(row)
    session.flush()
    book.index_words(session, row)
