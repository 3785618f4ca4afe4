"""Everything in the book as JSON, written job by job, so that a large book needs no large memory
(docs/formats.md).
"""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import IO, Any

from pydantic import ValidationError
from sqlalchemy import select
from sqlalchemy.orm import Session, selectinload

from anvilsong.core.job import Job
from anvilsong.core.machine import Machine
from anvilsong.core.torch.kit import Kit
from anvilsong.store.exchange_format import (
    FORMAT,
    FORMAT_VERSION,
    CalibrationEntry,
    GaugeEntry,
    JobEntry,
    KitEntry,
    MachineEntry,
    MachineTrialEntry,
    TrialEntry,
    WelderEntry,
)
from anvilsong.store.exchange_pictures import picture_pieces
from anvilsong.store.files import written_whole
from anvilsong.store.models import (
    BenchTrialRow,
    CalibrationRow,
    CouponRow,
    FaultTrialRow,
    GaugeRow,
    JobRow,
    KitRow,
    MachineRow,
    PlanRow,
    WelderRow,
    now,
)
from anvilsong.store.reading import readable

AT_ONCE, MOST_NAMED = 200, 12
TRIAL_FIELDS = ("uid", "document", "made_at")
HEAT_FIELDS = ("uid", "revision", "part", "result", "made_at")
PLAN_FIELDS = (
    "revision",
    "origin",
    "words",
    "job_document",
    "machine_document",
    "settings",
    "recipe",
    "plan",
    "made_at",
)
# What is not a job, in the file's order: its key, its table, its entry and the columns that the entry takes.
SHOP_FIELDS: tuple[tuple[str, Any, type[Any], tuple[str, ...]], ...] = (
    ("machines", MachineRow, MachineEntry, ("document", "made_at", "put_away_at")),
    ("kits", KitRow, KitEntry, ("document", "put_away_at")),
    ("gauge_readings", GaugeRow, GaugeEntry, ("cylinder", "bar", "note", "made_at")),
    ("fault_trials", FaultTrialRow, TrialEntry, ("sign", "cause", "helped", "made_at")),
    ("calibrations", CalibrationRow, CalibrationEntry, ("machine", "kit", "is_on")),
    ("machine_trials", BenchTrialRow, MachineTrialEntry, ("uid", "machine", "document", "made_at")),
    ("welders", WelderRow, WelderEntry, ("name", "school", "note", "put_away_at")),
)


@dataclass
class Written:
    """How much an export holds, and what could not be read and was left out."""

    jobs: int = 0
    machines: int = 0
    damaged: list[str] = field(default_factory=list)
    """What was left out, each named as its owner would look for it."""

    @property
    def left_out(self) -> int:
        """How many entries were left out."""
        return len(self.damaged)

    @property
    def said(self) -> str:
        """The outcome in words."""
        return f"{self.jobs} jobs and {self.machines} machines{self.left_out_said}"

    @property
    def left_out_said(self) -> str:
        """What was left out, as the end of a sentence; empty where nothing was."""
        if not self.damaged:
            return ""
        named = ", ".join(self.damaged[:MOST_NAMED])
        more = f" and {self.left_out - MOST_NAMED} more" if self.left_out > MOST_NAMED else ""
        entries = "entry was" if self.left_out == 1 else "entries were"
        return f"; {self.left_out} damaged {entries} left out: {named}{more}"


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
    written = Written()
    for piece in _pieces(session, written):
        out.write(piece)
    return written


def _pieces(session: Session, written: Written) -> Iterator[str]:
    yield f'{{"format": "{FORMAT}", "version": {FORMAT_VERSION}, "made_at": "{now().isoformat()}"'
    shop = _shop(session, written)
    for key, entries in shop.items():
        yield f',\n"{key}": ' + json.dumps(entries, ensure_ascii=False)
    yield ',\n"jobs": ['
    welders = {welder["name"] for welder in shop["welders"]}
    coupons_of: dict[str, set[str]] = {}
    for entry in _jobs(session, welders, written):
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
    yield "\n]}\n"


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
    name_of = PlanRow.job_document["machine"].as_string()
    for row in session.scalars(
        select(PlanRow).where(name_of.is_not(None), name_of.not_in(here)).order_by(PlanRow.id.desc())
    ):
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
    name_of = PlanRow.job_document["kit"].as_string()
    named = session.scalars(select(name_of).where(name_of.is_not(None), name_of.not_in(here)).distinct())
    return [name for name in named if readable(Kit, {"name": name}) is not None]


def _jobs(session: Session, welders: set[str], written: Written) -> Iterator[dict[str, Any]]:
    last = 0
    while rows := _next_jobs(session, last):
        for row in rows:
            last = row.id
            entry = _job(row, welders, written)
            if entry is not None:
                yield entry
        session.expunge_all()


def _next_jobs(session: Session, after: int) -> list[JobRow]:
    loaded = (
        selectinload(JobRow.plans).undefer("*"),
        selectinload(JobRow.ticks),
        selectinload(JobRow.heat_runs),
        selectinload(JobRow.trials),
        selectinload(JobRow.welder),
        selectinload(JobRow.coupons).selectinload(CouponRow.readings),
    )
    return list(
        session.scalars(
            select(JobRow).where(JobRow.id > after).order_by(JobRow.id).limit(AT_ONCE).options(*loaded)
        )
    )


def _job(row: JobRow, welders: set[str], written: Written) -> dict[str, Any] | None:
    """A job as an entry. When it does not pass as a whole, what does pass of its plans, coupons and ticks is
    kept.
    """
    head: dict[str, Any] = {
        "uid": row.uid,
        "title": row.title,
        "made_at": row.made_at,
        "changed_at": row.changed_at,
        "put_away_at": row.put_away_at,
    }
    head["welder"] = row.welder.name if row.welder and row.welder.name in welders else None
    given: dict[str, list[dict[str, Any]]] = {
        "plans": [{name: getattr(plan, name) for name in PLAN_FIELDS} for plan in row.plans],
        "coupons": [_coupon(coupon) for coupon in row.coupons],
        "ticks": [{"step": tick.step, "done_at": tick.done_at} for tick in row.ticks],
        "heat_runs": [{name: getattr(run, name) for name in HEAT_FIELDS} for run in row.heat_runs],
        "trials": [{name: getattr(trial, name) for name in TRIAL_FIELDS} for trial in row.trials],
    }
    whole = readable(JobEntry, head | given)
    if whole is None:
        kept: dict[str, Any] = head
        for words, entries in given.items():
            kept = kept | {words: [one for one in entries if _passes(kept, words, one)]}
        whole = readable(JobEntry, kept)
        if whole is None:
            written.damaged.append(f"job “{row.title}”")
            return None
        for words, entries in given.items():
            lost = len(entries) - len(kept[words])
            one = {"plans": "revision", "heat_runs": "part"}.get(words, words.removesuffix("s"))
            written.damaged += [f"a {one} of job “{row.title}”"] * lost
    return whole.model_dump(mode="json", by_alias=True)


def _passes(kept: dict[str, Any], words: str, one: dict[str, Any]) -> bool:
    """Whether one entry of a job's list can be read, beside what is kept of the lists before it."""
    return readable(JobEntry, kept | {words: [one]}) is not None


def _coupon(coupon: CouponRow) -> dict[str, Any]:
    readings = [
        {
            "document": r.document,
            "verdict": r.verdict,
            "change": r.change,
            "typed": r.typed,
            "made_at": r.made_at,
        }
        for r in coupon.readings
    ]
    return {
        "uid": coupon.uid,
        "number": coupon.number,
        "revision": coupon.plan.revision,
        "left_out": coupon.left_out,
        "made_at": coupon.made_at,
        "readings": readings,
    }
