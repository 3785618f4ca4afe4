"""A logbook of years: 20,000 jobs, 100,000 coupons, 5,000 recipes, 5,000 photographs, 20,000 welds on parts.

First page, search, filters, recipes, the nearest recipe, weld log and changes, each in bare pages
(``_peer.py``) of processor time of the same run, and how that grew from a book of 1,000 jobs. Exit 1 where
one costs more than its most.
"""

from __future__ import annotations

import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

import httpx
from sqlalchemy import text

import _years
from _peer import cpu_ms, peer
from _serve import memory_mb, serving
from anvilsong.store.database import open_database, sessions

SMALL, LARGE = 1000, 20000
MOST = 10.0  # bare pages
MOST_MB = 400.0
PAGES = {
    "first page": "/",
    "logbook": "/book",
    "search, misspelt": "/book?q=flaot",
    "search, a number": "/book?q=17313",
    "search, a common word": "/book?q=bracket",
    "narrowed, machine and joint": "/book?machine=Heron 320&joint=butt",
    "narrowed, thickness": "/book?thinnest=2.5&thickest=3.5",
    "narrowed, state": "/book?state=as_wanted",
    "recipes": "/recipes",
    "recipes, by name": "/recipes?q=recipe 77",
    "wall": "/recipes/wall",
    "weld log": "/runs",
    "changes": "/book/changes",
    "coupons as JSON": "/api/coupons",
    "recipes as JSON": "/api/recipes",
}
JOB = {"title": "New", "a_alloy": "6061", "a_thickness": "3.4 mm", "joint": "butt", "machine": "Heron 320"}
KEPT = (
    "UPDATE plans SET recipe = 'Recipe ' || id, recipe_key = 'recipe ' || id, recipe_at = made_at"
    " WHERE settings IS NOT NULL AND settings != 'null' AND job_id % 4 = 0"
    " AND id IN (SELECT max(id) FROM plans GROUP BY job_id)",
    "INSERT INTO recipes (name, favourite) SELECT recipe, 1 FROM plans"
    " WHERE recipe IS NOT NULL AND id % 200 < 5 AND recipe NOT IN (SELECT name FROM recipes)",
    "INSERT INTO attachments (uid, job_id, coupon_id, kind, media_type, content, document, made_at)"
    " SELECT lower(hex(randomblob(16))), job_id, id, 'photograph', 'image/jpeg', zeroblob(60000), '{}',"
    " made_at FROM coupons WHERE id % 20 = 0",
    "INSERT INTO part_runs (uid, job_id, revision, document, seconds, made_at)"
    " SELECT lower(hex(randomblob(16))), id, 1,"
    """ '{"part": "P", "serial": "' || id || '", "seconds": 40}', 40, """
    "strftime('%Y-%m-%d %H:%M:%f000', 'now', '-' || (id % 1800) || ' days') FROM jobs",
    "INSERT INTO changes (job_id, who, what, made_at) SELECT id, 'Bram', 'create_job', made_at FROM jobs",
)


def made(folder: Path, jobs: int) -> Path:
    """A book of so many jobs."""
    _years.JOBS = jobs
    data = folder / f"{jobs}.sqlite"
    _years.seed(data)
    engine = open_database(data)
    with sessions(engine).begin() as session:
        for statement in KEPT:
            session.execute(text(statement))
    engine.dispose()
    return data


def calls(client: httpx.Client, address: str) -> dict[str, Callable[[int], httpx.Response]]:
    """What is measured, by name."""
    recipe = client.get("/api/recipes").json()["recipes"][0]["id"]
    found: dict[str, Callable[[int], httpx.Response]] = {
        name: lambda _n, path=path: client.get(path) for name, path in PAGES.items()
    }
    found["a recipe"] = lambda _n: client.get(f"/recipes/{recipe}")
    found["nearest recipe"] = lambda _n: client.post(
        "/api/recipes/nearest", data=JOB, headers={"origin": address}
    )
    return found


def measured(data: Path) -> tuple[dict[str, float], float]:
    """Milliseconds of processor time of each page, and the memory that the server came to, MB."""
    found = {}
    with serving(data) as address, httpx.Client(base_url=address, timeout=120) as client:
        process = serving.process  # type: ignore[attr-defined]
        pid = process.pid
        for name, call in calls(client, address).items():
            call(0).raise_for_status()
            found[name] = cpu_ms(pid, call)
        return found, memory_mb(process)


def main() -> int:
    good = True
    with tempfile.TemporaryDirectory() as folder, peer() as (page, page_pid), httpx.Client() as plain:
        small, _ = measured(made(Path(folder), SMALL))
        large, memory = measured(made(Path(folder), LARGE))
        one = cpu_ms(page_pid, lambda n: plain.get(page))
        print(f"page: {one:.2f} ms of processor (ratio to itself: 1)")
        for name, ms in large.items():
            pages = ms / one
            good &= pages <= MOST
            late = "" if pages <= MOST else "  TOO MUCH"
            grew = ms / small[name]
            print(f"{name}: {ms:.1f} ms (ratio to page: {pages:.1f}; to {SMALL} jobs: {grew:.1f}){late}")
        good &= memory <= MOST_MB
        print(f"memory: {memory:.0f} MB (ratio to {MOST_MB:.0f} MB: {memory / MOST_MB:.2f})")
    return 0 if good else 1


if __name__ == "__main__":
    sys.exit(main())
