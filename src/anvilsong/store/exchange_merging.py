"""Jobs that stand in both logbooks, such as that of the van and that of the shop: put together by stable uids
and by time, within the transaction that brings an export in.

Whatever one of them has and the other has not comes along. Where both went on by themselves, both versions
stay, and the newest of the two is the newest afterwards too: if need be, it is laid on top once more. Brought
together in either direction, both logbooks end with the same newest version, coupons and runs.
"""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Any

from anvilsong.store.exchange_both import Both
from anvilsong.store.exchange_finding import index_merged
from anvilsong.store.exchange_telling import (
    PLAN_COLUMNS,
    READING_COLUMNS,
    newest,
    of_both,
    of_plan,
    of_reading,
    plain,
)

_OF_A_VERSION = (
    ("heat_runs", ("part", "result", "made_at")),
    ("part_runs", ("document", "seconds", "gas_l", "rod_mm", "cost", "made_at")),
    ("memories", ("machine", "slot", "label", "gone_at", "panel", "made_at")),
)
# A file written by hand may give no uids: these are told by their moment and what they say as well.
_TOLD_BY = {"heat_runs": "part", "part_runs": "document", "attachments": "content"}


@dataclass(frozen=True)
class Together:
    """A job of both logbooks that got something: its title here, how many of what, by their tables, and
    whether both had gone on since they were one.
    """

    title: str
    gained: dict[str, int]
    both: bool


def merge_jobs(here: Both) -> list[Together]:
    """Put together what both logbooks have; the other one is ``came``. The jobs that got more."""
    both = here.rows("SELECT h.id, c.id FROM main.jobs h JOIN came.jobs c ON c.uid = h.uid ORDER BY h.id")
    merged = []
    for here_id, came_id in both:
        job = _Job(here, here_id, came_id)
        if job.merge():
            index_merged(here, here_id)
            title = here.first("SELECT title FROM main.jobs WHERE id = ?", (here_id,))
            merged.append(Together(title, dict(job.gained), job.both))
    here.change(_ONE_A_SLOT)
    return merged


# Two logbooks may both have stored something in a machine's memory: the one stored last is in it.
_ONE_A_SLOT = """
    UPDATE main.memories SET gone_at = (
        SELECT max(n.made_at) FROM main.memories n
        WHERE n.machine = memories.machine AND n.slot = memories.slot AND n.gone_at IS NULL)
    WHERE gone_at IS NULL AND EXISTS (
        SELECT 1 FROM main.memories n
        WHERE n.machine = memories.machine AND n.slot = memories.slot AND n.gone_at IS NULL
        AND (n.made_at, n.uid) > (memories.made_at, memories.uid))
"""


@dataclass
class _Job:
    """One job of both, by its number here and there, and what numbers of there are here."""

    db: Both
    here: int
    came: int
    changed: bool = False
    both: bool = False
    gained: Counter[str] = field(default_factory=Counter)
    revisions: dict[int, int] = field(default_factory=dict)
    plans: dict[int, int] = field(default_factory=dict)
    coupons: dict[int, int] = field(default_factory=dict)
    numbers: dict[int, int] = field(default_factory=dict)

    def merge(self) -> bool:
        """Everything of the job; whether anything came of it."""
        self._plans()
        self._coupons()
        self._trials()
        for table, columns in _OF_A_VERSION:
            for uid, revision, *rest in self._missing(table, ("revision", *columns)):
                at = self.revisions.get(revision, revision)
                self._add(table, ("uid", "revision", *columns), (uid, at, *rest))
        self._attachments()
        self._one_gone_is_gone()
        self._ticks()
        self._head()
        return self.changed

    def _rows(self, book: str, table: str, columns: Iterable[str], order: str) -> list[tuple[Any, ...]]:
        asked = f"SELECT id, {', '.join(columns)} FROM {book}.{table} WHERE job_id = ? ORDER BY {order}"
        return self.db.rows(asked, (self.here if book == "main" else self.came,))

    def _add(self, table: str, columns: Iterable[str], values: Iterable[Any]) -> int:
        """A row of this job; its number."""
        named, given = ("job_id", *columns), (self.here, *values)
        marks = ", ".join("?" * len(given))
        self.changed = True
        self.gained[table] += 1
        added = f"INSERT INTO main.{table} ({', '.join(named)}) VALUES ({marks}) RETURNING id"
        return int(self.db.first(added, given))

    def _missing(self, table: str, columns: tuple[str, ...]) -> list[tuple[Any, ...]]:
        """Rows of there whose uid is nowhere here, and that this job has not otherwise: the uid and the
        columns.
        """
        told_by = _TOLD_BY.get(table)
        alike = (
            f" AND NOT EXISTS (SELECT 1 FROM main.{table} h WHERE h.job_id = :here"
            f" AND h.made_at = c.made_at AND h.{told_by} = c.{told_by})"
        )
        asked = (
            f"SELECT uid, {', '.join(columns)} FROM came.{table} c"
            f" WHERE job_id = :came AND NOT EXISTS (SELECT 1 FROM main.{table} k WHERE k.uid = c.uid)"
            f"{alike if told_by else ''} ORDER BY id"
        )
        return self.db.rows(asked, {"came": self.came, "here": self.here})

    def _plans(self) -> None:
        mine = self._rows("main", "plans", PLAN_COLUMNS, "revision")
        theirs = self._rows("came", "plans", PLAN_COLUMNS, "revision")
        known = {of_plan(row): (row[0], row[1]) for row in mine}
        last_of_both = newest(list(map(of_plan, mine)), list(map(of_plan, theirs)))
        self.both = bool(mine and theirs) and (
            of_plan(mine[-1]) not in map(of_plan, theirs) and of_plan(theirs[-1]) not in known
        )
        number, last = (mine[-1][1], of_plan(mine[-1])) if mine else (0, None)
        for row in theirs:
            told = of_plan(row)
            if told not in known:
                number, last = number + 1, told
                known[told] = (self._add("plans", PLAN_COLUMNS, (number, *row[2:])), number)
            self.plans[row[0]], self.revisions[row[1]] = known[told]
        if last_of_both is not None and last != last_of_both:
            top = next(row for row in (*mine, *theirs) if of_plan(row) == last_of_both)
            again = dict(zip(PLAN_COLUMNS, top[1:], strict=True))
            again |= {"revision": number + 1, "recipe": None, "recipe_key": None}
            again |= {"recipe_why": "", "recipe_at": None}
            self._add("plans", PLAN_COLUMNS, again.values())

    def _coupons(self) -> None:
        columns = ("uid", "plan_id", "number", "machine", "kit", "left_out", "made_at")
        mine = {row[1]: row for row in self._rows("main", "coupons", columns, "number")}
        numbers = {row[3] for row in mine.values()}
        alike = {(row[3], row[-1]): uid for uid, row in mine.items()}
        for came_id, uid, plan_id, number, *rest in self._rows("came", "coupons", columns, "number"):
            twin = alike.get((number, rest[-1]))
            if uid not in mine and twin and self._says_the_same(mine[twin][0], came_id):
                uid = twin  # of a file without uids
            if uid in mine:
                here_id, at = mine[uid][0], mine[uid][3]
                self._readings(here_id, came_id)
            elif self.db.first("SELECT 1 FROM main.coupons WHERE uid = ?", (uid,)):
                continue  # another job's, here
            else:
                at = number if number not in numbers else max(numbers) + 1
                numbers.add(at)
                here_id = self._add("coupons", columns, (uid, self.plans[plan_id], at, *rest))
                named = ", ".join(READING_COLUMNS)
                self.db.change(
                    f"INSERT INTO main.readings (coupon_id, {named}) SELECT ?, {named} FROM came.readings"
                    " WHERE coupon_id = ? ORDER BY revision",
                    (here_id, came_id),
                )
            self.coupons[came_id], self.numbers[number] = here_id, at

    def _says_the_same(self, here_id: int, came_id: int) -> bool:
        """Whether two coupons were first read alike."""
        first = "SELECT document FROM {}.readings WHERE coupon_id = ? ORDER BY revision LIMIT 1"
        found = (
            self.db.first(first.format(book), (number,))
            for book, number in (("main", here_id), ("came", came_id))
        )
        mine, theirs = (plain(text) if text is not None else "" for text in found)
        return mine == theirs

    def _readings(self, here_id: int, came_id: int) -> None:
        """Corrections that one of both made; what was typed last stands last."""
        named = ", ".join(READING_COLUMNS)

        def of(book: str, coupon: int) -> list[tuple[Any, ...]]:
            asked = f"SELECT {named} FROM {book}.readings WHERE coupon_id = ? ORDER BY revision"
            return self.db.rows(asked, (coupon,))

        mine = of("main", here_id)
        theirs = of("came", came_id)
        known = {of_reading(row) for row in mine}
        fresh = [row for row in theirs if of_reading(row) not in known]
        last_of_both = newest(list(map(of_reading, mine)), list(map(of_reading, theirs)))
        if last_of_both is not None and of_reading([*mine, *fresh][-1]) != last_of_both:
            fresh.append(next(row for row in (*mine, *theirs) if of_reading(row) == last_of_both))
        marks = ", ".join("?" * (1 + len(READING_COLUMNS)))
        for revision, row in enumerate(fresh, len(mine) + 1):
            self.db.change(
                f"INSERT INTO main.readings (coupon_id, {named}) VALUES ({marks})",
                (here_id, revision, *row[1:]),
            )
            self.changed = True
            self.gained["readings"] += 1

    def _attachments(self) -> None:
        columns = (
            "coupon_id", "part_run_id", "kind", "media_type", "content", "document", "made_at", "put_away_at"
        )  # fmt: skip
        both = (
            "SELECT c.id, h.id FROM came.part_runs c JOIN main.part_runs h ON h.uid = c.uid"
            " WHERE c.job_id = ?"
        )
        runs = dict(self.db.rows(both, (self.came,)))
        for uid, coupon, run, *rest in self._missing("attachments", columns):
            whose = (self.coupons.get(coupon), runs.get(run))
            self._add("attachments", ("uid", *columns), (uid, *whose, *rest))

    def _trials(self) -> None:
        """Series and blind comparisons; in one of both, coupons and answers of both."""
        columns = ("machine", "kind", "document", "made_at")
        for uid, machine, kind, document, made_at in self._missing("trials", columns):
            renamed = json.dumps(self._renamed(json.loads(document)))
            self._add("trials", ("uid", *columns), (uid, machine, kind, renamed, made_at))
        both = self.db.rows(
            "SELECT h.id, h.document, c.document FROM main.trials h JOIN came.trials c ON c.uid = h.uid"
            " WHERE h.job_id = ? AND c.job_id = ?",
            (self.here, self.came),
        )
        for number, mine, theirs in both:
            stands = json.loads(plain(mine))
            if not isinstance(stands, dict):
                continue  # damaged here
            document = json.dumps(of_both(stands, self._renamed(json.loads(theirs))), sort_keys=True)
            if document != plain(mine):
                self.db.change("UPDATE main.trials SET document = ? WHERE id = ?", (document, number))
                self.changed = True

    def _renamed(self, document: dict[str, Any]) -> dict[str, Any]:
        """A trial's document with the versions and coupons by their numbers here."""
        if "revision" in document:
            document["revision"] = self.revisions.get(document["revision"], document["revision"])
        if "revisions" in document:
            document["revisions"] = [self.revisions.get(each, each) for each in document["revisions"]]
        for run in document.get("runs", ()):
            run["coupons"] = [self.numbers.get(each, each) for each in run.get("coupons", ())]
        return document

    def _one_gone_is_gone(self) -> None:
        """A memory that was cleared in one of both is cleared."""
        gone = self.db.change(
            "UPDATE main.memories"
            " SET gone_at = (SELECT c.gone_at FROM came.memories c WHERE c.uid = memories.uid)"
            " WHERE job_id = ? AND gone_at IS NULL AND uid IN"
            " (SELECT uid FROM came.memories WHERE gone_at IS NOT NULL)",
            (self.here,),
        )
        self.changed |= gone > 0

    def _ticks(self) -> None:
        added = self.db.change(
            "INSERT INTO main.ticks (job_id, step, done_at) SELECT ?, step, done_at FROM came.ticks"
            " WHERE job_id = ? AND step NOT IN (SELECT step FROM main.ticks WHERE job_id = ?)",
            (self.here, self.came, self.here),
        )
        self.changed |= added > 0

    def _head(self) -> None:
        """Title, welder and whether it is archived, from where the job was changed or archived last."""
        moment = "CASE WHEN put_away_at > changed_at THEN put_away_at ELSE changed_at END"
        newer = self.db.change(
            "UPDATE main.jobs SET (title, welder_id, put_away_at, changed_at) ="
            " (SELECT c.title, (SELECT h.id FROM main.welders h JOIN came.welders w ON w.name = h.name"
            " WHERE w.id = c.welder_id), c.put_away_at,"
            " CASE WHEN c.changed_at > jobs.changed_at THEN c.changed_at ELSE jobs.changed_at END"
            " FROM came.jobs c WHERE c.id = ?)"
            f" WHERE id = ? AND {moment} < (SELECT {moment} FROM came.jobs WHERE id = ?)",
            (self.came, self.here, self.came),
        )
        self.changed |= newer > 0
