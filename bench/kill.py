"""50 kills (SIGKILL) under load, also during the first start and during a migration: nothing acknowledged may
be lost.

Every coupon and job whose answer came back must be there after the next start, every start must end well,
and the database must
be sound. Also how long a polite stop (SIGTERM) takes while clients hold connections half open. Exit 1 on
any loss.
"""

from __future__ import annotations

import random
import shutil
import socket
import sqlite3
import sys
import tempfile
import threading
import time
from contextlib import closing
from pathlib import Path

import httpx

from _serve import free_port, start, wait_up

UNDER_LOAD, FIRST_STARTS, MIGRATIONS = 30, 12, 8
COUPON = {
    "bead_width_mm": "6",
    "border_left_mm": "1",
    "border_right_mm": "1",
    "length_mm": "100",
    "seconds": "28",
}
JOB = {"a_alloy": "6061", "a_thickness": "3 mm", "joint": "butt"}
OLD_SCHEMA = [
    "DROP INDEX ix_jobs_uid",
    "DROP INDEX ix_coupons_uid",
    "ALTER TABLE jobs DROP COLUMN uid",
    "ALTER TABLE coupons DROP COLUMN uid",
    "ALTER TABLE readings DROP COLUMN typed",
    *(f"ALTER TABLE {table} DROP COLUMN put_away_at" for table in ("machines", "kits", "welders", "jobs")),
    "UPDATE alembic_version SET version_num = '0002'",
]


def write_until_dead(address: str, mark: str, stored: list[str]) -> None:
    """Store jobs and coupons one after another, remembering each that was acknowledged."""
    with httpx.Client(base_url=address, timeout=10) as client:
        for number in range(10_000):
            word = f"{mark}x{number}"
            try:
                if number % 3 == 0:
                    answer = client.post("/jobs/new", data=JOB | {"title": word})
                else:
                    answer = client.post("/jobs/8/coupon", data=COUPON | {"note": word})
            except httpx.HTTPError:
                return
            if answer.status_code == 303:
                stored.append(word)


def found(data: Path) -> set[str]:
    """Every mark that the database holds; it must be sound."""
    with closing(sqlite3.connect(data)) as connection:
        assert connection.execute("PRAGMA integrity_check").fetchone() == ("ok",)
        titles = {title for (title,) in connection.execute("SELECT title FROM jobs")}
        notes = {
            note for (note,) in connection.execute("SELECT json_extract(document, '$.note') FROM readings")
        }
        orphans = connection.execute(
            "SELECT count(*) FROM jobs WHERE id NOT IN (SELECT job_id FROM plans)"
        ).fetchone()[0]
        assert orphans == 0, "a job without a plan: half a write"
    return titles | notes


def under_load(folder: Path, chance: random.Random) -> tuple[int, int, int]:
    """Kills while four people write: acknowledged, lost, failed starts."""
    data, stored, failed = folder / "load.sqlite", list[str](), 0
    for kill in range(UNDER_LOAD):
        port = free_port()
        server = start(data, port)
        if not wait_up(f"http://127.0.0.1:{port}"):
            failed += 1
            server.kill()
            continue
        writers = [
            threading.Thread(
                target=write_until_dead, args=(f"http://127.0.0.1:{port}", f"k{kill}w{n}", stored)
            )
            for n in range(4)
        ]
        for writer in writers:
            writer.start()
        time.sleep(chance.uniform(0.1, 0.8))
        server.kill()
        server.wait()
        for writer in writers:
            writer.join()
    return len(stored), len(set(stored) - found(data)), failed


def during_start(folder: Path, chance: random.Random, old: Path | None, times: int) -> int:
    """Kills during a first start, or during the migration of an old database; how many could not start
    afterwards.
    """
    failed = 0
    for number in range(times):
        data = folder / f"start{number}.sqlite"
        if old is not None:
            shutil.copy(old, data)
        for _ in range(2):
            server = start(data, free_port())
            time.sleep(chance.uniform(0.3, 2.5))
            server.kill()
            server.wait()
        port = free_port()
        server = start(data, port)
        well = wait_up(f"http://127.0.0.1:{port}")
        jobs = len(found(data)) if well else 0
        failed += not (well and jobs >= 10)
        server.kill()
        server.wait()
    return failed


def polite_stop(folder: Path) -> float:
    """Seconds a SIGTERM takes while clients hold half-sent requests and open connections."""
    port = free_port()
    server = start(folder / "stop.sqlite", port)
    wait_up(f"http://127.0.0.1:{port}")
    held = []
    for half in (
        b"POST /jobs/new HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 100\r\n\r\nabc",
        b"GET /book HTT",
        b"",
    ):
        client = socket.create_connection(("127.0.0.1", port))
        client.sendall(half)
        held.append(client)
    began = time.monotonic()
    server.terminate()
    server.wait(30)
    return time.monotonic() - began


def main() -> int:
    chance = random.Random(1)
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        stored, lost, dead = under_load(folder, chance)
        old = folder / "old.sqlite"
        shutil.copy(folder / "load.sqlite", old)
        with closing(sqlite3.connect(old)) as connection:
            for statement in OLD_SCHEMA:
                connection.execute(statement)
            connection.commit()
        first = during_start(folder, chance, None, FIRST_STARTS)
        for left in folder.glob("start*"):
            left.unlink()
        migrated = during_start(folder, chance, old, MIGRATIONS)
        stop = polite_stop(folder)
    print(
        f"kills under load: {UNDER_LOAD} kills, {stored} acknowledged writes, {lost} lost, {dead} "
        "starts failed"
    )
    print(f"kills in the first start: {FIRST_STARTS} times two, {first} could not start afterwards")
    print(f"kills in a migration: {MIGRATIONS} times two, {migrated} could not start afterwards")
    print(f"polite stop with clients hanging on: {stop:.1f} s (limit 5.0 s)")
    return int(bool(lost or dead or first or migrated or stop > 5.0))


if __name__ == "__main__":
    sys.exit(main())
