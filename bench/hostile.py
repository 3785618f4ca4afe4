"""Hostile files and numbers: damaged exports, flipped databases, odd numbers; exit 1 on a dead page, a
traceback, or waste.

1,500 exports damaged in one place go through the importer: each is refused with a sentence, or taken, and
then every page stands.
40 databases with bytes turned over go through start and pages: each is refused with a sentence or served;
never a traceback.
The numbers that once froze the server are sent to it: each is answered within 2 s, and the server stays
under 500 MB.
"""

from __future__ import annotations

import json
import os
import random
import shutil
import subprocess
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import httpx
from fastapi.testclient import TestClient

from _serve import COMMAND, free_port, memory_mb, serving, start, wait_up
from anvilsong.config import Config
from anvilsong.core.errors import AnvilsongError
from anvilsong.store.database import open_database, sessions
from anvilsong.store.exchange import import_from
from anvilsong.web.app import create_app

EXPORTS, DATABASES, SLOWEST_S, MOST_MB = 1500, 40, 2.0, 500.0
HTML = {"accept": "text/html"}
ODD: list[Any] = [
    None,
    -1,
    0,
    1e308,
    1e-300,
    10**30,
    "",
    "x" * 5000,
    "inf",
    [],
    {},
    [1, 2],
    True,
    "²",
    "\u202e",
    "../..",
    -0.0,
]
PAGES = [
    "job",
    "prep",
    "torch",
    "tune",
    "wave",
    "wave.svg",
    "wave.csv",
    "coupon",
    "read",
    "card",
    "machines",
    "schools",
]
JOB = {"title": "Odd", "a_alloy": "6061", "a_thickness": "3 mm", "joint": "butt"}
COUPON = {
    "bead_width_mm": "6",
    "border_left_mm": "1",
    "border_right_mm": "1",
    "length_mm": "100",
    "seconds": "28",
}
NUMBERS = [
    ("/jobs/new", JOB | {"travel_mm_s": "0.001"}),
    ("/jobs/new", JOB | {"travel_mm_s": "0.3", "a_thickness": "0.3 mm"}),
    ("/jobs/new", JOB | {"weld_length_mm": "100 m"}),
    ("/jobs/new", JOB | {"weld_length_mm": "20 m", "a_thickness": "0.3"}),
    ("/jobs/new", JOB | {"a_thickness": "9" * 400}),
    ("/jobs/8/coupon", COUPON | {"length_mm": "0.01", "seconds": "100"}),
    ("/jobs/8/coupon", COUPON | {"length_mm": ".063"}),
    ("/jobs/8/coupon", COUPON | {"length_mm": "100", "seconds": "333"}),
    ("/jobs/8/coupon", COUPON | {"ripple_pitch_mm": "1e-7"}),
    ("/jobs/8/coupon", COUPON | {"ripple_pitch_mm": "0.0000001"}),
    ("/jobs/8/coupon", COUPON | {"ripple_pitch_mm": "0.1", "length_mm": "5000", "seconds": "3600"}),
    ("/jobs/8/tune", {"pulse_rate_hz": "0.0001"}),
    ("/jobs/8/tune", {"pulse_rate_hz": "0.5", "frequency_hz": "220"}),
    ("/jobs/8/tune", {"travel_mm_s": "0.001"}),
    ("/jobs/8/tune", {"travel_mm_s": "0.3"}),
    ("/jobs/8/tune", {"amps_set": "1e999"}),
]


def damaged(whole: dict[str, Any], chance: random.Random) -> dict[str, Any]:
    """The export with one place anywhere in it changed, taken out or doubled."""
    bad = json.loads(json.dumps(whole))
    place: Any = bad
    while True:
        keys = list(place) if isinstance(place, dict) else list(range(len(place)))
        key = chance.choice(keys)
        deeper = place[key]
        if isinstance(deeper, dict | list) and deeper and chance.random() < 0.9:
            place = deeper
            continue
        break
    match chance.randrange(4):
        case 0:
            del place[key]
        case 1 if isinstance(place, list):
            place.append(place[key])
        case _:
            place[key] = chance.choice(ODD)
    return bad  # type: ignore[no-any-return]


def exports(folder: Path) -> Counter[str]:
    """What came of every damaged export."""
    chance, outcome = random.Random(2), Counter[str]()
    source = sessions(_workshop(folder / "source.sqlite"))
    from anvilsong.store.export import export_book

    with source() as session:
        whole = export_book(session)
    empty = folder / "empty.sqlite"
    open_database(empty).dispose()
    for number in range(EXPORTS):
        file, data = folder / "in.json", folder / "book.sqlite"
        text = json.dumps(damaged(whole, chance), ensure_ascii=chance.random() < 0.5)
        if number % 10 == 0:
            text = text[: chance.randrange(len(text))]
        file.write_text(text, encoding="utf-8", errors="surrogatepass")
        shutil.copy(empty, data)
        engine = open_database(data)
        began = time.monotonic()
        try:
            import_from(sessions(engine), file)
        except AnvilsongError:
            outcome["refused"] += 1
        except Exception as error:
            outcome[f"traceback {type(error).__name__}"] += 1
        else:
            outcome["taken"] += 1
            if outcome["taken"] % 12 == 1:  # every page of a sample: a walk takes seconds
                outcome.update(_walked(data, chance))
        outcome["slow"] += time.monotonic() - began > 20
        engine.dispose()
        for left in folder.glob("book.sqlite*"):
            left.unlink()
    return outcome


def _workshop(path: Path) -> Any:
    from anvilsong.demo.workshop import load_demo

    engine = open_database(path)
    with sessions(engine).begin() as session:
        load_demo(session)
    return engine


def _walked(data: Path, chance: random.Random) -> Iterator[str]:
    with TestClient(create_app(Config(data=data)), base_url="http://127.0.0.1") as client:
        addresses = [
            "/book",
            "/shop",
            "/shop/kit",
            *(f"/jobs/{chance.randint(1, 10)}/{page}" for page in PAGES),
        ]
        for address in addresses:
            status = client.get(address, headers=HTML).status_code
            yield "pages"
            if status >= 500:
                yield "dead page"


def databases(folder: Path) -> Counter[str]:
    """What came of every flipped database: started and walked in a process of its own."""
    chance, outcome = random.Random(3), Counter[str]()
    _workshop(folder / "sound.sqlite").dispose()
    raw = (folder / "sound.sqlite").read_bytes()
    for number in range(DATABASES):
        data, log, port = folder / f"flip{number}.sqlite", folder / f"flip{number}.log", free_port()
        bad = bytearray(raw)
        for _ in range(chance.choice((1, 20, 400))):
            bad[chance.randrange(len(bad))] ^= 1 << chance.randrange(8)
        data.write_bytes(bad)
        server = start(data, port, "serve", log)
        if wait_up(f"http://127.0.0.1:{port}", 40, server):
            outcome["served"] += 1
            with httpx.Client(base_url=f"http://127.0.0.1:{port}", headers=HTML, timeout=20) as client:
                for address in ["/book", "/shop", *(f"/jobs/8/{page}" for page in PAGES)]:
                    status = client.get(address).status_code
                    outcome["pages"] += 1
                    outcome["said that the book is damaged"] += status == 503
                    outcome["dead page"] += status == 500
        else:
            outcome["refused with a sentence"] += server.wait(40) == 2
        server.kill()
        server.wait()
        outcome["traceback"] += b"Traceback" in log.read_bytes()
    return outcome


def numbers(folder: Path) -> tuple[float, float, int]:
    """Slowest answer in s, most memory in MB, and how many answers were faults."""
    slowest, faults = 0.0, 0
    with (
        serving(folder / "numbers.sqlite") as address,
        httpx.Client(base_url=address, headers=HTML, timeout=60) as client,
    ):
        for path, form in NUMBERS:
            began = time.monotonic()
            answer = client.post(path, data=form)
            slowest = max(slowest, time.monotonic() - began)
            faults += answer.status_code >= 500
            pages = answer.headers.get("location", "/jobs/8/tune").rsplit("/", 1)[0]
            for page in PAGES:
                began = time.monotonic()
                faults += client.get(f"{pages}/{page}").status_code >= 500
                slowest = max(slowest, time.monotonic() - began)
        most = memory_mb(serving.process)  # type: ignore[attr-defined]
    return slowest, most, faults


def command_line(folder: Path) -> int:
    """How many odd calls of the command end with anything but one sentence and exit code 2."""
    (folder / "letter.txt").write_text("no database")
    (folder / "locked").mkdir(exist_ok=True)
    calls: list[tuple[dict[str, str], list[str]]] = [
        ({"ANVILSONG_PORT": "abc"}, ["serve"]),
        ({"ANVILSONG_DATA": str(folder / "letter.txt")}, ["serve"]),
        ({"ANVILSONG_DATA": str(folder)}, ["serve"]),
        ({"ANVILSONG_DATA": str(folder / "none.sqlite")}, ["backup", str(folder / "b.sqlite")]),
        ({"ANVILSONG_DATA": str(folder / "none.sqlite")}, ["export", str(folder / "e.json")]),
        ({"ANVILSONG_DATA": str(folder / "none.sqlite")}, ["import", str(folder / "e.json")]),
        ({"ANVILSONG_DATA": str(folder / "none.sqlite")}, ["restore", str(folder / "b.sqlite")]),
        ({"ANVILSONG_DATA": str(folder / "sound.sqlite")}, ["backup", str(folder)]),
        ({"ANVILSONG_DATA": str(folder / "sound.sqlite")}, ["backup", str(folder / "letter.txt")]),
        ({"ANVILSONG_DATA": str(folder / "sound.sqlite")}, ["backup", "/proc/nowhere/b.sqlite"]),
        ({"ANVILSONG_DATA": str(folder / "sound.sqlite")}, ["backup", "/dev/full"]),
        ({"ANVILSONG_DATA": str(folder / "sound.sqlite")}, ["export", str(folder / "letter.txt")]),
        ({"ANVILSONG_DATA": str(folder / "sound.sqlite")}, ["import", str(folder / "letter.txt")]),
        ({"ANVILSONG_DATA": str(folder / "sound.sqlite")}, ["restore", str(folder / "letter.txt")]),
        ({}, ["plan", str(folder / "letter.txt")]),
        ({}, ["plan", str(folder / "nowhere.json")]),
    ]
    wrong = 0
    for environment, call in calls:
        done = subprocess.run(
            [COMMAND, *call], env=os.environ | environment, capture_output=True, text=True, timeout=60
        )
        if done.returncode != 2 or len(done.stderr.strip().splitlines()) != 1 or "Traceback" in done.stderr:
            print(f"  {call}: exit {done.returncode}, {done.stderr[-300:]}")
            wrong += 1
    return wrong


def main() -> int:
    import logging

    logging.disable()
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        flipped = databases(folder)
        wrong = command_line(folder)
        slowest, most, faults = numbers(folder)
        came = exports(folder)
    print(f"damaged exports: {EXPORTS}: {dict(came)}")
    print(f"flipped databases: {DATABASES}: {dict(flipped)}")
    print(
        f"odd numbers: slowest answer {slowest:.2f} s (limit {SLOWEST_S} s), most memory {most:.0f} "
        f"MB (limit {MOST_MB:.0f} MB), {faults} faults"
    )
    print(f"odd commands: {wrong} without their one sentence")
    bad = sum(
        count for words, count in (came + flipped).items() if words.startswith(("traceback", "dead", "slow"))
    )
    return int(bool(bad or wrong or faults or slowest > SLOWEST_S or most > MOST_MB))


if __name__ == "__main__":
    sys.exit(main())
