"""Kills (SIGKILL) of server processes, of workers and of the database itself while people write: a logbook on
PostgreSQL loses nothing that was acknowledged, and stores nothing twice.

Two server processes and two workers run at a time. After each kill what was killed is started again, the
database by way of its own recovery. In the end every part that was acknowledged has come to its end, and no
word stands twice. Exit 1 on any loss.
"""

from __future__ import annotations

import json
import os
import random
import signal
import subprocess
import sys
import tempfile
import threading
import time
from collections import Counter
from contextlib import suppress
from pathlib import Path

import httpx
from sqlalchemy import text

from _on_server import Server, database_server
from _serve import COMMAND, free_port, wait_up
from anvilsong.demo.workshop import load_demo
from anvilsong.store.database import open_database, sessions
from anvilsong.store.places import OnServer
from kill import Writer, jobs_and_coupons, parts, photographs, what_a_shop_keeps

KILLS = int(os.environ.get("KILLS", "30"))
ENDS_WITHIN_S = 240.0
WORDS = {
    "SELECT title FROM jobs": "",
    "SELECT document FROM readings": "note",
    "SELECT document FROM part_runs": "serial",
    "SELECT label FROM memories": "",
}


class House:
    """The processes of a logbook on a server."""

    def __init__(self, place: OnServer) -> None:
        self.place = place
        self.ports = [free_port(), free_port()]
        self.running: dict[str, subprocess.Popen[bytes]] = {}
        self.failed = 0

    def start(self, name: str) -> None:
        """A server process (``serve0``, ``serve1``) or a worker (``work0``, ``work1``)."""
        what, number = name[:-1], int(name[-1])
        more = {
            "ANVILSONG_DATA": self.place.url,
            "ANVILSONG_FOLDER": f"{self.place.folder}",
            "ANVILSONG_PORT": str(self.ports[number]),
        }
        self.running[name] = subprocess.Popen(
            [COMMAND, what], env=os.environ | more, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
        )
        if what == "serve":
            self.failed += not wait_up(f"http://127.0.0.1:{self.ports[number]}", 60.0, self.running[name])

    def kill(self, name: str) -> None:
        self.running[name].kill()
        self.running[name].wait()

    def end(self) -> None:
        for name in list(self.running):
            self.kill(name)


def write_for(
    house: House, mark: str, writer: Writer, stored: list[tuple[str, str]], ends: threading.Event
) -> None:
    """Store one thing after another, at either server process, remembering each that was acknowledged."""
    number = 0
    while not ends.is_set():
        address = f"http://127.0.0.1:{house.ports[number % 2]}"
        number += 1
        with suppress(httpx.HTTPError), httpx.Client(base_url=address, timeout=30) as client:
            if acknowledged := writer(client, f"{mark}x{number}"):
                stored.append(acknowledged)


def crash(server: Server) -> None:
    """The database itself is killed, and comes again by its own recovery."""
    first = int((server.folder / "data" / "postmaster.pid").read_text().split()[0])
    children = Path(f"/proc/{first}/task/{first}/children").read_text().split()
    os.kill(first, signal.SIGKILL)
    for child in children:
        with suppress(ProcessLookupError):
            os.kill(int(child), signal.SIGKILL)
    time.sleep(0.5)
    server.start(server.port)


def found(place: OnServer) -> Counter[tuple[str, str]]:
    """Every mark that the logbook holds, and how often; whole jobs alone."""
    engine, marks = open_database(place), Counter[tuple[str, str]]()
    with engine.connect() as connection:
        for statement, key in WORDS.items():
            for (said,) in connection.execute(text(statement)):
                word = (json.loads(said) or {}).get(key) if key else said
                marks["word", str(word)] += 1
        for number in connection.execute(text("SELECT id FROM attachments")).scalars():
            marks["photograph", str(number)] += 1
        for number in connection.execute(text("SELECT id FROM heat_runs")).scalars():
            marks["part", str(number)] += 1
        halves = connection.execute(
            text("SELECT count(*) FROM jobs WHERE id NOT IN (SELECT job_id FROM plans) OR state = ''")
        ).scalar()
        assert halves == 0, "half a write"
    engine.dispose()
    return marks


def unended(place: OnServer, runs: list[str]) -> int:
    """How many of the acknowledged parts have not come to their end in time, or more than once."""
    engine, until = open_database(place), time.monotonic() + ENDS_WITHIN_S
    asked = text("SELECT count(*) FROM works WHERE part IS NOT NULL AND state IN ('waits', 'runs')")
    while time.monotonic() < until:
        with engine.connect() as connection:
            if connection.execute(asked).scalar() == 0:
                break
        time.sleep(0.5)
    with engine.connect() as connection:
        done = set(connection.execute(text("SELECT id FROM heat_runs WHERE result IS NOT NULL")).scalars())
        there = set(connection.execute(text("SELECT id FROM heat_runs")).scalars())
    engine.dispose()
    return len({int(run) for run in runs} & there - done)


def main() -> int:
    chance, stored, ends = random.Random(1), list[tuple[str, str]](), threading.Event()
    with tempfile.TemporaryDirectory() as folder, database_server() as server:
        place = server.place(Path(folder))
        engine = open_database(place)
        with sessions(engine).begin() as session:
            load_demo(session)
        engine.dispose()
        house, killed = House(place), Counter[str]()
        names = ("serve0", "serve1", "work0", "work1")
        for name in names:
            house.start(name)
        writers = (jobs_and_coupons, what_a_shop_keeps, photographs, parts)
        threads = [
            threading.Thread(target=write_for, args=(house, f"w{number}", writer, stored, ends))
            for number, writer in enumerate(writers)
        ]
        for thread in threads:
            thread.start()
        for _ in range(KILLS):
            time.sleep(chance.uniform(0.5, 5.0))
            name = chance.choice((*names, "database"))
            killed[name.rstrip("01")] += 1
            if name == "database":
                crash(server)
            else:
                house.kill(name)
                house.start(name)
        time.sleep(5)
        ends.set()
        for thread in threads:
            thread.join()
        late = unended(place, [mark for kind, mark in stored if kind == "part"])
        house.end()
        marks = found(place)
        # Of a job the newest hundred parts are kept: an older one is not lost.
        oldest = min(int(number) for kind, number in marks if kind == "part")
        dropped = {mark for mark in stored if mark[0] == "part" and int(mark[1]) < oldest}
        lost = [mark for mark in set(stored) - dropped if not marks[mark]]
        twice = [mark for mark in set(stored) if marks[mark] > 1]
        left = [each.name for each in Path(folder).iterdir() if each.name.endswith(".work")]
    of_each = Counter(kind for kind, _ in stored)
    print("  of them " + ", ".join(f"{count} {kind}s" for kind, count in of_each.items()))
    kills = ", ".join(f"{count} {name}" for name, count in killed.items())
    print(
        f"kills on a server ({kills}): {len(stored)} acknowledged writes, {len(lost)} lost,"
        f" {len(twice)} twice, {late} parts without an end, {house.failed} starts failed,"
        f" {len(left)} files left behind"
    )
    return int(bool(lost or twice or late or house.failed))


if __name__ == "__main__":
    sys.exit(main())
