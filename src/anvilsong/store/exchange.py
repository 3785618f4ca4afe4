"""Bring an export in: all of it or nothing, checked entry by entry before the book is touched (docs/formats.md).

The file is read piece by piece into a database of its own beside the book; only when the whole of it has passed, its rows are
taken over in one short transaction. So a large file needs no large memory, and nobody waits while it is read.
"""

from __future__ import annotations

import os
import sqlite3
import uuid
from collections.abc import Iterator
from contextlib import closing
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, BinaryIO, TypeVar

import ijson
from ijson.common import IncompleteJSONError, JSONError, ObjectBuilder
from pydantic import BaseModel, ValidationError
from sqlalchemy import select
from sqlalchemy.orm import Session

from anvilsong.core.errors import BadInput, CannotRead, Problem
from anvilsong.core.job import problems_of
from anvilsong.store import book
from anvilsong.store.database import BUSY_S, Sessions, make_engine, migrate, sessions
from anvilsong.store.exchange_format import (
    FORMAT,
    READ_VERSIONS,
    GaugeEntry,
    JobEntry,
    KitEntry,
    MachineEntry,
    WelderEntry,
)
from anvilsong.store.files import remove_beside
from anvilsong.store.models import (
    CouponRow,
    GaugeRow,
    JobRow,
    KitRow,
    MachineRow,
    PlanRow,
    ReadingRow,
    TickRow,
    WelderRow,
)
from anvilsong.store.reading import document

Entry = TypeVar("Entry", bound=BaseModel)
LISTS: dict[str, type[BaseModel]] = {
    "machines": MachineEntry,
    "kits": KitEntry,
    "gauge_readings": GaugeEntry,
    "welders": WelderEntry,
    "jobs": JobEntry,
}
MOST_OF_A_LIST = {"machines": 500, "kits": 500, "gauge_readings": 100_000, "welders": 500, "jobs": 1_000_000}
FLUSH_EVERY = 100
DEEPEST = 40


@dataclass
class Imported:
    """What came in, and what was here already and stayed as it is."""

    jobs: int = 0
    machines: int = 0
    kits: int = 0
    welders: int = 0
    here_already: int = 0

    @property
    def said(self) -> str:
        """The outcome in words."""
        counted = [
            (self.jobs, "job"),
            (self.machines, "machine"),
            (self.kits, "kit"),
            (self.welders, "welder"),
        ]
        parts = [
            f"{count} {words}{'' if count == 1 else 's'}"
            for count, words in counted
            if count or words == "job"
        ]
        were = "job was" if self.here_already == 1 else "jobs were"
        stayed = (
            f"; {self.here_already} {were} here already and stay as they are" if self.here_already else ""
        )
        return ", ".join(parts) + stayed


@dataclass
class _Known:
    """Names that references may point to: here already, or in the file."""

    machines: set[str] = field(default_factory=set)
    kits: set[str] = field(default_factory=set)
    welders: set[str] = field(default_factory=set)
    uids: set[str] = field(default_factory=set)


def import_from(target: Sessions, file: Path) -> Imported:
    """Read an export. Machines, kits and welders of a known name stay as they are; jobs are added, the same one not twice.

    Raises
    ------
    CannotRead : the file is no export, or no JSON
    BadInput : an entry cannot be used; the sentence names its place in the file. Nothing was stored
    """
    data = database_path(target)
    aside = data.with_name(f".{data.name}.{uuid.uuid4().hex}.import")
    engine = make_engine(aside, wal=False)
    try:
        migrate(engine)
        with target() as here:
            known = _known(here)
        with file.open("rb") as given, sessions(engine).begin() as staged:
            _stage(staged, given, file, known)
        engine.dispose()
        return _take_over(data, aside)
    except OSError as error:
        raise CannotRead(str(file), error.strerror or str(error)) from error
    finally:
        engine.dispose()
        remove_beside(aside)


def database_path(target: Sessions) -> Path:
    """The file that sessions work on."""
    with target() as session:
        return Path(
            str(
                session.connection()
                .exec_driver_sql("SELECT file FROM pragma_database_list WHERE name = 'main'")
                .scalar()
            )
        )


def _known(session: Session) -> _Known:
    return _Known(
        machines=set(session.scalars(select(MachineRow.name))),
        kits=set(session.scalars(select(KitRow.name))),
        welders=set(session.scalars(select(WelderRow.name))),
    )


def _stage(staged: Session, given: BinaryIO, file: Path, known: _Known) -> None:
    """Every entry of the file, checked, into the database aside."""
    try:
        _check_depth(given, file)
        heads = _heads(given, file)
        version = heads.pop("version")
        seen: dict[str, set[str]] = {name: set() for name in ("machines", "kits", "welders")}
        for name in seen:
            for place, entry in enumerate(heads.get(name, [])):
                _stage_shop(
                    staged,
                    name,
                    _checked(LISTS[name], _as_now(name, entry, version), f"{name}.{place}"),
                    seen[name],
                    f"{name}.{place}",
                )
        for place, entry in enumerate(heads.get("gauge_readings", [])):
            gauge = _checked(GaugeEntry, entry, f"gauge_readings.{place}")
            staged.add(GaugeRow(**gauge.model_dump()))
        staged.flush()
        known.machines |= seen["machines"]
        known.kits |= seen["kits"]
        known.welders |= seen["welders"]
        welders = {row.name: row for row in staged.scalars(select(WelderRow))}
        given.seek(0)
        for place, entry in enumerate(ijson.items(given, "jobs.item", use_float=True)):
            if place >= MOST_OF_A_LIST["jobs"]:
                raise BadInput.one("jobs", place, f"there may be {MOST_OF_A_LIST['jobs']} of them at most")
            _stage_job(staged, _checked(JobEntry, entry, f"jobs.{place}"), known, welders, f"jobs.{place}")
            if place % FLUSH_EVERY == 0:
                staged.flush()
                staged.expunge_all()
                welders = {row.name: row for row in staged.scalars(select(WelderRow))}
    except (JSONError, IncompleteJSONError, UnicodeDecodeError, RecursionError) as error:
        raise CannotRead(str(file), f"it is not a JSON file ({' '.join(str(error).split())[:80]})") from error


def _check_depth(given: BinaryIO, file: Path) -> None:
    """Read the file once for its form alone: no export lies in itself deeper than this."""
    depth = 0
    for event, _ in ijson.basic_parse(given, use_float=True):
        if event in ("start_map", "start_array"):
            depth += 1
            if depth > DEEPEST:
                raise CannotRead(str(file), "it lies in itself deeper than any export")
        elif event in ("end_map", "end_array"):
            depth -= 1
    given.seek(0)


def _heads(given: BinaryIO, file: Path) -> dict[str, Any]:
    """Everything but the jobs, which come one by one later.

    An export gives its jobs last; as soon as they begin after all else was seen, reading on can stop.
    """
    found: dict[str, Any] = {}
    events = ijson.parse(given, use_float=True)
    kind = next(events, (None, None, None))[1]
    if kind != "start_map":
        raise CannotRead(str(file), f"it does not say format {FORMAT}")
    key = None
    for prefix, event, value in events:
        if prefix == "" and event == "map_key":
            key = value
            if key == "jobs" and set(LISTS) - {"jobs"} <= set(found):
                found["jobs"] = True
                break
        elif key == "jobs":
            found["jobs"] = True
        elif key is not None and prefix == key:
            found[key] = _whole(events, key, event, value)
    if found.get("format") != FORMAT or found.get("version") not in READ_VERSIONS:
        raise CannotRead(
            str(file), f"it does not say format {FORMAT}, version {' or '.join(map(str, READ_VERSIONS))}"
        )
    missing = [name for name in ("machines", "welders", "jobs") if name not in found]
    if missing:
        raise BadInput.one(missing[0], None, "it must be given")
    for name in set(LISTS) - {"jobs"}:
        if not isinstance(found.get(name, []), list):
            raise BadInput.one(name, found[name], "allowed is a list in brackets")
        if len(found.get(name, [])) > MOST_OF_A_LIST[name]:
            raise BadInput.one(name, len(found[name]), f"there may be {MOST_OF_A_LIST[name]} of them at most")
    return found


def _whole(events: Iterator[tuple[str, str, Any]], key: str, event: str, value: Any) -> Any:
    """The value that begins with this event, read to its end."""
    if event not in ("start_array", "start_map"):
        return value
    builder = ObjectBuilder()
    builder.event(event, value)
    end = event.replace("start", "end")
    for prefix, inner, given in events:
        builder.event(inner, given)
        if prefix == key and inner == end:
            break
    return builder.value


def _as_now(name: str, entry: Any, version: int) -> Any:
    """Version 1 gave machines and kits bare."""
    return {"document": entry} if version == 1 and name in ("machines", "kits") else entry


def _checked(model: type[Entry], given: Any, place: str) -> Entry:
    try:
        return model.model_validate(given)
    except ValidationError as trouble:
        problems = problems_of(trouble.errors(include_url=False))[:5]
        raise BadInput(
            *(
                Problem(
                    f"{place}.{problem.field}" if problem.field != "job" else place,
                    problem.given,
                    problem.allowed,
                )
                for problem in problems
            )
        ) from None
    except RecursionError:
        raise BadInput.one(place, given, "it lies in itself too deep") from None


def _stage_shop(staged: Session, name: str, entry: Any, seen: set[str], place: str) -> None:
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


def _stage_job(
    staged: Session, entry: JobEntry, known: _Known, welders: dict[str, WelderRow], place: str
) -> None:
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
                plan=by_revision[coupon.revision],
                made_at=coupon.made_at,
                readings=readings,
            )
        )
    row.ticks = [TickRow(step=tick.step, done_at=tick.done_at) for tick in entry.ticks]
    staged.add(row)
    staged.flush()
    book.index_words(staged, row)


def _staged_welder(staged: Session, name: str | None, welders: dict[str, WelderRow]) -> WelderRow | None:
    """The welder's row in the database aside; one who is only in the book gets a row there that the taking over finds again."""
    if name is None:
        return None
    if name not in welders:
        welders[name] = WelderRow(name=name, school={})
        staged.add(welders[name])
    return welders[name]


# Rows keep their order and get numbers behind those of the book.
_SHOP = (
    "INSERT INTO machines (name, document, made_at, put_away_at) SELECT name, document, made_at, put_away_at FROM came.machines"
    " WHERE name NOT IN (SELECT name FROM main.machines) ORDER BY id",
    "INSERT INTO kits (name, document, put_away_at) SELECT name, document, put_away_at FROM came.kits"
    " WHERE name NOT IN (SELECT name FROM main.kits) ORDER BY id",
    "INSERT INTO welders (name, school, note, put_away_at) SELECT name, school, note, put_away_at FROM came.welders"
    " WHERE name NOT IN (SELECT name FROM main.welders) ORDER BY id",
)
_GAUGES = (
    "INSERT INTO gauge_readings (cylinder, bar, note, made_at) SELECT cylinder, bar, note, made_at FROM came.gauge_readings c"
    " WHERE NOT EXISTS (SELECT 1 FROM main.gauge_readings h WHERE h.cylinder = c.cylinder AND h.made_at = c.made_at AND h.bar = c.bar) ORDER BY id"
)
_COMING = "SELECT j.id FROM came.jobs j WHERE j.uid NOT IN (SELECT uid FROM main.jobs)"
_JOBS = (
    "INSERT INTO jobs (id, uid, title, welder_id, made_at, changed_at, put_away_at)"
    " SELECT j.id + :jobs, j.uid, j.title, (SELECT w.id FROM main.welders w JOIN came.welders c ON c.name = w.name WHERE c.id = j.welder_id),"
    " j.made_at, j.changed_at, j.put_away_at FROM came.jobs j WHERE j.id IN (SELECT id FROM taken)",
    "INSERT INTO plans (id, job_id, revision, origin, words, job_document, machine_document, settings, plan, made_at)"
    " SELECT id + :plans, job_id + :jobs, revision, origin, words, job_document, machine_document, settings, plan, made_at"
    " FROM came.plans WHERE job_id IN (SELECT id FROM taken)",
    "INSERT INTO coupons (id, uid, job_id, plan_id, number, made_at)"
    " SELECT id + :coupons, CASE WHEN uid IN (SELECT uid FROM main.coupons) THEN lower(hex(randomblob(16))) ELSE uid END,"
    " job_id + :jobs, plan_id + :plans, number, made_at FROM came.coupons WHERE job_id IN (SELECT id FROM taken)",
    "INSERT INTO readings (coupon_id, revision, document, verdict, change, typed, made_at)"
    " SELECT r.coupon_id + :coupons, r.revision, r.document, r.verdict, r.change, r.typed, r.made_at"
    " FROM came.readings r JOIN came.coupons c ON c.id = r.coupon_id WHERE c.job_id IN (SELECT id FROM taken)",
    "INSERT INTO ticks (job_id, step, done_at) SELECT job_id + :jobs, step, done_at FROM came.ticks WHERE job_id IN (SELECT id FROM taken)",
    "INSERT INTO words (job_id, text) SELECT job_id + :jobs, text FROM came.words WHERE job_id IN (SELECT id FROM taken)",
)


def _take_over(data: Path, aside: Path) -> Imported:
    """The staged rows into the book, in one transaction."""
    with closing(sqlite3.connect(data, timeout=BUSY_S, isolation_level=None)) as here:
        here.execute("PRAGMA foreign_keys = ON")
        here.execute("ATTACH ? AS came", (os.fspath(aside),))
        here.execute("CREATE TEMP TABLE taken (id INTEGER PRIMARY KEY)")
        here.execute("BEGIN IMMEDIATE")
        try:
            machines, kits, welders = (here.execute(statement).rowcount for statement in _SHOP)
            here.execute(_GAUGES)
            numbers = {
                table: here.execute(f"SELECT coalesce(max(id), 0) FROM main.{table}").fetchone()[0]
                for table in ("jobs", "plans", "coupons")
            }
            here.execute(f"INSERT INTO taken {_COMING}")
            jobs = here.execute("SELECT count(*) FROM taken").fetchone()[0]
            whole = here.execute("SELECT count(*) FROM came.jobs").fetchone()[0]
            for statement in _JOBS:
                here.execute(statement, numbers)
            here.execute("COMMIT")
        except BaseException:
            if here.in_transaction:
                here.execute("ROLLBACK")
            raise
        return Imported(jobs, machines, kits, welders, whole - jobs)
