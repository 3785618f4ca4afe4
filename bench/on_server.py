"""A logbook of years on PostgreSQL: its pages, several server processes, several workers, one that is killed.

Pages are counted in bare pages (``_peer.py``) of processor time, that of the server process and that of the
database together. What-ifs a second of two server processes are set against those of one, parts of two
workers against those of one. The part of a killed worker is done by another, once. Exit 1 where a figure is
missed.
"""

from __future__ import annotations

import http.client
import json
import os
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import ExitStack, contextmanager
from pathlib import Path

import httpx
from sqlalchemy import text

import book
from _on_server import Server, brought, database_server, server_cpu_s
from _peer import cpu_ms, cpu_s, peer
from _serve import COMMAND, free_port, wait_up
from anvilsong.store.databases import make_engine
from anvilsong.store.places import OnServer
from anvilsong.work.queue import Works, prepare

JOBS = int(os.environ.get("SCALE_JOBS", "20000"))
SCALES = 1.7  # two of them do so many times what one does
SECONDS, ASKERS, PARTS = 8.0, 4, 4
ALIVE = 3  # rows of one worker
PART = {
    "thickness_mm": "3 mm", "start_c": "20", "start": "waits", "cell_mm": "0.8", "others": "1",
    "s0_does": "metal", "s0_form": "rectangle", "s0_x_mm": "0", "s0_y_mm": "0", "s0_width_mm": "120",
    "s0_height_mm": "60", "r0_x_mm": "0", "r0_y_mm": "25", "r0_to_x_mm": "120", "r0_to_y_mm": "25",
}  # fmt: skip


@contextmanager
def started(what: str, place: OnServer, port: int = 0) -> Iterator[subprocess.Popen[bytes]]:
    """A server process or a worker of a logbook."""
    more = {
        "ANVILSONG_DATA": place.url,
        "ANVILSONG_FOLDER": str(place.folder),
        "ANVILSONG_PORT": str(port or 8765),
    }
    process = subprocess.Popen([COMMAND, what], env=os.environ | more, stdout=subprocess.DEVNULL)
    try:
        if port:
            wait_up(f"http://127.0.0.1:{port}", process=process)
        yield process
    finally:
        process.send_signal(signal.SIGTERM)
        process.wait(20)


def pages(place: OnServer, server: Server) -> bool:
    """Every page of ``book.py`` in bare pages."""
    good, port = True, free_port()
    with started("serve", place, port) as process, peer() as (page, page_pid), httpx.Client() as plain:
        address = f"http://127.0.0.1:{port}"
        with httpx.Client(base_url=address, timeout=120) as client:
            one = cpu_ms(page_pid, lambda n: plain.get(page))
            print(f"page: {one:.2f} ms of processor (ratio to itself: 1)")
            for name, call in book.calls(client, address).items():
                call(0).raise_for_status()
                before, counted = server_cpu_s(server), [0]

                def counting(n: int, call=call, counted=counted) -> object:  # type: ignore[no-untyped-def]
                    counted[0] += 1
                    return call(n)

                own = cpu_ms(process.pid, counting)
                asked = 1000 * (server_cpu_s(server) - before) / counted[0]
                many = (own + asked) / one
                good &= many <= book.MOST
                late = "" if many <= book.MOST else "  TOO MUCH"
                print(f"{name}: {own:.1f} + {asked:.1f} ms (ratio to page: {many:.1f}){late}")
    return good


def _asks(port: int, question: bytes, until: float) -> int:
    """How many what-ifs one who asks without a pause gets answered."""
    connection, done = http.client.HTTPConnection("127.0.0.1", port, timeout=60), 0
    while time.monotonic() < until:
        connection.request("POST", "/api/consequences", question, {"content-type": "application/json"})
        answer = connection.getresponse()
        answer.read()
        assert answer.status == 200
        done += 1
    return done


def what_ifs(place: OnServer, processes: int) -> tuple[float, float]:
    """What-ifs a second of some server processes, and of each second of their processor time."""
    with ExitStack() as stack:
        ports = [free_port() for _ in range(processes)]
        running = [stack.enter_context(started("serve", place, port)) for port in ports]
        job = {"a": {"alloy": "5083", "thickness": "3 mm"}, "joint": "tee", "machine": "Heron 320"}
        plan = httpx.post(f"http://127.0.0.1:{ports[0]}/api/plan", json=job, timeout=60).json()
        question = json.dumps({"job": plan["job"], "settings": plan["settings"]}).encode()
        for port in ports:
            _asks(port, question, time.monotonic() + 2)
        before, start = sum(cpu_s(each.pid) for each in running), time.monotonic()
        asked = [(ports[n % processes], question, start + SECONDS) for n in range(ASKERS)]
        with ThreadPoolExecutor(ASKERS) as pool:
            done = sum(pool.map(lambda each: _asks(*each), asked))
        took = sum(cpu_s(each.pid) for each in running) - before
        return done / (time.monotonic() - start), done / took


def _await_workers(place: OnServer, many: int) -> None:
    works = Works(place)
    while works.workers() < ALIVE * many:
        time.sleep(0.05)
    works.close()


def _parts(client: httpx.Client, many: int) -> list[int]:
    """Parts that were asked for, by the numbers of their runs."""
    asked = []
    for n in range(many):
        answer = client.post("/jobs/1/part", data=PART | {"r0_y_mm": str(20 + n)})
        assert answer.status_code == 303, answer.text[:300]
        asked.append(int(answer.headers["location"].partition("run=")[2].partition("&")[0]))
    return asked


def _await_done(client: httpx.Client, runs: list[int]) -> None:
    for run in runs:
        while (seen := client.get(f"/api/heat-runs/{run}").json())["state"] in ("waits", "runs"):
            time.sleep(0.05)
        assert seen["state"] == "done", seen


def parts(place: OnServer, client: httpx.Client, workers: int) -> float:
    """Parts a second of some workers."""
    with ExitStack() as stack:
        for _ in range(workers):
            stack.enter_context(started("work", place))
        _await_workers(place, workers)
        _await_done(client, _parts(client, 2 * workers))  # each has read what it computes with
        start = time.monotonic()
        _await_done(client, _parts(client, PARTS))
        return PARTS / (time.monotonic() - start)


def killed(place: OnServer, client: httpx.Client) -> bool:
    """A worker killed in a part: whether another one did it, once."""
    with started("work", place) as first:
        _await_workers(place, 1)
        (run,) = _parts(client, 1)
        while client.get(f"/api/heat-runs/{run}").json()["share"] <= 0:
            time.sleep(0.02)
        first.kill()
    start = time.monotonic()
    with started("work", place):
        _await_done(client, [run])
        took = time.monotonic() - start
    engine = make_engine(place)
    with engine.connect() as connection:
        uid = connection.execute(text("SELECT uid FROM heat_runs WHERE id = :run"), {"run": run}).scalar()
        rows = connection.execute(text("SELECT turn, state FROM works WHERE part = :uid"), {"uid": uid}).all()
    engine.dispose()
    turns = rows[0][0]
    print(f"killed worker: its part begun {turns} times, ended in {took:.0f} s (ratio to one: {len(rows)})")
    return [tuple(row) for row in rows] == [(2, "done")]


def main() -> int:
    good = True
    with tempfile.TemporaryDirectory() as folder, database_server() as server:
        place = brought(book.made(Path(folder), JOBS), server, Path(folder))
        prepare(place)
        good &= pages(place, server)
        (one, cpu_one), (two, cpu_two) = what_ifs(place, 1), what_ifs(place, 2)
        good &= two >= SCALES * one
        print(
            f"what-ifs: {one:.0f} a second of one process, {two:.0f} of two (ratio to one: {two / one:.2f})"
        )
        print(
            f"the same a second of processor: {cpu_one:.0f}, {cpu_two:.0f} (ratio: {cpu_two / cpu_one:.2f})"
        )
        port = free_port()
        with (
            started("serve", place, port),
            httpx.Client(base_url=f"http://127.0.0.1:{port}", timeout=60) as client,
        ):
            single, double = parts(place, client, 1), parts(place, client, 2)
            good &= double >= SCALES * single
            print(f"parts: {single:.2f} a second of one, {double:.2f} of two (ratio: {double / single:.2f})")
            good &= killed(place, client)
    return 0 if good else 1


if __name__ == "__main__":
    sys.exit(main())
