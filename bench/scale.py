"""A shop with years behind it: 20,000 jobs and 100,000 coupons, and one job with 100 revisions and 200
coupons.

The first jobs are recorded through the store; the rest are copies of their rows under other names.
Everything is judged by
its ratio to the bare page (``_peer.py``) of the same run.
"""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import threading
import time
from pathlib import Path

import httpx
from sqlalchemy import text
from sqlalchemy.orm import Session

from _peer import cpu_ms, peer
from _serve import COMMAND, memory_mb, serving
from anvilsong.core.bead import Readings
from anvilsong.core.job import Job
from anvilsong.demo.workshop import load_demo
from anvilsong.store import book, coupons
from anvilsong.store.database import open_database, sessions
from anvilsong.store.models import JobRow

JOBS, COUPONS_A_JOB = int(os.environ.get("SCALE_JOBS", "20000")), 5
LONG_REVISIONS, LONG_COUPONS = 100, 200
MOST = {"book": 10.0, "search": 10.0, "read": 10.0, "tune": 10.0}  # times the page
MOST_EXPORT_MB, MOST_CLICKING_MB, MOST_HEALTH_PAGES = 250.0, 300.0, 10.0
CLICKS = 3000
FOUND_BY = "machine, joint, alloy_a, alloy_b, thickness_a_mm, thickness_b_mm, state"


def seed(data: Path) -> int:
    """The book; the number of its long job."""
    engine = open_database(data)
    make = sessions(engine)
    with make.begin() as session:
        load_demo(session)
    with make.begin() as session:
        long = _long_job(session)
    with make.begin() as session:
        for row in session.query(JobRow).filter(JobRow.id != long):
            while coupons.count_coupons(session, row.id) < COUPONS_A_JOB:
                plan = book.find_plan(session, row.id)
                if plan is None or plan.settings is None:
                    break
                coupons.add_coupon(session, row, plan, _readings(coupons.count_coupons(session, row.id)))
        session.flush()
    with make.begin() as session:
        while (session.execute(text("SELECT max(id) FROM jobs")).scalar() or 0) < JOBS:
            _double(session, long)
    engine.dispose()
    return long


def _readings(n: int) -> Readings:
    return Readings(
        bead_width_mm=5.0 + 0.1 * (n % 9),
        border_left_mm=0.3 + 0.1 * (n % 7),
        border_right_mm=0.4,
        length_mm=100,
        seconds=26,
        note=f"Run {n}",
    )


def _long_job(session: Session) -> int:
    row = session.query(JobRow).first()
    assert row is not None
    plan = book.find_plan(session, row.id)
    assert plan is not None
    job = Job.model_validate(plan.job_document)
    for n in range(LONG_REVISIONS):
        plan = book.add_plan(
            session, row, job.model_copy(update={"weld_length_mm": 200.0 + n}), "plan", f"Plan {n}"
        )
    for n in range(LONG_COUPONS):
        coupons.add_coupon(session, row, plan, _readings(n))
    return row.id


def _double(session: Session, long: int) -> None:
    """Every job but the long one once more, under another number, with its newest plan and its coupons."""
    step = session.execute(text("SELECT max(id) FROM jobs")).scalar() or 0
    plans = session.execute(text("SELECT max(id) FROM plans")).scalar() or 0
    coupons = session.execute(text("SELECT max(id) FROM coupons")).scalar() or 0
    names = {"step": step, "plans": plans, "coupons": coupons, "long": long, "room": JOBS}
    here = "job_id != :long AND job_id + :step <= :room"
    for statement in (
        f"INSERT INTO jobs (id, uid, title, welder_id, made_at, changed_at, {FOUND_BY}) SELECT id + :step,"
        f" lower(hex(randomblob(16))), title || ' ' || (id + :step), welder_id, made_at, changed_at, {FOUND_BY} FROM jobs"
        " WHERE id != :long AND id + :step <= :room",
        "INSERT INTO plans (id, job_id, revision, origin, words, job_document, machine_document, settings, plan, made_at)"
        " SELECT id + :plans, job_id + :step, revision, origin, words, job_document, machine_document, settings, plan,"
        f" made_at FROM plans WHERE {here}",
        "INSERT INTO coupons (id, uid, job_id, plan_id, number, machine, kit, made_at) SELECT id + :coupons,"
        f" lower(hex(randomblob(16))), job_id + :step, plan_id + :plans, number, machine, kit, made_at FROM coupons WHERE {here}",
        "INSERT INTO readings (coupon_id, revision, document, verdict, change, typed, made_at) SELECT coupon_id + :coupons,"
        " r.revision, r.document, r.verdict, r.change, r.typed, r.made_at FROM readings r JOIN coupons c ON c.id = r.coupon_id"
        f" WHERE c.id <= :coupons AND c.{here.replace('AND job_id', 'AND c.job_id')}",
        (
            "INSERT INTO words (rowid, text) SELECT rowid + :step, text || ' ' || (rowid + :step) FROM words"
            " WHERE rowid != :long AND rowid + :step <= :room"
        ),
        "INSERT INTO terms (term) SELECT id + :step FROM jobs WHERE id != :long AND id + :step <= :room"
        " AND CAST(id + :step AS TEXT) NOT IN (SELECT term FROM terms)",
    ):
        session.execute(text(statement), names)


def export_mb(data: Path, target: Path) -> float:
    """The most memory that an export takes, MB."""
    environment = os.environ | {"ANVILSONG_DATA": str(data)}
    process = subprocess.Popen([COMMAND, "export", str(target)], env=environment, stdout=subprocess.DEVNULL)
    most = 0.0
    while process.poll() is None:
        try:
            most = max(most, memory_mb(process))
        except (OSError, IndexError):
            break
        time.sleep(0.05)
    assert process.wait() == 0
    return most


def health_while_recording(address: str, seconds: float = 10.0) -> float:
    """95th percentile of /healthz, ms, while four people record coupons."""
    stop = threading.Event()
    form = {
        "bead_width_mm": "6.2",
        "border_left_mm": "0.4",
        "border_right_mm": "0.5",
        "length_mm": "100",
        "seconds": "25",
    }

    def record(job: int) -> None:
        with httpx.Client(base_url=address, timeout=60) as client:
            while not stop.is_set():
                client.post(f"/jobs/{job}/coupon", data=form, headers={"origin": address}).read()

    people = [threading.Thread(target=record, args=(job,)) for job in (2, 3, 4, 5)]
    times = []
    for person in people:
        person.start()
    with httpx.Client(base_url=address, timeout=60) as client:
        until = time.monotonic() + seconds
        while time.monotonic() < until:
            start = time.perf_counter()
            client.get("/healthz").raise_for_status()
            times.append((time.perf_counter() - start) * 1000)
            time.sleep(0.02)
    stop.set()
    for person in people:
        person.join()
    return sorted(times)[int(0.95 * len(times))]


def clicking(client: httpx.Client, plan: dict[str, object]) -> None:
    """Two hours' worth of board, job and book."""
    for n in range(CLICKS):
        settings = plan["settings"] | {"travel_mm_s": 1.5 + (n % 700) * 0.006}  # type: ignore[operator]
        client.post("/api/consequences", json={"job": plan["job"], "settings": settings})
        if n % 10 == 0:
            client.get(f"/jobs/{1 + n // 10 % 400}/{('tune', 'read', 'prep', 'card')[n // 10 % 4]}")
            client.get(f"/book?page={1 + n // 10 % 50}")
        if n % 5 == 0:
            client.post(
                "/api/plan", json={"a": {"alloy": "6061", "thickness": 1 + n * 0.002}, "joint": "butt"}
            )


def wall_ms(client: httpx.Client, address: str, calls: int = 200) -> float:
    """Median time of a call, ms."""
    times = []
    for _ in range(calls):
        start = time.perf_counter()
        client.get(address).raise_for_status()
        times.append((time.perf_counter() - start) * 1000)
    return sorted(times)[calls // 2]


def main() -> int:
    with tempfile.TemporaryDirectory() as folder, peer() as (page, page_pid), httpx.Client() as plain:
        data = Path(folder) / "years.sqlite"
        long = seed(data)
        one, one_wall = cpu_ms(page_pid, lambda n: plain.get(page)), wall_ms(plain, page)
        print(f"page: {one:.2f} ms of processor (ratio to itself: 1)")
        good = True
        with serving(data) as address, httpx.Client(base_url=address, timeout=60) as client:
            pid = serving.process.pid  # type: ignore[attr-defined]
            for name, path in (
                ("book", "/book"),
                ("search", "/book?q=float"),
                ("read", f"/jobs/{long}/read"),
                ("tune", f"/jobs/{long}/tune"),
            ):
                answer = client.get(path)
                answer.raise_for_status()
                took = cpu_ms(pid, lambda n, path=path: client.get(path))
                good &= took / one < MOST[name]
                size = len(answer.content) / 1000
                print(
                    f"{name}: {took:.1f} ms, {size:.0f} kB (ratio to page: {took / one:.1f}, wanted "
                    f"under {MOST[name]:.0f})"
                )
            health = health_while_recording(address)
            good &= health / one_wall < MOST_HEALTH_PAGES
            print(f"healthz p95 while four record: {health:.0f} ms (ratio to page: {health / one_wall:.1f})")
            plan = client.post(
                "/api/plan", json={"a": {"alloy": "6061", "thickness": 3.2}, "joint": "butt"}
            ).json()
            clicking(client, plan)
            held = memory_mb(serving.process)  # type: ignore[attr-defined]
            good &= held < MOST_CLICKING_MB
            print(f"memory after clicking: {held:.0f} MB (wanted under {MOST_CLICKING_MB:.0f})")
        most = export_mb(data, Path(folder) / "all.json")
        good &= most < MOST_EXPORT_MB
        print(f"export: {most:.0f} MB (wanted under {MOST_EXPORT_MB:.0f})")
    return 0 if good else 1


if __name__ == "__main__":
    sys.exit(main())
