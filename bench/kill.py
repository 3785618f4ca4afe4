"""Kills (SIGKILL) under load, in restores and imports, in the first start and in a migration: nothing that
was acknowledged may be lost.

Every job, coupon, photograph and part whose answer came back must be there after the next start, or, where
backups are restored at the same time, in a file that a restore kept; every start must end well, the database
must be sound, and nothing that killed work left may lie beside it. Also how long a polite stop (SIGTERM)
takes while clients hold connections half open, and whether it says more than it must. Exit 1 on any loss.
"""

from __future__ import annotations

import io
import random
import re
import shutil
import socket
import sqlite3
import sys
import tempfile
import threading
import time
from collections import Counter
from collections.abc import Callable
from contextlib import closing, suppress
from pathlib import Path

import httpx
import numpy as np
from PIL import Image

from _serve import free_port, start, wait_up
from anvilsong.store.backup import backup_to
from anvilsong.store.database import open_database, sessions
from anvilsong.store.databases import make_engine
from anvilsong.store.export import export_to
from anvilsong.store.migrating import step_back

UNDER_LOAD, RESTORES, FIRST_STARTS, MIGRATIONS = 30, 16, 12, 8
COUPON = {
    "bead_width_mm": "6",
    "border_left_mm": "1",
    "border_right_mm": "1",
    "length_mm": "100",
    "seconds": "28",
}
JOB = {"a_alloy": "6061", "a_thickness": "3 mm", "joint": "butt"}
PART = {
    "thickness_mm": "3 mm", "start": "waits", "cell_mm": "2.5",
    "s0_does": "metal", "s0_form": "rectangle", "s0_width_mm": "120", "s0_height_mm": "60",
    "r0_x_mm": "0", "r0_y_mm": "25", "r0_to_x_mm": "120", "r0_to_y_mm": "25",
}  # fmt: skip

Writer = Callable[[httpx.Client, str], "tuple[str, str] | None"]


def jobs_and_coupons(client: httpx.Client, word: str) -> tuple[str, str] | None:
    """A job or a coupon: what it is and the word it carries."""
    if word.endswith(("0", "5")):
        answer = client.post("/jobs/new", data=JOB | {"title": word})
    else:
        answer = client.post("/jobs/8/coupon", data=COUPON | {"note": word})
    return ("word", word) if answer.status_code == 303 else None


def photographs(client: httpx.Client, word: str) -> tuple[str, str] | None:
    """A photograph, which is then measured."""
    noise = np.random.default_rng(abs(hash(word))).integers(0, 255, (240, 320, 3), dtype=np.uint8)
    file = io.BytesIO()
    Image.fromarray(noise).save(file, "PNG")
    answer = client.post("/jobs/8/photographs", files={"file": ("a.png", file.getvalue())})
    return ("photograph", answer.headers["location"].rsplit("/", 1)[1]) if answer.status_code == 303 else None


def parts(client: httpx.Client, word: str) -> tuple[str, str] | None:
    """A part, whose welding is under way when the server is killed."""
    answer = client.post("/jobs/8/part", data=PART | {"start_c": str(20 + len(word))})
    if answer.status_code != 303:
        time.sleep(0.1)
        return None
    return "part", answer.headers["location"].rpartition("=")[2]


def what_a_shop_keeps(client: httpx.Client, word: str) -> tuple[str, str] | None:
    """A weld on a part, a memory of a machine, or a coupon in a table; each carries the word."""
    number = int(word.rpartition("x")[2])
    if number % 3 == 0:
        answer = client.post("/jobs/8/runs", data={"serial": word, "seconds": "40"})
    elif number % 3 == 1:
        answer = client.post("/jobs/8/store", data={"slot": str(1 + number % 9), "label": word})
    else:
        table = f'job,bead width [mm],note\n"Survey raft rail, 1/8 in 6061",6.1,{word}\n'
        looked = client.post("/book/sheet", files={"file": ("t.csv", table.encode())})
        shown = dict(re.findall(r'name="(waiting|counted)" value="([^"]*)"', looked.text))
        answer = client.post("/book/sheet/take", data=shown)
    return ("word", word) if answer.status_code == 303 else None


def write_until_dead(address: str, mark: str, writer: Writer, stored: list[tuple[str, str]]) -> None:
    """Store one thing after another, remembering each that was acknowledged."""
    with httpx.Client(base_url=address, timeout=30) as client, suppress(httpx.HTTPError):
        for number in range(10_000):
            if acknowledged := writer(client, f"{mark}x{number}"):
                stored.append(acknowledged)


def found(data: Path) -> set[tuple[str, str]]:
    """Every mark that a database holds; it must be sound."""
    with closing(sqlite3.connect(data)) as connection:
        assert connection.execute("PRAGMA integrity_check").fetchone() == ("ok",)
        orphans = connection.execute(
            "SELECT count(*) FROM jobs WHERE id NOT IN (SELECT job_id FROM plans)"
        ).fetchone()[0]
        assert orphans == 0, "a job without a plan: half a write"
        unsaid = connection.execute("SELECT count(*) FROM jobs WHERE state = '' OR joint = ''").fetchone()[0]
        assert unsaid == 0, "a job that no list finds: half a write"
        asked = {
            "word": "SELECT title FROM jobs UNION SELECT json_extract(document, '$.note') FROM readings"
            " UNION SELECT json_extract(document, '$.serial') FROM part_runs"
            " UNION SELECT label FROM memories",
            "photograph": "SELECT id FROM attachments",
            "part": "SELECT id FROM heat_runs",
        }
        return {(kind, str(row[0])) for kind, sql in asked.items() for row in connection.execute(sql)}


def left_behind(data: Path) -> list[str]:
    """What killed work left beside a book."""
    return [each.name for each in data.parent.iterdir() if re.match(rf"\.{data.name}\.\d", each.name)]


def killed_among(
    data: Path,
    writers: list[Writer],
    chance: random.Random,
    stored: list[tuple[str, str]],
    mark: str,
    longest: float,
) -> bool:
    """One server, started, written to by several and killed; whether it had started well."""
    port = free_port()
    server = start(data, port)
    if not wait_up(f"http://127.0.0.1:{port}"):
        server.kill()
        return False
    given = (f"http://127.0.0.1:{port}",)
    threads = [
        threading.Thread(target=write_until_dead, args=(*given, f"{mark}w{number}", writer, stored))
        for number, writer in enumerate(writers)
    ]
    for thread in threads:
        thread.start()
    time.sleep(chance.uniform(0.1, longest))
    server.kill()
    server.wait()
    for thread in threads:
        thread.join()
    return True


def under_load(folder: Path, chance: random.Random) -> tuple[int, int, int, int]:
    """Kills while people write, send photographs and weld parts: acknowledged, lost, failed starts, and files
    that lie about after the last start.
    """
    data, stored, failed = folder / "load.sqlite", list[tuple[str, str]](), 0
    writers: list[Writer] = [jobs_and_coupons, what_a_shop_keeps, photographs, parts]
    for kill in range(UNDER_LOAD):
        failed += not killed_among(data, writers, chance, stored, f"k{kill}", 6.0)
    open_database(data).dispose()
    of_each = Counter(kind for kind, _ in stored)
    print("  of them " + ", ".join(f"{count} {kind}s" for kind, count in of_each.items()))
    return len(stored), len(set(stored) - found(data)), failed, len(left_behind(data))


def in_restores(folder: Path, chance: random.Random) -> tuple[int, int, int, int]:
    """The same while backups are restored and exports brought in: what is lost is neither in the book nor in
    a file that a restore kept.
    """
    place = folder / "restored"
    place.mkdir()
    data, stored, failed = place / "book.sqlite", list[tuple[str, str]](), 0
    shutil.copy(folder / "load.sqlite", data)
    copy = backup_to(data, folder / "copy.sqlite").read_bytes()
    engine = open_database(data)
    with sessions(engine)() as session:
        export_to(session, folder / "out.json")
    engine.dispose()
    export = (folder / "out.json").read_bytes()

    def restore_or_import(client: httpx.Client, word: str) -> None:
        files, to = (("a.sqlite", copy), "restore") if word[-1] in "02468" else (("a.json", export), "import")
        client.post(f"/book/{to}", files={"file": files})

    writers: list[Writer] = [jobs_and_coupons] * 2 + [what_a_shop_keeps] * 2 + [restore_or_import]
    for kill in range(RESTORES):
        failed += not killed_among(data, writers, chance, stored, f"r{kill}", 4.0)
    open_database(data).dispose()
    kept = set().union(*(found(file) for file in [data, *place.glob("book-before-restore-*.sqlite")]))
    return len(stored), len(set(stored) - kept), failed, len(left_behind(data))


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
        jobs = sum(kind == "word" for kind, _ in found(data)) if well else 0
        failed += not (well and jobs >= 10)
        server.kill()
        server.wait()
    return failed


def polite_stop(folder: Path) -> tuple[float, int]:
    """Seconds a SIGTERM takes while clients hold half-sent requests and open connections, and how many
    tracebacks it leaves.
    """
    port, log = free_port(), folder / "stop.log"
    server = start(folder / "stop.sqlite", port, log=log)
    wait_up(f"http://127.0.0.1:{port}")
    held = []
    half = b"POST /jobs/new HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 100\r\n\r\nabc"
    for begun in (*(half,) * 10, b"GET /book HTT", b""):
        client = socket.create_connection(("127.0.0.1", port))
        client.sendall(begun)
        held.append(client)
    time.sleep(0.3)
    began = time.monotonic()
    server.terminate()
    server.wait(30)
    return time.monotonic() - began, log.read_text().count("Traceback")


def main() -> int:
    chance = random.Random(1)
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        stored, lost, dead, left = under_load(folder, chance)
        written, gone, stopped, lying = in_restores(folder, chance)
        old = folder / "old.sqlite"
        shutil.copy(folder / "load.sqlite", old)
        engine = make_engine(old)
        step_back(engine, "0002")
        engine.dispose()
        first = during_start(folder, chance, None, FIRST_STARTS)
        for started in folder.glob("start*"):
            started.unlink()
        migrated = during_start(folder, chance, old, MIGRATIONS)
        stop, tracebacks = polite_stop(folder)
    print(
        "kills under load (jobs, coupons, welds, memories, tables, photographs, parts): "
        f"{UNDER_LOAD} kills, {stored} acknowledged writes, {lost} lost, {dead} starts failed, "
        f"{left} files left behind"
    )
    print(
        f"kills in restores and imports: {RESTORES} kills, {written} acknowledged writes, {gone} in neither "
        f"book nor kept file, {stopped} starts failed, {lying} files left behind"
    )
    print(f"kills in the first start: {FIRST_STARTS} times two, {first} could not start afterwards")
    print(f"kills in a migration: {MIGRATIONS} times two, {migrated} could not start afterwards")
    print(f"polite stop with clients hanging on: {stop:.1f} s (limit 5.0 s), {tracebacks} tracebacks")
    bad = lost or dead or left or gone or stopped or lying or first or migrated or tracebacks
    return int(bool(bad or stop > 5.0))


if __name__ == "__main__":
    sys.exit(main())
