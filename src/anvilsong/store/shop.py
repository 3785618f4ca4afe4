"""The shop: machines, kits, gauge readings, welders. Functions take a session; the caller commits.

Lists leave out what was put away and what cannot be read; what a job names is found also when it was put
away.
"""

from __future__ import annotations

from collections.abc import Collection
from typing import NamedTuple, TypeVar

from sqlalchemy import Text, select, type_coerce, update
from sqlalchemy.orm import Session

from anvilsong.core import say
from anvilsong.core.errors import BadInput
from anvilsong.core.job import Job, School
from anvilsong.core.machine import IDEAL, Machine
from anvilsong.core.model import Bench
from anvilsong.core.torch.kit import Kit
from anvilsong.core.words import sentence
from anvilsong.store.calibrated import coefficients_of
from anvilsong.store.columns import Document
from anvilsong.store.kept_models import PracticeRow
from anvilsong.store.models import AttachmentRow, JobRow, KitRow, MachineRow, WelderRow, now
from anvilsong.store.reading import check_seen, document, readable_text
from anvilsong.store.unchanged import unchanged

Row = TypeVar("Row", MachineRow, KitRow, WelderRow)
Listed = TypeVar("Listed", MachineRow, KitRow, WelderRow, JobRow, AttachmentRow)
Stocked = TypeVar("Stocked", MachineRow, KitRow)
Owned = TypeVar("Owned", Machine, Kit)

MOST_ROWS = 500  # of machines, kits or welders: more is not a shop


def rows(session: Session, table: type[Row], away: bool = False) -> list[Row]:
    """Rows of the shop that are here, or those that were put away."""
    wanted = table.put_away_at.is_not(None) if away else table.put_away_at.is_(None)
    return list(session.scalars(select(table).where(wanted).order_by(table.id).limit(MOST_ROWS)))


def rows_of(session: Session, table: type[Row], numbers: Collection[int]) -> list[Row]:
    """Some rows by their numbers, in the order of these."""
    return list(session.scalars(select(table).where(table.id.in_(numbers)).order_by(table.id)))


class Named(NamedTuple):
    """A row of the shop, by its number and name."""

    id: int
    name: str


def names(session: Session, table: type[Row], away: bool = False) -> list[Named]:
    """The same rows by number and name alone."""
    wanted = table.put_away_at.is_not(None) if away else table.put_away_at.is_(None)
    asked = select(table.id, table.name).where(wanted).order_by(table.id).limit(MOST_ROWS)
    return [Named(*row) for row in session.connection().execute(asked).all()]


def put_away(session: Session, row: Listed) -> None:
    """Leave a row out of the lists from now on. Jobs that name it keep it."""
    row.put_away_at = now()
    session.flush()


def bring_back(session: Session, row: Listed) -> None:
    """Undo ``put_away``."""
    row.put_away_at = None
    session.flush()


def _readable_rows(session: Session, table: type[Stocked], model: type[Owned]) -> dict[int, Owned]:
    """Those that are here and can be read, by their numbers."""
    return unchanged(session, table, lambda: _read_rows(session, table, model))


def _read_rows(session: Session, table: type[Stocked], model: type[Owned]) -> dict[int, Owned]:
    asked = select(table.id, type_coerce(table.document, Text)).where(table.put_away_at.is_(None))
    given = session.execute(asked.order_by(table.id).limit(MOST_ROWS))
    found = {number: readable_text(model, text) for number, text in given}
    return {number: value for number, value in found.items() if value is not None}


def _find(session: Session, table: type[Stocked], model: type[Owned], field: str, name: str) -> Owned:
    asked = select(type_coerce(table.document, Text)).where(table.name == name)
    row = session.execute(asked).first()
    if row is None:
        known = ", ".join(other.name for other in names(session, table)) or sentence(
            "store.none_yet_leave_out"
        )
        raise BadInput.one(field, name, say.joined(f"known {field}s are ", known))
    value = readable_text(model, row[0])
    if value is None:
        raise BadInput.one(field, name, sentence("store.what_stored_damaged_choose"))
    return value


def _add(session: Session, table: type[Stocked], value: Machine | Kit) -> Stocked:
    other = session.scalar(select(table).where(table.name == value.name))
    if other is not None:
        where = sentence("store.was_archived_restore_workshop") if other.put_away_at else "is here already"
        raise BadInput.one("name", value.name, say.joined("one of this name ", where))
    row = table(name=value.name, document=document(value))
    session.add(row)
    session.flush()
    return row


def _change(row: Stocked, value: Machine | Kit, seen: str | None) -> None:
    """Write a changed document, unless it is no longer the one the change started from."""
    theirs = sorted(key for key, given in document(value).items() if row.document.get(key) != given)
    differs = sentence("store.yours_differs_from_theirs", theirs=", ".join(theirs) or "nothing")
    check_seen(seen, row.document, value.name, differs)
    row.document = document(value)


def bench_of(session: Session, job: Job) -> Bench:
    """The machine and kit that a job names, and the coefficients of that pair."""

    def read() -> Bench:
        known = coefficients_of(session, job.machine, job.kit)
        return Bench(find_machine(session, job.machine), find_kit(session, job.kit), known)

    return unchanged(session, (Bench, job.machine, job.kit), read)


# --- machines ---------------------------------------------------------------------------------------------


def machines(session: Session) -> list[Machine]:
    """The shop's machines, as they can be chosen for a job."""
    return list(machines_by_number(session).values())


def machines_by_number(session: Session) -> dict[int, Machine]:
    """The same by the numbers of their rows; shared, never to be changed."""
    return _readable_rows(session, MachineRow, Machine)


def find_machine(session: Session, name: str | None) -> Machine:
    """The machine of that name; the ideal one when none is named."""
    return IDEAL if name is None else _find(session, MachineRow, Machine, "machine", name)


def machine_id(session: Session, name: str) -> int | None:
    """The number of a machine's row by its name; None for one that is not of the shop."""
    return session.scalar(select(MachineRow.id).where(MachineRow.name == name))


def add_machine(session: Session, machine: Machine) -> MachineRow:
    """A new machine."""
    return _add(session, MachineRow, machine)


def change_machine(session: Session, row: MachineRow, machine: Machine, seen: str | None = None) -> None:
    """The machine changed. Plans keep the machine they were made for, and it keeps its name, which jobs
    give.
    """
    if machine.name != row.name:
        raise BadInput.one(
            "name",
            machine.name,
            sentence("store.named_jobs_name_stays", name=row.name),
        )
    _change(row, machine, seen)
    session.flush()


# --- kits -------------------------------------------------------------------------------------------------


def kits(session: Session) -> list[Kit]:
    """The shop's kits, as they can be chosen for a job."""
    return list(_readable_rows(session, KitRow, Kit).values())


def find_kit(session: Session, name: str | None) -> Kit:
    """The kit of that name; everything on the shelf when none is named."""
    return Kit() if name is None else _find(session, KitRow, Kit, "kit", name)


def save_kit(session: Session, kit: Kit, row: KitRow | None = None, seen: str | None = None) -> KitRow:
    """A new kit, or one with other things on its shelf. Plans that were made keep what they were made
    with.
    """
    if row is None:
        return _add(session, KitRow, kit)
    if kit.name != row.name:
        raise BadInput.one("name", kit.name, sentence("store.named_jobs_name_stays_2", name=row.name))
    _change(row, kit, seen)
    session.flush()
    return row


# --- welders ----------------------------------------------------------------------------------------------


def welders(session: Session) -> list[WelderRow]:
    """The shop's welders."""
    return rows(session, WelderRow)


def find_welder(session: Session, welder_id: int | None) -> WelderRow | None:
    """The welder of that number; None for none."""
    if welder_id is None:
        return None
    row = session.get(WelderRow, welder_id)
    if row is None:
        raise BadInput.one("welder", welder_id, sentence("store.choose_one_list"))
    return row


def welder_document(row: WelderRow) -> Document:
    """All that a welder's page changes."""
    return {"name": row.name, "school": row.school, "note": row.note}


def save_welder(
    session: Session, row: WelderRow | None, name: str, school: School, note: str, seen: str | None = None
) -> WelderRow:
    """A new welder, or one who changed how they like to work; ``seen`` as for a machine."""
    if row is not None:
        check_seen(seen, welder_document(row), row.name)
    other = session.scalar(select(WelderRow).where(WelderRow.name == name))
    if other is not None and other is not row:
        raise BadInput.one(
            "name",
            name,
            sentence("store.welder_was_archived_restore")
            if other.put_away_at
            else sentence("store.welder_here_already"),
        )
    if row is None:
        row = WelderRow(name=name, school={}, note="")
        session.add(row)
    elif row.name != name:
        renamed = update(PracticeRow).where(PracticeRow.welder == row.name)
        session.execute(renamed.values(welder=name))
    row.name, row.school, row.note = name, school.model_dump(), note
    session.flush()
    return row
