"""The map of two settings, 80 × 60 points with all limits, and its point dragged, against a served copy."""

from __future__ import annotations

import statistics
import sys
import tempfile
import time
from pathlib import Path

import httpx

from _serve import serving
from anvilsong.core.board import settings_map
from anvilsong.core.coefficients import nominal
from anvilsong.core.job import Job
from anvilsong.core.machine import IDEAL
from anvilsong.core.model import Bench, consequences
from anvilsong.core.plan import make_plan

MOST_MAP_MS, MOST_DRAG_P95_MS, DRAGS = 100.0, 25.0, 300
JOB = {"a": {"alloy": "5083", "thickness": "3 mm"}, "joint": "tee", "machine": "Heron 320"}
AXES = (
    ("amps_run", "travel_mm_s"),
    ("amps_run", "ep_share"),
    ("ep_share", "ep_trim"),
    ("travel_mm_s", "preheat_c"),
)
FACES = ["margins", "section", "panel", "panel_drawing"]


def maps() -> float:
    """The slowest map that can be asked again and again, ms; beside one point of the same figures."""
    job = Job.model_validate(JOB | {"machine": None})
    plan = make_plan(job)
    assert plan.settings is not None
    begun = time.perf_counter()
    for _ in range(20):
        consequences(job, plan.settings)
    one = (time.perf_counter() - begun) / 20 * 1000
    worst = 0.0
    for axes in AXES:
        times = []
        for n in range(12):
            # Other amps each time, so that nothing is answered from what was kept.
            settings = plan.settings.model_copy(update={"amps_run": plan.settings.amps_run * (1 + 0.003 * n)})
            begun = time.perf_counter()
            found = settings_map(job, settings, Bench(IDEAL, None, nominal()), axes)
            times.append((time.perf_counter() - begun) * 1000)
        assert found.worst.shape == (60, 80)
        took = statistics.median(times)
        worst = max(worst, took)
        print(f"map {axes[0]} × {axes[1]}: {took:.1f} ms (ratio to one point: {took / one:.0f} for 4800)")
    return worst


def drags() -> float:
    """Milliseconds, p95, of what the server does for each move of the point."""
    with (
        tempfile.TemporaryDirectory() as folder,
        serving(Path(folder) / "bench.sqlite") as address,
        httpx.Client(base_url=address) as client,
    ):
        plan = client.post("/api/plan", json=JOB).json()
        times, peers = [], []
        for n in range(DRAGS + 20):
            moved = {"amps_run": 90 + 0.2 * n, "travel_mm_s": 2.5 + 0.007 * n}
            body = {"job": plan["job"], "settings": plan["settings"] | moved, "show": FACES}
            begun = time.perf_counter()
            client.get("/healthz").raise_for_status()
            middle = time.perf_counter()
            client.post("/api/consequences", json=body).raise_for_status()
            peers.append((middle - begun) * 1000)
            times.append((time.perf_counter() - middle) * 1000)
    p95, peer = (sorted(each[20:])[int(0.95 * DRAGS)] for each in (times, peers))
    print(f"point dragged p95: {p95:.1f} ms (ratio to /healthz: {p95 / peer:.1f})")
    return p95


def main() -> int:
    return 0 if maps() < MOST_MAP_MS and drags() < MOST_DRAG_P95_MS else 1


if __name__ == "__main__":
    sys.exit(main())
