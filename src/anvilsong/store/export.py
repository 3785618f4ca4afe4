"""Everything in the book as JSON, written job by job, so that a large book needs no large memory
(docs/formats.md).
"""

from __future__ import annotations

import gc
import json
from collections.abc import Iterator
from pathlib import Path
from typing import IO, Any

from pydantic import ValidationError
from sqlalchemy import Text, select, type_coerce
from sqlalchemy.orm import Session

from anvilsong.core.job import Job
from anvilsong.core.machine import Machine
from anvilsong.core.torch.kit import Kit
from anvilsong.store.columns import read_document
from anvilsong.store.exchange_format import (
    FORMAT,
    FORMAT_VERSION,
    CalibrationEntry,
    GaugeEntry,
    KitEntry,
    MachineEntry,
    MachineTrialEntry,
    PracticeEntry,
    RecipeEntry,
    TrialEntry,
    WelderEntry,
)
from anvilsong.store.exchange_pictures import picture_pieces
from anvilsong.store.export_jobs import Written, jobs_as_entries
from anvilsong.store.files import written_whole
from anvilsong.store.kept_models import PracticeRow, RecipeRow
from anvilsong.store.models import (
    BenchTrialRow,
    CalibrationRow,
    FaultTrialRow,
    GaugeRow,
    KitRow,
    MachineRow,
    PlanRow,
    WelderRow,
    now,
)
from anvilsong.store.reading import readable

# What is not a job, in the file's order: its key, its table, its entry and the columns that the entry takes.
SHOP_FIELDS: tuple[tuple[str, Any, type[Any], tuple[str, ...]], ...] = (
    ("machines", MachineRow, MachineEntry, ("document", "made_at", "put_away_at")),
    ("kits", KitRow, KitEntry, ("document", "put_away_at")),
    ("gauge_readings", GaugeRow, GaugeEntry, ("cylinder", "bar", "note", "made_at")),
    ("fault_trials", FaultTrialRow, TrialEntry, ("sign", "cause", "helped", "made_at")),
    ("calibrations", CalibrationRow, CalibrationEntry, ("machine", "kit", "is_on")),
    ("machine_trials", BenchTrialRow, MachineTrialEntry, ("uid", "machine", "document", "made_at")),
    ("practice", PracticeRow, PracticeEntry, ("uid", "welder", "document", "made_at")),
    ("recipes", RecipeRow, RecipeEntry, ("name", "tags", "favourite", "retired_at")),
    ("welders", WelderRow, WelderEntry, ("name", "school", "note", "put_away_at")),
)


def export_to(session: Session, file: Path) -> Written:
    """Write the export beside its place and put it there whole; only an earlier export is replaced."""
    with written_whole(file, _is_export) as aside, aside.open("w", encoding="utf-8") as out:
        return write_book(session, out)


def _is_export(path: Path) -> bool:
    try:
        with path.open(encoding="utf-8") as file:
            return f'"{FORMAT}"' in file.read(200)
    except (OSError, ValueError):
        return False


def export_book(session: Session) -> dict[str, Any]:
    """Everything as plain data, for books that are small enough."""
    return json.loads("".join(_pieces(session, Written())))  # type: ignore[no-any-return]


def write_book(session: Session, out: IO[str]) -> Written:
    """Write everything into an open file."""
    written, collects = Written(), gc.isenabled()
    # What is made of each job is gone when it was written; walking all of it for circles takes longer than
    # writing it.
    gc.disable()
    try:
        for piece in _pieces(session, written):
            out.write(piece)
    finally:
        if collects:
            gc.enable()
    return written


def _pieces(session: Session, written: Written) -> Iterator[str]:
    yield f'{{"format": "{FORMAT}", "version": {FORMAT_VERSION}, "made_at": "{now().isoformat()}"'
    shop = _shop(session, written)
    for key, entries in shop.items():
        yield f',\n"{key}": ' + json.dumps(entries, ensure_ascii=False)
    yield ',\n"jobs": ['
    welders = {welder["name"] for welder in shop["welders"]}
    coupons_of: dict[str, set[str]] = {}
    for entry in jobs_as_entries(session, welders, written):
        yield (",\n" if written.jobs else "\n") + json.dumps(entry, ensure_ascii=False)
        written.jobs += 1
        coupons_of[entry["uid"]] = {coupon["uid"] for coupon in entry["coupons"]}
    yield '\n],\n"photographs": ['
    first = True
    for piece in picture_pieces(session, coupons_of):
        if piece is None:
            written.damaged.append("a photograph")
            continue
        yield ("\n" if first else ",\n") + piece
        first = False
    yield "\n]"
    if written.damaged:
        yield ',\n"left_out": ' + json.dumps(written.damaged, ensure_ascii=False)
    yield "}\n"


def _shop(session: Session, written: Written) -> dict[str, list[dict[str, Any]]]:
    """All that is not a job, by its key in the file."""
    shop = {}
    for key, table, model, fields in SHOP_FIELDS:
        asked = select(table).order_by(table.id)
        rows = session.scalars(asked.where(table.job_id.is_(None)) if table is BenchTrialRow else asked)
        shop[key] = [entry for row in rows if (entry := _entry(key, model, row, fields, written))]
    machines, kits = shop["machines"], shop["kits"]
    machines += _stand_ins(session, {entry["document"]["name"] for entry in machines})
    kits += [
        {"document": Kit(name=name).model_dump(mode="json", by_alias=True), "put_away_at": now().isoformat()}
        for name in _kits_named(session, {entry["document"]["name"] for entry in kits})
    ]
    written.machines = len(machines)
    return shop


def _entry(
    key: str, model: type[Any], row: Any, fields: tuple[str, ...], written: Written
) -> dict[str, Any] | None:
    """A checked entry as plain data; None, and named, when the book's own row is damaged."""
    given = {name: getattr(row, name) for name in fields}
    try:
        entry: dict[str, Any] = model.model_validate(given).model_dump(mode="json", by_alias=True)
        return entry
    except (ValidationError, RecursionError):
        name = (
            getattr(row, "name", None)
            or getattr(row, "cylinder", None)
            or getattr(row, "machine", None)
            or row.id
        )
        written.damaged.append(f"{key.removesuffix('s').replace('_', ' ')} “{name}”")
        return None


def _stand_ins(session: Session, here: set[str]) -> list[dict[str, Any]]:
    """Machines that jobs name and the shop cannot give: as a plan of such a job keeps them."""
    found = []
    for number, name in _named(session, "machine"):
        row = session.get(PlanRow, number) if name not in here else None
        if row is None:
            continue
        job, machine = readable(Job, row.job_document), readable(Machine, row.machine_document)
        if job is not None and job.machine and job.machine not in here and machine is not None:
            here.add(job.machine)
            kept = machine.model_copy(update={"name": job.machine})
            found.append(
                {
                    "document": kept.model_dump(mode="json", by_alias=True),
                    "made_at": now().isoformat(),
                    "put_away_at": now().isoformat(),
                }
            )
    return found


def _kits_named(session: Session, here: set[str]) -> list[str]:
    """Kits that jobs name and the shop cannot give."""
    named = dict.fromkeys(name for _, name in _named(session, "kit"))
    return [name for name in named if name not in here and readable(Kit, {"name": name}) is not None]


def _named(session: Session, key: str) -> Iterator[tuple[int, str]]:
    """Plans by their numbers, the newest first, whose jobs name something under a key, and the name."""
    asked = select(PlanRow.id, type_coerce(PlanRow.job_document, Text)).order_by(PlanRow.id.desc())
    for number, text in session.execute(asked.execution_options(yield_per=1000)):
        name = read_document(text).get(key)
        if isinstance(name, str):
            yield number, name
