"""Coupons and runs from a table: first looked at row by row, then taken, all of it or nothing."""

from __future__ import annotations

import hashlib
import re
from collections import Counter
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any, Literal

from pydantic import BaseModel
from sqlalchemy import select
from sqlalchemy.orm import Session

from anvilsong.core.bead import Looks, measured_whole
from anvilsong.core.complaints import validated
from anvilsong.core.errors import BadInput, Problem
from anvilsong.core.said import Words, joined
from anvilsong.core.shop import PartRun
from anvilsong.core.words import sentence
from anvilsong.store import book, coupons, part_runs
from anvilsong.store.kept_models import PartRunRow
from anvilsong.store.models import CouponRow, JobRow, PlanRow, now
from anvilsong.store.reading import document, readable
from anvilsong.store.sheets.cells import figure, is_same, moment
from anvilsong.store.sheets.columns import COUPON_FIGURES, COUPON_WORDS, HEADS, JUDGED, RUN_FIGURES, RUN_WORDS
from anvilsong.store.sheets.files import Sheet

State = Literal["new", "changed", "same", "bad"]
_UID = re.compile(r"[0-9a-f]{32}")


@dataclass(frozen=True)
class Row:
    """What a line of the table would do: its job's title, and why it cannot be taken, or what changes."""

    line: int
    state: State
    job: str = ""
    why: Words = ""


@dataclass(frozen=True)
class Looked:
    """A table looked at: whether it has coupons or runs, every row, and heads that nothing is read from."""

    kind: Literal["coupons", "runs"]
    rows: tuple[Row, ...]
    unread: tuple[str, ...]

    def count(self, state: State) -> int:
        """How many rows are so."""
        return sum(row.state == state for row in self.rows)


@dataclass
class _Taken:
    """One row that can be taken: what it says, the version it belongs to, and what the book has of it."""

    row: Row
    uid: str
    job: JobRow
    plan: PlanRow
    made_at: datetime | None
    value: Any
    here: Any = None


@dataclass
class _Reader:
    """Reads rows of one table against the book."""

    session: Session
    sheet: Sheet
    is_runs: bool
    taken: list[_Taken] = field(default_factory=list)
    uids: set[str] = field(default_factory=set)
    alike: Counter[str] = field(default_factory=Counter)

    def row(self, line: int, cells: dict[str, str]) -> Row:
        try:
            one = self._taken(line, cells)
        except BadInput as bad:
            why = joined(*map(self._said, bad.problems), by="; ")
            return Row(line, "bad", cells.get("job", "")[:80], why)
        self.taken.append(one)
        return one.row

    def _said(self, problem: Problem) -> Words:
        return joined(f"{self._head(problem.field.rsplit('.', 1)[-1])}: ", problem.allowed)

    def _head(self, name: str) -> str:
        """What a field is called in the table."""
        heads = (RUN_FIGURES | RUN_WORDS) if self.is_runs else (COUPON_FIGURES | COUPON_WORDS)
        return heads.get(name, name.replace("_", " "))

    def _taken(self, line: int, cells: dict[str, str]) -> _Taken:
        job = self._job(cells)
        plan = self._plan(job, cells)
        made_at = moment(cells.get("when [utc]", ""))
        uid = self._uid(job, plan, cells)
        here = self._here(uid, job)
        if here is not None and here[1] is None:
            raise BadInput.one("uid", uid, sentence("store.uid_damaged_here"))
        value = self._value(cells, here[1] if here else None)
        if here is None:
            if plan.settings is None:
                raise BadInput.one("version", plan.revision, sentence("store.refused_plan_has_no"))
            return _Taken(Row(line, "new", job.title), uid, job, plan, made_at, value)
        row, stands = here
        _stays_where_it_was(row, plan, made_at, cells)
        was = document(stands)
        changed = [name for name, one in document(value).items() if not is_same(one, was.get(name))]
        if not changed:
            return _Taken(Row(line, "same", job.title), uid, job, plan, made_at, value, row)
        said = ", ".join(self._head(name).partition(" [")[0] for name in changed)
        if self.is_runs:
            raise BadInput.one("uid", uid, sentence("store.logged_run_stays", changed=said))
        return _Taken(Row(line, "changed", job.title, said), uid, job, plan, made_at, value, row)

    def _job(self, cells: dict[str, str]) -> JobRow:
        uid, title = cells.get("job uid", ""), cells.get("job", "")
        if uid:
            row = self.session.scalar(select(JobRow).where(JobRow.uid == uid))
            if row is None:
                raise BadInput.one("job uid", uid, sentence("store.no_job_of_uid"))
            return row
        found = (
            list(self.session.scalars(select(JobRow).where(JobRow.title == title).limit(2))) if title else []
        )
        if not found:
            raise BadInput.one("job", title, sentence("store.no_job_of_title", title=title[:60]))
        if len(found) > 1:
            raise BadInput.one("job", title, sentence("store.two_jobs_of_title"))
        return found[0]

    def _plan(self, job: JobRow, cells: dict[str, str]) -> PlanRow:
        text = cells.get("version", "")
        is_number = text.isascii() and text.isdecimal() and len(text) < 10
        plan = book.find_plan(self.session, job.id, int(text) if is_number else None)
        if plan is None or (text and not is_number):
            raise BadInput.one("version", text, sentence("store.no_such_version"))
        return plan

    def _uid(self, job: JobRow, plan: PlanRow, cells: dict[str, str]) -> str:
        """The row's own, or one made of what it says, so that the same table brought twice is taken once."""
        uid = cells.get("uid", "")
        if uid and not _UID.fullmatch(uid):
            raise BadInput.one("uid", uid[:40], sentence("store.leave_uid_empty"))
        if not uid:
            said = "\0".join(
                [job.uid, str(plan.revision), *(f"{k}={v}" for k, v in sorted(cells.items()) if v)]
            )
            self.alike[said] += 1
            uid = hashlib.blake2b(f"{said}\0{self.alike[said]}".encode(), digest_size=16).hexdigest()
        if uid in self.uids:
            raise BadInput.one("uid", uid, sentence("store.uid_twice"))
        self.uids.add(uid)
        return uid

    def _here(self, uid: str, job: JobRow) -> tuple[Any, Any] | None:
        """The row of the book with this uid, and what stands there (None where it is damaged)."""
        row: CouponRow | PartRunRow | None
        if self.is_runs:
            row = self.session.scalar(select(PartRunRow).where(PartRunRow.uid == uid))
        else:
            row = self.session.scalar(select(CouponRow).where(CouponRow.uid == uid))
        if row is None:
            return None
        if row.job_id != job.id:
            raise BadInput.one("uid", uid, sentence("store.uid_of_another_job"))
        if isinstance(row, PartRunRow):
            return row, readable(PartRun, row.document)
        looks = readable(Looks, row.readings[-1].document) if row.readings else None
        return row, (measured_whole(looks) or looks) if looks is not None else None

    def _value(self, cells: dict[str, str], stands: BaseModel | None) -> Looks | PartRun:
        """What a row says; of a known one, what its columns say and otherwise what stands."""
        figures, words = (RUN_FIGURES, RUN_WORDS) if self.is_runs else (COUPON_FIGURES, COUPON_WORDS)
        given: dict[str, Any] = dict(document(stands)) if stands is not None else {}
        for name, head in (figures | words).items():
            if (text := cells.get(head.lower())) is not None:
                given.pop(name, None)
                if text:
                    given[name] = figure(name, text, comma=self.sheet.comma) if name in figures else text
        if self.is_runs:
            return validated(PartRun, given)
        judged = dict(given.get("judged") or {})
        for word, head in JUDGED.items():
            if head in cells:
                judged.pop(word, None)
                if cells[head]:
                    judged[word] = cells[head]
        looks = validated(Looks, given | {"judged": judged})
        return measured_whole(looks) or looks


def _stays_where_it_was(
    row: CouponRow | PartRunRow, plan: PlanRow, made_at: datetime | None, cells: dict[str, str]
) -> None:
    """That a table gives a known row no other version and no other moment than it has.

    Raises
    ------
    BadInput : it does; neither is ever corrected
    """
    revision = row.plan.revision if isinstance(row, CouponRow) else row.revision
    if cells.get("version") and plan.revision != revision:
        raise BadInput.one("version", plan.revision, sentence("store.version_stays", revision=revision))
    if made_at is not None and made_at != row.made_at.replace(microsecond=0, tzinfo=None):
        raise BadInput.one("when [UTC]", cells["when [utc]"], sentence("store.moment_stays"))


def _read(session: Session, sheet: Sheet) -> tuple[Looked, list[_Taken]]:
    heads = set(sheet.heads)
    is_runs = RUN_FIGURES["seconds"] in heads
    known = {head.lower() for head in HEADS["runs" if is_runs else "coupons"]}
    measures = {*COUPON_FIGURES.values(), *JUDGED.values(), "overall"}
    if not heads & {"job", "job uid"} or not (is_runs or heads & measures):
        raise BadInput.one("heads", ", ".join(sheet.heads)[:200], sentence("store.heads_wanted"))
    reader = _Reader(session, sheet, is_runs)
    rows = tuple(reader.row(line, cells) for line, cells in sheet.rows)
    unread = tuple(head for head in sheet.heads if head and head not in known)
    return Looked("runs" if is_runs else "coupons", rows, unread), reader.taken


def look_at(session: Session, sheet: Sheet) -> Looked:
    """What taking a table would do; nothing is written.

    Raises
    ------
    BadInput : its heads are those of neither coupons nor runs
    """
    return _read(session, sheet)[0]


def take(session: Session, sheet: Sheet) -> Looked:
    """Take a table: new rows added, changed coupons corrected, the same left alone. The caller commits.

    Raises
    ------
    BadInput : a row cannot be taken; then nothing is to be stored
    """
    looked, taken = _read(session, sheet)
    if bad := next((row for row in looked.rows if row.state == "bad"), None):
        raise BadInput.one(f"line {bad.line}", bad.job, bad.why)
    for one in taken:
        if one.row.state == "changed":
            coupons.correct_coupon(session, one.here, one.value)
        elif one.row.state == "new":
            _add(session, one)
    return looked


def _add(session: Session, one: _Taken) -> None:
    added: CouponRow | PartRunRow
    if isinstance(one.value, PartRun):
        added = part_runs.add_run(session, one.job, one.plan, one.value)
    else:
        added = coupons.add_coupon(session, one.job, one.plan, one.value)
    added.uid = one.uid
    added.made_at = one.made_at or now()
    session.flush()
