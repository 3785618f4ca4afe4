"""What answers cost: processor time of the serving process, as so many bare pages (``_peer.py``) of the same
run.

And what a first visit weighs on the wire, and what starting costs beside importing the libraries that the
program stands on.
"""

from __future__ import annotations

import re
import resource
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import get_args

import httpx

from _peer import against, cpu_ms, cpu_s, peer
from _serve import COMMAND, memory_mb, serving
from anvilsong.core.bead import Readings, next_change, read
from anvilsong.core.job import read_job
from anvilsong.core.plan import make_plan
from anvilsong.demo.machines import MACHINES
from anvilsong.web.api.bodies import Face

JOB = {"a": {"alloy": "5083", "thickness": "3 mm"}, "joint": "tee", "machine": "Heron 320"}
FACES = list(get_args(Face))
# Wanted under, in bare pages; what starts, in starts of the interpreter with the libraries it stands on.
WANTED = {
    "what-if, every face": 2.0,
    "what-if, travel moves": 2.0,
    "plan, new job": 6.0,
    "ranking the shop": 25.0,
    "judge a coupon": 5.0,
    "start-up to the first page": 1.2,
    "first start, with the demo": 3.0,
    "anvilsong plan": 2.0,
}
# What is not reached yet must not grow either.
NOT_YET = {
    "start-up to the first page": 2.8,
    "first start, with the demo": 4.5,
    "anvilsong plan": 3.5,
}
STARTS = ("start-up to the first page", "first start, with the demo", "anvilsong plan")
MOST_FIRST_VISIT_KB, MOST_FIRST_VISIT_DEEP = 60.0, 2  # without fonts, which come when the page stands
MOST_FIRST_START_MB = 200.0
LINKED = re.compile(r'(?:href|src)="(/static/[^"]+\.(?:css|js|svg))"')
IMPORTED = re.compile(r'from "\./([\w.]+)"')


def judging_ms() -> float:
    """Verdict and next change for a coupon, ms of processor, over machines and misses."""
    cases = []
    for n in range(14):
        machine = MACHINES[n % len(MACHINES)]
        job = read_job({"a": {"alloy": "6061", "thickness": 3.2}, "joint": ("butt", "tee")[n % 2]})
        plan = make_plan(job, machine)
        assert plan.settings is not None
        assert plan.consequences is not None
        border = (0.1, 2.4, 0.4)[n % 3]
        width = round(plan.consequences.pool_width_mm * (1 + 0.02 * (n % 4)), 2)
        seconds = 100 / plan.settings.travel_mm_s
        readings = Readings(
            bead_width_mm=width, border_left_mm=border, border_right_mm=border, length_mm=100, seconds=seconds
        )
        cases.append((job, plan.settings, readings, machine))
    start = time.process_time()
    for job, settings, readings, machine in cases:
        next_change(job, settings, readings, read(job, settings, readings, machine), machine)
    return 1000 * (time.process_time() - start) / len(cases)


def child_cpu_s(command: list[str]) -> float:
    """Processor time of a command, s; the least of three."""
    times = []
    for _ in range(3):
        before = resource.getrusage(resource.RUSAGE_CHILDREN)
        subprocess.run(command, check=True, stdout=subprocess.DEVNULL)
        after = resource.getrusage(resource.RUSAGE_CHILDREN)
        times.append(after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime)
    return min(times)


def first_visit(client: httpx.Client, path: str) -> tuple[float, int]:
    """What a browser with nothing kept loads for a page, without fonts, kB on the wire; and after how many
    answers, one after the other, it knows of the last of it.
    """
    waiting, seen, weight = [(path, 0)], dict[str, int](), 0
    while waiting:
        address, deep = waiting.pop(0)
        if address in seen:
            continue
        seen[address] = deep
        with client.stream("GET", address, headers={"accept-encoding": "gzip"}) as answer:
            answer.raise_for_status()
            weight += sum(len(piece) for piece in answer.iter_raw())
        text, folder = client.get(address).text, address.rpartition("/")[0]
        if address == path:
            waiting += [(linked, 1) for linked in LINKED.findall(text)]
        waiting += [(f"{folder}/{name}", deep + 1) for name in IMPORTED.findall(text)]
    return weight / 1000, max(seen.values())


def calls(client: httpx.Client) -> dict[str, Callable[[int], object]]:
    """What is asked again and again, by name."""
    plan = client.post("/api/plan", json=JOB).json()

    def ask(path: str, body: dict[str, object]) -> None:
        client.post(path, json=body).raise_for_status()

    def what_if(**moved: object) -> None:
        settings = plan["settings"] | moved
        body = {"job": plan["job"], "settings": settings, "show": FACES, "ghost": plan["settings"]}
        ask("/api/consequences", body)

    def new_plan(n: int) -> None:
        thickness = 1 + n % 1000 * 0.0071 + n // 1000 * 0.0013
        ask("/api/plan", JOB | {"a": {"alloy": "5083", "thickness": thickness}})

    return {
        "what-if, every face": lambda n: what_if(ep_share=0.2 + n % 100 * 0.002),
        "what-if, travel moves": lambda n: what_if(travel_mm_s=2 + n % 997 * 0.003),
        "plan, new job": new_plan,
        "ranking the shop": lambda n: client.get("/jobs/1/machines").raise_for_status(),
    }


def main() -> int:
    bare_start = "import fastapi, uvicorn, jinja2, sqlalchemy, numpy"
    found: dict[str, tuple[float, float]] = {}
    with (
        tempfile.TemporaryDirectory() as folder,
        peer() as (page, page_pid),
        httpx.Client() as plain,
    ):
        data = Path(folder) / "bench.sqlite"
        bare = child_cpu_s([sys.executable, "-c", bare_start])
        with serving(data):
            first = serving.process  # type: ignore[attr-defined]
            found["first start, with the demo"] = (cpu_s(first.pid), bare)
            first_mb = memory_mb(first)
        one = cpu_ms(page_pid, lambda n: plain.get(page))
        print(f"page: {one:.2f} ms of processor (ratio to itself: 1)")
        with serving(data) as address, httpx.Client(base_url=address, timeout=60) as client:
            pid: int = serving.process.pid  # type: ignore[attr-defined]
            client.get("/").raise_for_status()
            found["start-up to the first page"] = (cpu_s(pid), bare)
            for name, call in calls(client).items():
                took, ratio = against((page_pid, lambda n: plain.get(page)), (pid, call))
                found[name] = (took, took / ratio)
            visit, deep = first_visit(client, "/jobs/1/tune")
        found["judge a coupon"] = (judging_ms(), one)
        job = Path(folder) / "job.json"
        job.write_text('{"a": {"alloy": "6061", "thickness": "3.2 mm"}, "joint": "butt"}')
        few = child_cpu_s([sys.executable, "-c", "import numpy, pydantic, typer"])
        found["anvilsong plan"] = (child_cpu_s([COMMAND, "plan", str(job)]), few)
    good = visit < MOST_FIRST_VISIT_KB and deep <= MOST_FIRST_VISIT_DEEP and first_mb < MOST_FIRST_START_MB
    for name, wanted in WANTED.items():
        took, beside = found[name]
        unit, peer_name = ("s", "its libraries") if name in STARTS else ("ms", "page")
        ratio, most = took / beside, NOT_YET.get(name, wanted)
        good &= ratio < most
        late = "" if ratio < wanted else f"  not reached, held under {most}" if ratio < most else "  TOO MUCH"
        print(f"{name}: {took:.2f} {unit} (ratio to {peer_name}: {ratio:.1f}, wanted under {wanted}){late}")
    print(f"first start: {first_mb:.0f} MB (wanted under {MOST_FIRST_START_MB:.0f})")
    print(f"first visit to Tune: {visit:.0f} kB (wanted under {MOST_FIRST_VISIT_KB:.0f}), {deep} deep")
    return 0 if good else 1


if __name__ == "__main__":
    sys.exit(main())
