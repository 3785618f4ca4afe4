"""Hostile files, numbers, types and habits: damaged exports, flipped databases, drawings that would grow
without end, any type in any field, forms sent twice, a step back, a full disk; exit 1 on a dead page, a
traceback, a loss, or waste.

1,500 exports damaged in one place go through the importer: each is refused with a sentence, or taken, and
then every page stands.
40 databases with bytes turned over go through start and pages: each is refused with a sentence or served;
never a traceback.
The numbers that once froze the server are sent to it: each is answered within 2 s, and the server stays
under 500 MB. So it is while nine drawings at a time that would take all memory are sent, and other pages
are asked for. 3,000 bodies with another type in one field are each answered or refused. Every form is
sent twice, and once more with other content after a step back. On a full disk every write is refused with
a sentence.
"""

from __future__ import annotations

import json
import os
import random
import shutil
import subprocess
import sys
import tempfile
import threading
import time
from collections import Counter
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import httpx
from fastapi.testclient import TestClient

sys.path.insert(1, str(Path(__file__).resolve().parents[1]))
from _serve import COMMAND, free_port, memory_mb, serving, start, wait_up
from anvilsong.config import Config
from anvilsong.core.errors import AnvilsongError
from anvilsong.store.database import open_database, sessions
from anvilsong.store.exchange import import_from
from anvilsong.web.app import create_app

EXPORTS, DATABASES, BODIES, SLOWEST_S, MOST_MB = 1500, 40, 3000, 2.0, 500.0
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


def raw_dxf(*entity: tuple[int, Any]) -> bytes:
    """A drawing of a few bytes: group codes and values."""
    body = "".join(f"{code}\n{value}\n" for code, value in entity)
    return f"0\nSECTION\n2\nENTITIES\n{body}0\nENDSEC\n0\nEOF\n".encode()


def _loose_lines() -> bytes:
    import io

    import ezdxf

    document, out = ezdxf.new(), io.StringIO()
    for number in range(9000):
        document.modelspace().add_line(
            (number % 97 * 7, number % 89 * 5), (number % 83 * 3, number % 79 * 11)
        )
    document.write(out)
    return out.getvalue().encode()


def drawings(folder: Path) -> Counter[str]:
    """Nine drawings at a time, round after round, that would take all memory or never end; other pages are
    asked for meanwhile.
    """
    bombs = [
        raw_dxf((0, "CIRCLE"), (10, 0), (20, 0), (40, 1e9)),
        raw_dxf((0, "ARC"), (10, 0), (20, 0), (40, 1e9), (50, 0), (51, 359)),
        raw_dxf((0, "ELLIPSE"), (10, 0), (20, 0), (11, 1e9), (21, 0), (40, 0.5), (41, 0), (42, 6.28)),
        raw_dxf(
            (0, "LWPOLYLINE"), (90, 2), (70, 1), (10, 0), (20, 0), (42, 1e7), (10, 90), (20, 40), (42, 1)
        ),
        b'<svg xmlns="http://www.w3.org/2000/svg"><path d="M0 0C1e9 0 1e9 1e9 0 1e9z"/></svg>',
        b'<svg xmlns="http://www.w3.org/2000/svg"><g transform="scale(1e9)"><circle r="9"/></g></svg>',
        '<?xml version="1.0" encoding="utf-16"?><!DOCTYPE a [<!ENTITY b "c">]><svg>&b;</svg>'.encode(
            "utf-16"
        ),
        b'<svg xmlns="http://www.w3.org/2000/svg">' + b'<path d="M0 0' + b"h1v1" * 200_000 + b'z"/></svg>',
        _loose_lines(),
    ]
    outcome, lock = Counter[str](), threading.Lock()
    with serving(folder / "drawings.sqlite") as address:

        def send(bomb: bytes) -> None:
            with httpx.Client(base_url=address, headers=HTML, timeout=120) as client:
                began = time.monotonic()
                status = client.post("/jobs/8/part/outline", files={"file": ("a.dxf", bomb)}).status_code
                with lock:
                    outcome["drawings"] += 1
                    outcome["dead drawing"] += status not in (200, 413, 422, 503)
                    outcome["slow drawing"] += time.monotonic() - began > 60

        with httpx.Client(base_url=address, headers=HTML, timeout=60) as client:
            for _ in range(3):
                senders = [threading.Thread(target=send, args=(bomb,)) for bomb in bombs]
                for sender in senders:
                    sender.start()
                for page in PAGES:
                    began = time.monotonic()
                    outcome["pages meanwhile"] += 1
                    outcome["dead page"] += client.get(f"/jobs/8/{page}").status_code >= 500
                    outcome["slow page"] += time.monotonic() - began > 5
                for sender in senders:
                    sender.join()
            outcome["traceback: over 500 MB"] += memory_mb(serving.process) > MOST_MB  # type: ignore[attr-defined]
    return outcome


def types(folder: Path) -> Counter[str]:
    """Any type in any field of the JSON addresses: how each was answered."""
    chance, outcome = random.Random(4), Counter[str]()
    with (
        serving(folder / "types.sqlite") as address,
        httpx.Client(base_url=address, timeout=60) as client,
    ):
        job = {"a": {"alloy": "6061", "thickness": "3 mm", "outside_diameter_mm": 40}, "joint": "tube_tube"}
        settings = client.post("/api/plan", json=job).json()["settings"]
        sound = {
            "/api/plan": job,
            "/api/consequences": {"job": job, "settings": settings, "show": ["panel", "section"]},
            "/api/resolve": {"job": job, "settings": settings, "locked": ["ep_share"]},
            "/api/sound": {"settings": settings},
        }
        for _ in range(BODIES):
            path = chance.choice(list(sound))
            status = client.post(path, json=damaged(sound[path], chance)).status_code
            outcome[f"{status}"] += 1
            outcome["dead answer"] += status >= 500
    return outcome


def forms(folder: Path) -> Counter[str]:
    """Every form sent twice as it stands, then once more with a note or a number changed, as after a step
    back: what is the same is stored once, what is not is stored as well.
    """
    from tests.forms import counts, every_form, form_on

    outcome, data = Counter[str](), folder / "forms.sqlite"
    _workshop(data).dispose()
    with TestClient(
        create_app(Config(data=data)), base_url="http://127.0.0.1", follow_redirects=False
    ) as client:
        for _, form in list(every_form(client)):
            files = {"file": ("x.json", b"{}")} if form["file"] else None
            client.post(form["to"], data=form["fields"], files=files, headers=HTML)
            once = counts(data)
            client.post(form["to"], data=form["fields"], files=files, headers=HTML)
            outcome["forms sent twice"] += 1
            outcome["traceback: stored twice"] += counts(data) != once
        for page, typed, table in (
            ("/jobs/8/coupon", [COUPON | {"note": str(number)} for number in range(5)], "coupons"),
            ("/jobs/new", [JOB | {"title": f"Back {number}"} for number in range(5)], "jobs"),
        ):
            form, before = form_on(client, page), counts(data)[table]
            for fields in typed:
                client.post(page, data=form["fields"] | fields, headers=HTML)
            outcome["sent again with other content"] += len(typed)
            outcome["traceback: other content dropped"] += counts(data)[table] != before + len(typed)
    return outcome


def full_disk(folder: Path) -> Counter[str]:
    """Every way of writing on a disk that is full; where no disk of its own is to be had, that is said."""
    outcome, place = Counter[str](), folder / "disk"
    place.mkdir()
    if subprocess.run(
        ["mount", "-t", "tmpfs", "-o", "size=12m", "tmpfs", place], capture_output=True
    ).returncode:
        outcome["not tried: no disk of its own"] += 1
        return outcome
    try:
        data = place / "book.sqlite"
        _workshop(data).dispose()
        copy = data.read_bytes()
        with TestClient(
            create_app(Config(data=data)), base_url="http://127.0.0.1", follow_redirects=False
        ) as client:
            export = client.get("/book/export.json").content
            left = os.statvfs(place)
            (place / "filler").write_bytes(b"x" * (left.f_bavail * left.f_frsize - 8192))
            for path, sent in (
                ("/jobs/8/coupon", {"data": COUPON | {"note": "x" * 390}}),
                ("/jobs/new", {"data": JOB}),
                ("/shop/welders", {"data": {"name": "Wenna", "note": "x" * 390}}),
                ("/book/import", {"files": {"file": ("a.json", export)}}),
                ("/book/restore", {"files": {"file": ("a.sqlite", copy)}}),
            ):
                answer = client.post(path, headers=HTML, **sent)  # type: ignore[arg-type]
                outcome["writes on a full disk"] += 1
                outcome["dead: full disk not said"] += answer.status_code != 507
            for path in ("/book/backup", "/book/export.json"):
                outcome["writes on a full disk"] += 1
                outcome["dead: full disk not said"] += client.get(path, headers=HTML).status_code != 507
            outcome["dead page"] += client.get("/jobs/8/tune", headers=HTML).status_code != 200
        lying = [each.name for each in place.iterdir() if each.name.startswith(".book.sqlite.")]
        outcome["traceback: left lying"] += len([name for name in lying if not name.endswith(".server")])
    finally:
        subprocess.run(["umount", "--lazy", place], check=True)
    return outcome


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
        drew, typed, twice, full = drawings(folder), types(folder), forms(folder), full_disk(folder)
        came = exports(folder)
    print(f"damaged exports: {EXPORTS}: {dict(came)}")
    print(f"flipped databases: {DATABASES}: {dict(flipped)}")
    print(
        f"odd numbers: slowest answer {slowest:.2f} s (limit {SLOWEST_S} s), most memory {most:.0f} "
        f"MB (limit {MOST_MB:.0f} MB), {faults} faults"
    )
    print(f"odd commands: {wrong} without their one sentence")
    for words, outcome in (
        ("drawings", drew),
        ("any type in any field", typed),
        ("forms", twice),
        ("full disk", full),
    ):
        print(f"{words}: { {key: count for key, count in outcome.items() if count} }")
    bad = sum(
        count
        for words, count in (came + flipped + drew + typed + twice + full).items()
        if words.startswith(("traceback", "dead", "slow"))
    )
    return int(bool(bad or wrong or faults or slowest > SLOWEST_S or most > MOST_MB))


if __name__ == "__main__":
    sys.exit(main())
