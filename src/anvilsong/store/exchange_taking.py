"""The staged rows into the book, in one transaction. Rows keep their order and get numbers behind those of
the book.
"""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from pathlib import Path

from anvilsong.core.said import Words, joined
from anvilsong.core.words import sentence
from anvilsong.store.exchange_both import Both, both_logbooks
from anvilsong.store.exchange_merging import Together, merge_jobs
from anvilsong.store.narrowing import FOUND_BY
from anvilsong.store.places import Place


@dataclass
class Imported:
    """What came in, and what was here already and stayed as it is."""

    jobs: int = 0
    machines: int = 0
    kits: int = 0
    welders: int = 0
    here_already: int = 0
    merged: int = 0
    """Jobs that stood in both, and got from the file what they had not."""
    titles: tuple[str, ...] = ()
    """Those of the new jobs."""
    names: tuple[str, ...] = ()
    """Those of new machines, kits and welders."""
    together: tuple[Together, ...] = ()
    is_stored: bool = True
    """Whether it came in; otherwise this is what would come in."""

    @property
    def mark(self) -> str:
        """The same for the same outcome."""
        whole = repr((self.jobs, self.titles, self.names, self.together, self.here_already))
        return hashlib.sha256(whole.encode(errors="replace")).hexdigest()[:16]

    @property
    def said(self) -> Words:
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
            sentence("store.here_already_stay_they", here_already=self.here_already, were=were)
            if self.here_already
            else ""
        )
        more = sentence("store.jobs_put_together", merged=self.merged) if self.merged else ""
        return joined(", ".join(parts), more, stayed)


MERGED_FROM = 4  # the version of exports


def _of_shop(table: str, columns: str, told_by: str = "name") -> str:
    """Rows of the shop whose names are not in the book."""
    return (
        f"INSERT INTO {table} ({columns}) SELECT {columns} FROM came.{table}"
        f" WHERE {told_by} NOT IN (SELECT {told_by} FROM main.{table}) ORDER BY id"
    )


def _not_here(table: str, columns: str, same: tuple[str, ...]) -> str:
    """Rows that the book has not, told by some columns."""
    alike = " AND ".join(f"h.{column} = c.{column}" for column in same)
    return (
        f"INSERT INTO {table} ({columns}) SELECT {columns} FROM came.{table} c"
        f" WHERE NOT EXISTS (SELECT 1 FROM main.{table} h WHERE {alike}) ORDER BY id"
    )


def _own_uid(table: str) -> str:
    """The uid that a row came with, or a fresh one where the book has it."""
    return f"CASE WHEN uid IN (SELECT uid FROM main.{table}) THEN lower(hex(randomblob(16))) ELSE uid END"


def _of_jobs(table: str, columns: str, **moved: str) -> str:
    """Rows with uids that belong to the jobs that are taken. ``moved``: columns that give numbers of other
    rows, by the tables of those; they move with them.
    """
    into = ", ".join(("uid", "job_id", *moved, columns))
    numbers = "".join(f"{column} + :{table}, " for column, table in moved.items())
    return (
        f"INSERT INTO {table} ({into}) SELECT {_own_uid(table)}, job_id + :jobs, {numbers}{columns}"
        f" FROM came.{table} WHERE job_id IN (SELECT id FROM taken) ORDER BY id"
    )


_SHOP = (
    _of_shop("machines", "name, document, made_at, put_away_at"),
    _of_shop("kits", "name, document, put_away_at"),
    _of_shop("welders", "name, school, note, put_away_at"),
)
_NEW_NAMES = " UNION ALL ".join(
    f"SELECT name FROM came.{table} WHERE name NOT IN (SELECT name FROM main.{table})"
    for table in ("machines", "kits", "welders")
)
_BESIDE = (
    _not_here("gauge_readings", "cylinder, bar, note, made_at", ("cylinder", "made_at", "bar")),
    _not_here("fault_trials", "sign, cause, helped, made_at", ("sign", "cause", "made_at")),
    (
        "INSERT INTO trials (uid, machine, kind, document, made_at)"
        " SELECT uid, machine, kind, document, made_at FROM came.trials"
        " WHERE job_id IS NULL AND uid NOT IN (SELECT uid FROM main.trials) ORDER BY id"
    ),
    (
        "INSERT INTO practice (uid, welder, skill, item, score, document, made_at)"
        " SELECT uid, welder, skill, item, score, document, made_at FROM came.practice"
        " WHERE uid NOT IN (SELECT uid FROM main.practice) ORDER BY id"
    ),
    _of_shop("recipes", "name, tags, favourite, retired_at", "lower(name)"),
)
_CALIBRATIONS = (
    "INSERT INTO calibrations (machine, kit, is_on, document, members, made_at)"
    " SELECT machine, kit, is_on, document, members, made_at FROM came.calibrations c"
    " WHERE EXISTS (SELECT 1 FROM main.coupons r WHERE r.machine = c.machine AND r.kit = c.kit)"
    " AND NOT EXISTS (SELECT 1 FROM main.calibrations h WHERE h.machine = c.machine AND h.kit = c.kit)"
    " ORDER BY id"
)
_COMING = "SELECT j.id FROM came.jobs j WHERE j.uid NOT IN (SELECT uid FROM main.jobs)"
_PLAN_COLUMNS = (
    "revision, origin, words, job_document, machine_document, settings, recipe, recipe_key, recipe_why,"
    " recipe_at, from_recipe, plan, made_at"
)
_FOUND_BY = ", ".join(FOUND_BY)
_JOBS = (
    (
        f"INSERT INTO jobs (id, uid, title, welder_id, made_at, changed_at, put_away_at, {_FOUND_BY})"
        " SELECT j.id + :jobs, j.uid, j.title,"
        " (SELECT w.id FROM main.welders w JOIN came.welders c ON c.name = w.name WHERE c.id = j.welder_id),"
        f" j.made_at, j.changed_at, j.put_away_at, {_FOUND_BY} FROM came.jobs j"
        " WHERE j.id IN (SELECT id FROM taken)"
    ),
    (
        f"INSERT INTO plans (id, job_id, {_PLAN_COLUMNS}) SELECT id + :plans, job_id + :jobs, {_PLAN_COLUMNS}"
        " FROM came.plans WHERE job_id IN (SELECT id FROM taken)"
    ),
    (
        "INSERT INTO coupons (id, uid, job_id, plan_id, number, machine, kit, left_out, made_at)"
        f" SELECT id + :coupons, {_own_uid('coupons')}, job_id + :jobs, plan_id + :plans, number, machine,"
        " kit, left_out, made_at FROM came.coupons WHERE job_id IN (SELECT id FROM taken)"
    ),
    (
        "INSERT INTO readings (coupon_id, revision, document, verdict, change, kind, typed, made_at)"
        " SELECT r.coupon_id + :coupons, r.revision, r.document, r.verdict, r.change, r.kind, r.typed,"
        " r.made_at"
        " FROM came.readings r JOIN came.coupons c ON c.id = r.coupon_id"
        " WHERE c.job_id IN (SELECT id FROM taken)"
    ),
    _of_jobs("part_runs", "revision, document, seconds, gas_l, rod_mm, cost, made_at", id="part_runs"),
    _of_jobs(
        "attachments",
        "kind, media_type, content, document, made_at, put_away_at",
        coupon_id="coupons",
        part_run_id="part_runs",
    ),
    _of_jobs("heat_runs", "revision, part, result, made_at"),
    _of_jobs("trials", "machine, kind, document, made_at"),
    _of_jobs("memories", "revision, machine, slot, label, gone_at, panel, made_at"),
    (
        "INSERT INTO ticks (job_id, step, done_at) SELECT job_id + :jobs, step, done_at FROM came.ticks"
        " WHERE job_id IN (SELECT id FROM taken)"
    ),
    "INSERT INTO words (rowid, text) SELECT rowid + :jobs, text FROM came.words"
    " WHERE rowid IN (SELECT id FROM taken)",
    "INSERT INTO terms (term) SELECT term FROM came.terms WHERE term NOT IN (SELECT term FROM main.terms)",
)


def take_over(
    place: Place, aside: Path, version: int, only_look: bool = False, as_seen: str | None = None
) -> Imported:
    """The staged rows into the book, in one transaction. What stands in both is put together where the export
    tells every version by its moment and every coupon by its uid, as those of today do.

    Parameters
    ----------
    only_look : say what would come of it; nothing is written
    as_seen : the mark of what somebody saw would come of it; where something else would, nothing is written
    """
    with both_logbooks(place, aside) as here:
        came = _taken(here, version)
        came.is_stored = not only_look and as_seen in (None, came.mark)
        if not came.is_stored:
            here.undo()
        return came


def _taken(here: Both, version: int) -> Imported:
    names = tuple(row[0] for row in here.rows(_NEW_NAMES))
    machines, kits, welders = (here.change(statement) for statement in _SHOP)
    for statement in _BESIDE:
        here.change(statement)
    numbers = {
        table: here.first(f"SELECT coalesce(max(id), 0) FROM main.{table}")
        for table in ("jobs", "plans", "coupons", "part_runs")
    }
    here.change("CREATE TEMP TABLE taken (id INTEGER PRIMARY KEY)")
    here.change(f"INSERT INTO taken {_COMING}")
    titles = here.rows("SELECT title FROM came.jobs WHERE id IN (SELECT id FROM taken) ORDER BY id")
    whole = here.first("SELECT count(*) FROM came.jobs")
    for statement in _JOBS:
        here.change(statement, numbers)
    here.number_on(numbers)
    merged = merge_jobs(here) if version >= MERGED_FROM else []
    here.change(_CALIBRATIONS)
    return Imported(
        jobs=len(titles),
        machines=machines,
        kits=kits,
        welders=welders,
        here_already=whole - len(titles) - len(merged),
        merged=len(merged),
        titles=tuple(row[0] for row in titles),
        names=names,
        together=tuple(merged),
    )
