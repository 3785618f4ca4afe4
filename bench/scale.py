"""A firm with years behind it (``_firm.py``): what its pages cost, in bare pages (``_peer.py``) of processor
time of the same run, and what its export costs beside ``json.dumps`` of the same logbook.

Exit 1 where one costs more than its most.
"""

from __future__ import annotations

import gc
import json
import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import httpx

from _firm import LONG_JOBS, OWNED, make_firm
from _peer import against, peer
from _serve import COMMAND, memory_mb, serving

# Wanted under, in bare pages.
WANTED = {
    "Recipes": 8.0,
    "Job": 12.0,
    "New job": 8.0,
    "Ranking": 25.0,
    "Workshop": 10.0,
    "Swap": 8.0,
    "What coupons say of a machine": 20.0,
    "Result, 500 coupons of mixed versions": 12.0,
    "Tune": 10.0,
    "Logbook": 10.0,
    "Search": 10.0,
    "First page": 10.0,
    "Record a coupon": 25.0,
}
MOST_EXPORT_MB, MOST_EXPORT_DUMPS, MOST_FIRST_BYTE_PAGES = 200.0, 8.0, 400.0
MOST_CLICKING_MB, CLICKS = 300.0, 3000
FORM = {
    "bead_width_mm": "6.2",
    "border_left_mm": "0.4",
    "border_right_mm": "0.5",
    "length_mm": "100",
    "seconds": "25",
}


def calls(client: httpx.Client, firm: dict[str, int], address: str) -> dict[str, Callable[[int], object]]:
    """What is measured, by name."""
    long, machine = firm["long"], firm["machine"]

    def get(path: str) -> Callable[[int], object]:
        return lambda _n: client.get(path).raise_for_status()

    def record(n: int) -> object:
        note = {"note": f"Coupon {n} of the bench"}
        headers = {"origin": address}
        answer = client.post(f"/jobs/{long}/coupon", data=FORM | note, headers=headers)
        assert answer.status_code == 303, answer.text[:300]
        return answer

    return {
        "Recipes": get("/recipes"),
        "Job": get(f"/jobs/{long}/job"),
        "New job": get("/jobs/new"),
        "Ranking": get(f"/jobs/{long}/machines"),
        "Workshop": get("/shop"),
        "Swap": get("/swap"),
        "What coupons say of a machine": get(f"/shop/machines/{machine}/coupons"),
        "Result, 500 coupons of mixed versions": get(f"/jobs/{long}/read"),
        "Tune": get(f"/jobs/{long}/tune"),
        "Logbook": get("/book"),
        "Search": get("/book?q=float"),
        "First page": get("/"),
        "Record a coupon": record,
    }


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


def children_cpu_s() -> float:
    """Processor time of the processes that this one has waited for, s."""
    times = os.times()
    return times.children_user + times.children_system


def exported(data: Path, target: Path) -> tuple[float, float]:
    """An export by the command: its processor time, s, and the most memory that it took, MB."""
    before = children_cpu_s()
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
    return children_cpu_s() - before, most


def dumped_s(target: Path) -> float:
    """Processor time of ``json.dumps`` on all that was exported, s."""
    given = json.loads(target.read_bytes())
    gc.collect()
    start = time.process_time()
    json.dumps(given)
    return time.process_time() - start


def first_byte_pages(client: httpx.Client, plain: httpx.Client, page: str) -> float:
    """How long the first byte of an export by the page takes, in bare pages, one as one waits for it."""
    times = []
    for _ in range(50):
        start = time.perf_counter()
        plain.get(page)
        times.append(time.perf_counter() - start)
    start = time.perf_counter()
    with client.stream("GET", "/book/export.json") as answer:
        next(answer.iter_raw())
        first = time.perf_counter() - start
    return first / sorted(times)[25]


def told(name: str, said: str, ratio: float, wanted: float) -> bool:
    """One line; whether the figure is as wanted."""
    late = "" if ratio <= wanted else "  TOO MUCH"
    print(f"{name}: {said} {ratio:.1f}, wanted under {wanted:g}{late}", flush=True)
    return ratio <= wanted


def main() -> int:
    with tempfile.TemporaryDirectory() as folder, peer() as (page, page_pid), httpx.Client() as plain:
        data = Path(folder) / "firm.sqlite"
        firm = make_firm(data)
        print(
            f"a firm's logbook: {data.stat().st_size / 1e6:.0f} MB, {OWNED} machines, {LONG_JOBS} long jobs"
        )
        good = True
        with serving(data) as address, httpx.Client(base_url=address, timeout=300) as client:
            pid: int = serving.process.pid  # type: ignore[attr-defined]
            for name, call in calls(client, firm, address).items():
                took, ratio = against((page_pid, lambda n: plain.get(page)), (pid, call), rounds=3)
                good &= told(name, f"{took:.1f} ms of processor, ratio to page:", ratio, WANTED[name])
            plan = client.post(
                "/api/plan", json={"a": {"alloy": "6061", "thickness": 3.2}, "joint": "butt"}
            ).json()
            clicking(client, plan)
            held = memory_mb(serving.process)  # type: ignore[attr-defined]
            good &= told("memory after clicking", "MB:", held, MOST_CLICKING_MB)
            waited = first_byte_pages(client, plain, page)
            good &= told("export, first byte", "ratio to page as one waits:", waited, MOST_FIRST_BYTE_PAGES)
        target = Path(folder) / "all.json"
        took, most = exported(data, target)
        dumps = dumped_s(target)
        good &= told("export, memory", "MB:", most, MOST_EXPORT_MB)
        good &= told(
            "export", f"{took:.1f} s of processor, ratio to json.dumps:", took / dumps, MOST_EXPORT_DUMPS
        )
    return 0 if good else 1


if __name__ == "__main__":
    sys.exit(main())
