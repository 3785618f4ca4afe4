"""Twenty pedal runs at once: how many steps a second each gets, how soon the pool answers the hand, and what
that costs somebody who tunes a job beside them. Exit 1 where one falls short.
"""

from __future__ import annotations

import asyncio
import json
import statistics
import sys
import tempfile
import time
from pathlib import Path

import httpx
from websockets.asyncio.client import connect

from _serve import serving

RUNS, SECONDS, MOVES_EVERY_S = 20, 12.0, 0.35
LEAST_STEPS_A_S = 30.0
MOST_LAG_ONE_S, MOST_LAG_MANY_S = 0.080, 0.150
MOST_BESIDE = 1.5
ASKED = 30
JOB = {"a": {"alloy": "5083", "thickness": "3 mm"}, "joint": "tee", "machine": "Heron 320"}


class Run:
    """One run with a hand that moves every now and then."""

    def __init__(self, number: int) -> None:
        self.number = number
        self.lags = list[float]()
        self.steps, self.seconds = 0, 1.0

    async def weld(self, address: str) -> None:
        url = address.replace("http", "ws", 1) + "/practice/live?job=10&part=strip&mode=hold"
        async with connect(url, origin=address, max_size=None) as socket:
            json.loads(await socket.recv())
            pedal, sent_at, moved, pedal_was_seen = 0.0, 0.0, 0.0, True
            begun: float | None = None
            while True:
                now = time.perf_counter()
                if begun is None or (pedal_was_seen and now - moved > MOVES_EVERY_S):
                    pedal = 0.5 + 0.02 * ((self.number + self.steps) % 9)
                    await socket.send(json.dumps({"pedal": pedal}))
                    sent_at, moved, pedal_was_seen = now, now, False
                    begun = begun or now
                seen = json.loads(await socket.recv())["seen"]
                self.steps += 1
                if not pedal_was_seen and abs(seen[9] - pedal) < 1e-6:
                    self.lags.append(time.perf_counter() - sent_at)
                    pedal_was_seen = True
                if time.perf_counter() - begun > SECONDS:
                    self.seconds = time.perf_counter() - begun
                    await socket.send('{"do": "stop"}')
                    return


async def welded(address: str, count: int) -> tuple[list[Run], list[float]]:
    """So many runs at once, and how long what-ifs took beside them, s."""
    runs = [Run(number) for number in range(count)]
    tasks = [asyncio.create_task(run.weld(address)) for run in runs]
    await asyncio.sleep(4.0)
    took = await what_ifs(address)
    await asyncio.gather(*tasks)
    return runs, took


async def what_ifs(address: str) -> list[float]:
    """How long some what-ifs took, one after another."""
    took = []
    async with httpx.AsyncClient(base_url=address, timeout=60) as client:
        plan = (await client.post("/api/plan", json=JOB)).json()
        for number in range(ASKED):
            settings = plan["settings"] | {"amps_run": 90 + number * 0.3}
            begun = time.perf_counter()
            answer = await client.post("/api/consequences", json={"job": plan["job"], "settings": settings})
            took.append(time.perf_counter() - begun)
            answer.raise_for_status()
            await asyncio.sleep(0.05)
    return took


def p95(values: list[float]) -> float:
    return statistics.quantiles(values, n=20)[-1]


def main() -> int:
    good = True
    with tempfile.TemporaryDirectory() as folder, serving(Path(folder) / "book.sqlite") as address:
        asyncio.run(welded(address, 1))  # compiled, and warm
        usual = asyncio.run(what_ifs(address))
        one, _ = asyncio.run(welded(address, 1))
        many, beside = asyncio.run(welded(address, RUNS))
    rates = [run.steps / run.seconds for run in many]
    lags = [p95(one[0].lags), p95([lag for run in many for lag in run.lags])]
    for words, value, most in (
        ("lag of one run, p95", lags[0], MOST_LAG_ONE_S),
        (f"lag of {RUNS} runs, p95", lags[1], MOST_LAG_MANY_S),
    ):
        good &= value <= most
        print(f"{words}: {1000 * value:.0f} ms (ratio to {1000 * most:.0f} ms: {value / most:.2f})")
    slowest = min(rates)
    good &= slowest >= LEAST_STEPS_A_S
    print(
        f"steps a second, the slowest of {RUNS}: {slowest:.0f} (ratio to {LEAST_STEPS_A_S:.0f}:"
        f" {slowest / LEAST_STEPS_A_S:.2f}; one run alone: {one[0].steps / one[0].seconds:.0f})"
    )
    ratio = statistics.median(beside) / statistics.median(usual)
    good &= ratio <= MOST_BESIDE
    print(f"what-if beside {RUNS} runs: ratio to without: {ratio:.2f} (at most {MOST_BESIDE})")
    return 0 if good else 1


if __name__ == "__main__":
    sys.exit(main())
