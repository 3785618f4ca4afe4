"""The staged rows into the book, in one transaction. Rows keep their order and get numbers behind those of
the book.
"""

from __future__ import annotations

import os
import sqlite3
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path

from anvilsong.core.said import Words
from anvilsong.core.words import sentence
from anvilsong.store.database import BUSY_S


# Rows keep their order and get numbers behind those of the book.
@dataclass
class Imported:
    """What came in, and what was here already and stayed as it is."""

    jobs: int = 0
    machines: int = 0
    kits: int = 0
    welders: int = 0
    here_already: int = 0

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
        return ", ".join(parts) + stayed


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
_TRIALS = (
    "INSERT INTO fault_trials (sign, cause, helped, made_at) SELECT sign, cause, helped, made_at FROM came.fault_trials c"
    " WHERE NOT EXISTS (SELECT 1 FROM main.fault_trials h WHERE h.sign = c.sign AND h.cause = c.cause AND h.made_at = c.made_at) ORDER BY id"
)
_MACHINE_TRIALS = (
    "INSERT INTO trials (uid, machine, kind, document, made_at) SELECT uid, machine, kind, document, made_at FROM came.trials"
    " WHERE job_id IS NULL AND uid NOT IN (SELECT uid FROM main.trials) ORDER BY id"
)
_CALIBRATIONS = (
    "INSERT INTO calibrations (machine, kit, is_on, document, members, made_at)"
    " SELECT machine, kit, is_on, document, members, made_at FROM came.calibrations c"
    " WHERE EXISTS (SELECT 1 FROM main.coupons r WHERE r.machine = c.machine AND r.kit = c.kit)"
    " AND NOT EXISTS (SELECT 1 FROM main.calibrations h WHERE h.machine = c.machine AND h.kit = c.kit) ORDER BY id"
)
_COMING = "SELECT j.id FROM came.jobs j WHERE j.uid NOT IN (SELECT uid FROM main.jobs)"
_JOBS = (
    "INSERT INTO jobs (id, uid, title, welder_id, made_at, changed_at, put_away_at)"
    " SELECT j.id + :jobs, j.uid, j.title, (SELECT w.id FROM main.welders w JOIN came.welders c ON c.name = w.name WHERE c.id = j.welder_id),"
    " j.made_at, j.changed_at, j.put_away_at FROM came.jobs j WHERE j.id IN (SELECT id FROM taken)",
    "INSERT INTO plans (id, job_id, revision, origin, words, job_document, machine_document, settings, recipe, plan, made_at)"
    " SELECT id + :plans, job_id + :jobs, revision, origin, words, job_document, machine_document, settings, recipe, plan, made_at"
    " FROM came.plans WHERE job_id IN (SELECT id FROM taken)",
    "INSERT INTO coupons (id, uid, job_id, plan_id, number, machine, kit, left_out, made_at)"
    " SELECT id + :coupons, CASE WHEN uid IN (SELECT uid FROM main.coupons) THEN lower(hex(randomblob(16))) ELSE uid END,"
    " job_id + :jobs, plan_id + :plans, number, machine, kit, left_out, made_at FROM came.coupons WHERE job_id IN (SELECT id FROM taken)",
    "INSERT INTO readings (coupon_id, revision, document, verdict, change, typed, made_at)"
    " SELECT r.coupon_id + :coupons, r.revision, r.document, r.verdict, r.change, r.typed, r.made_at"
    " FROM came.readings r JOIN came.coupons c ON c.id = r.coupon_id WHERE c.job_id IN (SELECT id FROM taken)",
    "INSERT INTO attachments (uid, job_id, coupon_id, kind, media_type, content, document, made_at, put_away_at)"
    " SELECT CASE WHEN uid IN (SELECT uid FROM main.attachments) THEN lower(hex(randomblob(16))) ELSE uid END, job_id + :jobs,"
    " coupon_id + :coupons, kind, media_type, content, document, made_at, put_away_at"
    " FROM came.attachments WHERE job_id IN (SELECT id FROM taken) ORDER BY id",
    "INSERT INTO heat_runs (uid, job_id, revision, part, result, made_at)"
    " SELECT CASE WHEN uid IN (SELECT uid FROM main.heat_runs) THEN lower(hex(randomblob(16))) ELSE uid END, job_id + :jobs,"
    " revision, part, result, made_at FROM came.heat_runs WHERE job_id IN (SELECT id FROM taken) ORDER BY id",
    "INSERT INTO trials (uid, job_id, machine, kind, document, made_at)"
    " SELECT CASE WHEN uid IN (SELECT uid FROM main.trials) THEN lower(hex(randomblob(16))) ELSE uid END, job_id + :jobs,"
    " machine, kind, document, made_at FROM came.trials WHERE job_id IN (SELECT id FROM taken) ORDER BY id",
    (
        "INSERT INTO ticks (job_id, step, done_at) SELECT job_id + :jobs, step, done_at FROM "
        "came.ticks WHERE job_id IN (SELECT id FROM taken)"
    ),
    (
        "INSERT INTO words (rowid, text) SELECT rowid + :jobs, text FROM came.words WHERE rowid IN "
        "(SELECT id FROM taken)"
    ),
)


def take_over(data: Path, aside: Path) -> Imported:
    """The staged rows into the book, in one transaction."""
    with closing(sqlite3.connect(data, timeout=BUSY_S, isolation_level=None)) as here:
        here.execute("PRAGMA foreign_keys = ON")
        here.execute("ATTACH ? AS came", (os.fspath(aside),))
        here.execute("CREATE TEMP TABLE taken (id INTEGER PRIMARY KEY)")
        here.execute("BEGIN IMMEDIATE")
        try:
            machines, kits, welders = (here.execute(statement).rowcount for statement in _SHOP)
            here.execute(_GAUGES)
            here.execute(_TRIALS)
            here.execute(_MACHINE_TRIALS)
            numbers = {
                table: here.execute(f"SELECT coalesce(max(id), 0) FROM main.{table}").fetchone()[0]
                for table in ("jobs", "plans", "coupons")
            }
            here.execute(f"INSERT INTO taken {_COMING}")
            jobs = here.execute("SELECT count(*) FROM taken").fetchone()[0]
            whole = here.execute("SELECT count(*) FROM came.jobs").fetchone()[0]
            for statement in _JOBS:
                here.execute(statement, numbers)
            here.execute(_CALIBRATIONS)
            here.execute("COMMIT")
        except BaseException:
            if here.in_transaction:
                here.execute("ROLLBACK")
            raise
        return Imported(jobs, machines, kits, welders, whole - jobs)
