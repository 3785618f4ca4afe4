"""The page that everything is measured against: a bare route that renders 16 kB of Jinja, served by the same
server.

Machines are shared and differ, so a benchmark says how many such pages its answer costs, both measured in
one run, in
processor time of the serving process.
"""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

import httpx
from fastapi import FastAPI
from fastapi.responses import HTMLResponse
from jinja2 import Environment

from _serve import free_port

ROWS = 220
PAGE = """<!doctype html><html><head><title>{{ title }}</title></head><body><table>
{% for row in rows %}<tr><td>{{ row.words }}</td><td>{{ row.number }}</td><td>{{ row.unit }}</td></tr>
{% endfor %}</table></body></html>"""


def make_app() -> FastAPI:
    """The bare application."""
    app = FastAPI()
    template = Environment(autoescape=True).from_string(PAGE)

    @app.get("/", response_class=HTMLResponse)
    def page() -> str:
        rows = [{"words": f"thickness of side {n}", "number": n / 8, "unit": "mm & in"} for n in range(ROWS)]
        return template.render(title="A page", rows=rows)

    return app


@contextmanager
def peer() -> Iterator[tuple[str, int]]:
    """The page's address, and the number of the process that serves it."""
    port = free_port()
    command = [sys.executable, str(Path(__file__)), str(port)]
    process = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    address = f"http://127.0.0.1:{port}/"
    try:
        until = time.monotonic() + 30
        while time.monotonic() < until:
            try:
                size = len(httpx.get(address, timeout=2).content)
                assert 15_000 < size < 17_000, f"the peer's page has {size} bytes"
                break
            except httpx.HTTPError:
                time.sleep(0.05)
        yield address, process.pid
    finally:
        process.send_signal(signal.SIGTERM)
        process.wait(10)


def cpu_s(pid: int) -> float:
    """Processor time that a process has used, s."""
    fields = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()
    return (int(fields[11]) + int(fields[12])) / os.sysconf("SC_CLK_TCK")


def cpu_ms(pid: int, call: Callable[[int], object], least_s: float = 1.0, warm: int = 5) -> float:
    """Processor time a call, ms, of the process that answers it: as many calls as make the clock's steps
    small.
    """
    for n in range(warm):
        call(n)
    before, done = cpu_s(pid), 0
    while done < 10 or cpu_s(pid) - before < least_s:
        call(warm + done)
        done += 1
    return 1000 * (cpu_s(pid) - before) / done


def against(
    page: tuple[int, Callable[[int], object]], answer: tuple[int, Callable[[int], object]], rounds: int = 5
) -> tuple[float, float]:
    """An answer's processor time, ms, and its ratio to the page's: the median of some rounds of both in turn.

    Others on the machine slow both, but not always both alike: so they take turns.
    """
    took, ratios = [], []
    for turn in range(rounds):
        one = cpu_ms(page[0], page[1], least_s=0.4)
        each = cpu_ms(answer[0], lambda n, turn=turn: answer[1](n + 1000 * turn), least_s=0.8)
        took.append(each)
        ratios.append(each / one)
    return sorted(took)[rounds // 2], sorted(ratios)[rounds // 2]


if __name__ == "__main__":
    import uvicorn

    uvicorn.run(make_app(), port=int(sys.argv[1]), log_level="warning")
