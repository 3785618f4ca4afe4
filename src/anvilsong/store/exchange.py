"""Bring an export in: read and checked entry by entry into a database aside, then taken over in one
transaction.
"""

from __future__ import annotations

from pathlib import Path
from typing import BinaryIO

import ijson
from ijson.common import IncompleteJSONError, JSONError
from sqlalchemy import select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from anvilsong.core.errors import BadInput, CannotRead
from anvilsong.core.said import Words
from anvilsong.core.words import sentence
from anvilsong.store.calibrations import catch_up
from anvilsong.store.database import Sessions, sessions, write_empty
from anvilsong.store.databases import make_engine
from anvilsong.store.exchange_format import (
    CalibrationEntry,
    GaugeEntry,
    JobEntry,
    MachineTrialEntry,
    PracticeEntry,
    RecipeEntry,
    TrialEntry,
)
from anvilsong.store.exchange_pictures import stage_pictures
from anvilsong.store.exchange_reading import (
    LISTS,
    MOST_OF_A_LIST,
    as_now,
    check_depth,
    checked_entry,
    read_heads,
)
from anvilsong.store.exchange_staging import (
    Known,
    machine_trial,
    practice_row,
    stage_job,
    stage_shop,
)
from anvilsong.store.exchange_taking import Imported, take_over
from anvilsong.store.files import own_file
from anvilsong.store.kept_models import RecipeRow
from anvilsong.store.models import (
    CalibrationRow,
    FaultTrialRow,
    GaugeRow,
    KitRow,
    MachineRow,
    WelderRow,
)
from anvilsong.store.places import beside

FLUSH_EVERY = 100


def import_from(
    target: Sessions, file: Path, only_look: bool = False, as_seen: str | None = None
) -> Imported:
    """Read an export. Machines, kits and welders of a known name stay as they are; jobs are added, the same
    one not twice.

    Parameters
    ----------
    only_look : say what would come in; nothing is stored
    as_seen : the mark of what somebody was told would come in: where it is another now, nothing is stored

    Raises
    ------
    CannotRead : the file is no export, or no JSON
    BadInput : an entry cannot be used; the sentence names its place in the file. Nothing was stored
    """
    with own_file(beside(target.place), "import") as aside:
        write_empty(aside)
        engine = make_engine(aside, wal=False)
        try:
            with target() as here:
                known = _known(here)
            with _opened(file) as given, sessions(engine).begin() as staged:
                version = _stage(staged, given, file, known)
        finally:
            engine.dispose()
        came = take_over(target.place, aside, version, only_look, as_seen)
    if not came.is_stored:
        return came
    with target.begin() as here:
        catch_up(here)
    return came


def _opened(file: Path) -> BinaryIO:
    try:
        return file.open("rb")
    except OSError as error:
        raise CannotRead(str(file), error.strerror or str(error)) from error


def _flushed(staged: Session, name: str, refusal: Words) -> None:
    """What was added so far as rows; what may stand once stands once."""
    try:
        staged.flush()
    except IntegrityError:
        raise BadInput.one(name, "one of them", refusal) from None


def _known(session: Session) -> Known:
    return Known(
        machines=set(session.scalars(select(MachineRow.name))),
        kits=set(session.scalars(select(KitRow.name))),
        welders=set(session.scalars(select(WelderRow.name))),
    )


def _stage(staged: Session, given: BinaryIO, file: Path, known: Known) -> int:
    """Every entry of the file, checked, into the database aside; the file's version."""
    try:
        check_depth(given, file)
        heads = read_heads(given, file)
        version = heads.pop("version")
        seen: dict[str, set[str]] = {name: set() for name in ("machines", "kits", "welders")}
        for name in seen:
            for place, entry in enumerate(heads.get(name, [])):
                stage_shop(
                    staged,
                    name,
                    checked_entry(LISTS[name], as_now(name, entry, version), f"{name}.{place}"),
                    seen[name],
                    f"{name}.{place}",
                )
        for place, entry in enumerate(heads.get("gauge_readings", [])):
            gauge = checked_entry(GaugeEntry, entry, f"gauge_readings.{place}")
            staged.add(GaugeRow(**gauge.model_dump()))
        for place, entry in enumerate(heads.get("fault_trials", [])):
            trial = checked_entry(TrialEntry, entry, f"fault_trials.{place}")
            staged.add(FaultTrialRow(**trial.model_dump()))
        for place, entry in enumerate(heads.get("practice", [])):
            staged.add(practice_row(checked_entry(PracticeEntry, entry, f"practice.{place}")))
        _flushed(staged, "practice", sentence("store.name_stands_twice"))
        for place, entry in enumerate(heads.get("recipes", [])):
            staged.add(RecipeRow(**checked_entry(RecipeEntry, entry, f"recipes.{place}").model_dump()))
        _flushed(staged, "recipes", sentence("store.name_stands_twice"))
        for place, entry in enumerate(heads.get("calibrations", [])):
            pair = checked_entry(CalibrationEntry, entry, f"calibrations.{place}")
            staged.add(CalibrationRow(**pair.model_dump(), document={}, members={}))
        _flushed(staged, "calibrations", sentence("store.each_machine_kit_stands"))
        known.machines |= seen["machines"]
        for place, entry in enumerate(heads.get("machine_trials", [])):
            tried = checked_entry(MachineTrialEntry, entry, f"machine_trials.{place}")
            staged.add(machine_trial(tried, known, f"machine_trials.{place}"))
        _flushed(staged, "machine_trials", sentence("store.name_stands_twice"))
        known.kits |= seen["kits"]
        known.welders |= seen["welders"]
        welders = {row.name: row for row in staged.scalars(select(WelderRow))}
        given.seek(0)
        for place, entry in enumerate(ijson.items(given, "jobs.item", use_float=True)):
            if place >= MOST_OF_A_LIST["jobs"]:
                raise BadInput.one(
                    "jobs",
                    place,
                    sentence("store.there_may_them_most", most_of_a_list=MOST_OF_A_LIST["jobs"]),
                )
            job = checked_entry(JobEntry, as_now("jobs", entry, version), f"jobs.{place}")
            stage_job(staged, job, known, welders, f"jobs.{place}")
            if place % FLUSH_EVERY == 0:
                staged.flush()
                staged.expunge_all()
                welders = {row.name: row for row in staged.scalars(select(WelderRow))}
        staged.flush()
        staged.expunge_all()
        stage_pictures(staged, given, version)
        return int(version)
    except (JSONError, IncompleteJSONError, UnicodeDecodeError, RecursionError) as error:
        raise CannotRead(
            str(file), sentence("store.not_json_file", why=" ".join(str(error).split())[:80])
        ) from error
