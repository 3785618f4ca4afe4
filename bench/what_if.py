"""How fast the what-if answer is: 500 sequential POST /api/consequences beside /healthz, against a served
copy.
"""

from __future__ import annotations

import statistics
import sys
import tempfile
import time
from pathlib import Path

import httpx

from _serve import serving

LIMIT_P95_MS = 25.0
CALLS = 500
JOB = {"a": {"alloy": "5083", "thickness": "3 mm"}, "joint": "tee", "machine": "Heron 320"}
FACES = ["panel", "panel_drawing", "margins", "section", "wave", "overview", "ties", "figures", "differences"]


def timed(client: httpx.Client, ask: list[dict[str, object]] | None) -> list[float]:
    """Milliseconds of each call, sorted."""
    times = []
    for n in range(CALLS):
        start = time.perf_counter()
        answer = (
            client.get("/healthz")
            if ask is None
            else client.post("/api/consequences", json=ask[n % len(ask)])
        )
        times.append((time.perf_counter() - start) * 1000)
        answer.raise_for_status()
    return sorted(times)


def main() -> int:
    with (
        tempfile.TemporaryDirectory() as folder,
        serving(Path(folder) / "bench.sqlite") as address,
        httpx.Client(base_url=address) as client,
    ):
        plan = client.post("/api/plan", json=JOB).json()

        def questions(**more: object) -> list[dict[str, object]]:
            return [
                {
                    "job": plan["job"],
                    "settings": plan["settings"] | {"ep_share": 0.2 + n * 0.002, "amps_run": 90 + n * 0.3},
                    **more,
                }
                for n in range(100)
            ]

        timed(client, None)
        peer = timed(client, None)
        worst = 0.0
        for name, ask in (
            ("consequences", questions()),
            ("what-if, every face", questions(show=FACES, ghost=plan["settings"])),
        ):
            times = timed(client, ask)
            p95 = times[int(0.95 * CALLS)]
            worst = max(worst, p95)
            print(
                f"{name} p50: {statistics.median(times):.2f} ms (ratio to /healthz: "
                f"{statistics.median(times) / statistics.median(peer):.2f})"
            )
            print(f"{name} p95: {p95:.2f} ms (ratio to /healthz: {p95 / peer[int(0.95 * CALLS)]:.2f})")
    return 0 if worst < LIMIT_P95_MS else 1


if __name__ == "__main__":
    sys.exit(main())
