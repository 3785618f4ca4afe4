"""Thirty-two people at once: how long a what-if takes them beside a bare page asked for by as many
(``_peer.py``), and how long /healthz takes while an export, a part and a photograph are worked on, beside how
long it takes while nothing is.

Exit 1 where people wait longer than the most.
"""

from __future__ import annotations

import io
import statistics
import sys
import tempfile
import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import get_args

import httpx
from PIL import Image

from _firm import make_firm
from _peer import peer
from _serve import serving
from anvilsong.web.api.bodies import Face

CLIENTS, CALLS, LOOKS = 32, 12, 400
MOST_WAITED, MOST_HEALTH = 1.5, 1.2
JOB = {"a": {"alloy": "5083", "thickness": "3 mm"}, "joint": "tee", "machine": "Heron 320"}


def p95(times: list[float]) -> float:
    """The 95th percentile."""
    return statistics.quantiles(times, n=20)[-1]


def crowded(ask: Callable[[httpx.Client, int], httpx.Response]) -> float:
    """The 95th percentile of what a call takes while so many clients call without a pause, s."""
    times, begin = list[float](), threading.Barrier(CLIENTS)

    def person(number: int) -> None:
        with httpx.Client(timeout=120) as client:
            begin.wait()
            for call in range(CALLS):
                start = time.perf_counter()
                ask(client, number * CALLS + call).raise_for_status()
                times.append(time.perf_counter() - start)

    people = [threading.Thread(target=person, args=(number,)) for number in range(CLIENTS)]
    for each in people:
        each.start()
    for each in people:
        each.join()
    return p95(times)


def health(client: httpx.Client) -> float:
    """The 95th percentile of /healthz, s."""
    times = []
    for _ in range(LOOKS):
        start = time.perf_counter()
        client.get("/healthz").raise_for_status()
        times.append(time.perf_counter() - start)
        time.sleep(0.01)
    return p95(times)


def working(client: httpx.Client, long: int) -> list[threading.Thread]:
    """An export, a part and a photograph, each asked for by somebody else."""
    address = str(client.base_url)
    picture = io.BytesIO()
    Image.effect_noise((1600, 1200), 60).convert("RGB").save(picture, "JPEG")
    part = {"preset": "plate"}

    def asked(call: Callable[[httpx.Client], object]) -> threading.Thread:
        def run() -> None:
            with httpx.Client(
                base_url=address, timeout=300, headers={"origin": address.rstrip("/")}
            ) as other:
                call(other)

        return threading.Thread(target=run, daemon=True)

    return [
        asked(lambda other: other.get("/book/export.json")),
        asked(lambda other: other.post(f"/jobs/{long}/part", data=part)),
        asked(
            lambda other: other.post(
                f"/jobs/{long}/photographs", files={"file": ("a.jpg", picture.getvalue())}
            )
        ),
    ]


def main() -> int:
    with tempfile.TemporaryDirectory() as folder, peer() as (page, _), httpx.Client() as plain:
        data = Path(folder) / "firm.sqlite"
        firm = make_firm(data)
        with serving(data) as address, httpx.Client(base_url=address, timeout=300) as client:
            plan = client.post("/api/plan", json=JOB).json()

            def what_if(one: httpx.Client, number: int) -> httpx.Response:
                settings = plan["settings"] | {"ep_share": 0.2 + number % 100 * 0.002}
                body = {"job": plan["job"], "settings": settings, "show": list(get_args(Face))}
                return one.post(f"{address}/api/consequences", json=body)

            plain.get(page)
            bare = crowded(lambda one, _number: one.get(page))
            waited = crowded(what_if)
            alone = health(client)
            others = working(client, firm["long"])
            for each in others:
                each.start()
            time.sleep(1.0)
            beside = health(client)
    good = waited / bare <= MOST_WAITED and beside / alone <= MOST_HEALTH
    print(
        f"{CLIENTS} people, p95: page {1000 * bare:.0f} ms, what-if {1000 * waited:.0f} ms"
        f" (ratio {waited / bare:.1f}, wanted under {MOST_WAITED})"
    )
    print(
        f"/healthz, p95: {1000 * alone:.1f} ms, beside an export, a part and a photograph"
        f" {1000 * beside:.1f} ms (ratio {beside / alone:.2f}, wanted under {MOST_HEALTH})"
    )
    return 0 if good else 1


if __name__ == "__main__":
    sys.exit(main())
