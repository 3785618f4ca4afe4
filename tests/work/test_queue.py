"""A logbook on a server: any server process asks, any worker does, and what a killed one was at is done by another, once."""

import io
import json
import os
import re
import signal
import subprocess
import time

import numpy as np
import pytest
from fastapi.testclient import TestClient
from PIL import Image
from sqlalchemy import text
from tests.conftest import COMMAND, environment
from tests.web.test_part import SMALL, finished

from anvilsong.config import Config
from anvilsong.core.coefficients import nominal
from anvilsong.core.errors import AnvilsongError, BadInput, CannotRead
from anvilsong.core.job import read_job
from anvilsong.core.plan import make_plan
from anvilsong.core.said import in_units
from anvilsong.core.warming import PRESETS
from anvilsong.store import heat_runs
from anvilsong.store.database import open_database, sessions
from anvilsong.store.export import export_to
from anvilsong.web.app import create_app
from anvilsong.work import PARTS, PICTURES, Ended, NoRoom, Stopped, rooms, tasks
from anvilsong.work.queue import Queue, Works, prepare
from anvilsong.work.queue.values import (
    Local,
    found_json,
    given_json,
    read_found,
    read_given,
    read_refusal,
    refusal_json,
)

PATIENCE_S = 400
LINES = b'<svg xmlns="http://www.w3.org/2000/svg" width="80mm" height="40mm" viewBox="0 0 80 40"><path d="M0 0H80V40H0Z"/></svg>'


@pytest.fixture
def place(database_server, workshop_on_server, tmp_path):
    made = database_server.place(tmp_path, workshop_on_server)
    yield made
    database_server.drop(made)


@pytest.fixture
def stored(place):
    """What stands in the logbook."""
    engine = open_database(place)
    yield sessions(engine)
    engine.dispose()


@pytest.fixture
def workers(place, tmp_path):
    """Starts workers; what still works at the end is killed."""
    running = []

    def start():
        prepare(place)
        works = Works(place)
        with (tmp_path / f"worker-{len(running)}.txt").open("w") as said:
            settings = environment(place.url, ANVILSONG_FOLDER=str(place.folder))
            running.append(
                subprocess.Popen([COMMAND, "work"], env=settings, stdout=said, stderr=subprocess.STDOUT)
            )
        until = time.monotonic() + PATIENCE_S
        while works.workers() < 3 * sum(each.poll() is None for each in running):
            assert time.monotonic() < until, "no worker"
            assert running[-1].poll() is None
            time.sleep(0.05)
        works.close()
        return running[-1]

    yield start
    for worker in running:
        worker.kill()
        worker.wait(30)


@pytest.fixture
def queue(place):
    asked = Queue(place)
    yield asked
    asked.close()


@pytest.fixture
def asks(place):
    """A server process on the same logbook; several may be open at once."""
    with TestClient(
        create_app(Config(data=place, folder=place.folder, answer_within_s=200)),
        base_url="http://127.0.0.1",
        follow_redirects=False,
    ) as client:
        yield client


JOB = read_job({"a": {"alloy": "6061", "thickness": 3.2}, "joint": "butt"})


def test_what_is_sent_comes_as_it_was():
    part = PRESETS["plate"][1]()
    settings = make_plan(JOB).settings
    given = (JOB, settings, nominal(), part, True)
    assert read_given("weld", 5, given_json("weld", given), {}) == list(given)
    local = {Local.LOGBOOK: "the place", Local.SENT: "a file"}
    sent = given_json("import_book", ("elsewhere", "mine", True))
    assert sent == "[true]"
    assert read_given("import_book", 3, sent, local) == ["the place", "a file", True]
    drawing = tasks.read_outlines(LINES, "plate.svg")
    came = read_found("read_outlines", found_json("read_outlines", drawing))
    assert [in_units(said) for said in came.said] == [in_units(said) for said in drawing.said]
    assert all(
        np.array_equal(one.corners, other.corners) and one.is_hole == other.is_hole
        for one, other in zip(came.outlines, drawing.outlines, strict=True)
    )
    coarse = part.model_copy(update={"cell_mm": 4.0})
    result, film = rooms.submit(PARTS, tasks.weld, JOB, settings, nominal(), coarse, False).result()
    rooms.close()
    assert read_found("weld", found_json("weld", (result, film))) == (result, film)


@pytest.mark.parametrize(
    "refused",
    [
        BadInput.one("photograph", "a\nb", "choose a picture"),
        CannotRead("The file", "it is empty"),
        AnvilsongError("Not now."),
        Ended("It took too long."),
    ],
)
def test_a_refusal_comes_as_it_was(refused):
    came = read_refusal(refusal_json(refused))
    assert (type(came), str(came)) == (type(refused), str(refused))
    if isinstance(refused, BadInput):
        assert [(each.field, each.given) for each in came.problems] == [
            (each.field, each.given) for each in refused.problems
        ]


def test_without_a_worker_it_says_so_and_stores_nothing(asks, queue, stored, job_id):
    job = job_id("Float tank")
    answer = asks.post(f"/jobs/{job}/part", data=SMALL)
    assert (answer.status_code, "anvilsong work" in answer.text) == (503, True)
    with stored() as session:
        assert heat_runs.newest_heat_run(session, job) is None
    with pytest.raises(NoRoom, match="No worker"):
        queue.submit(PICTURES, tasks.read_outlines, LINES, "plate.svg")
    answer = asks.get("/book/export.json")
    assert answer.status_code == 503


def test_parts_photographs_exports_and_refusals_go_through_a_worker(asks, workers, stored, job_id, tmp_path):
    workers()
    job = job_id("Float tank")
    run, seen = finished(asks, asks.post(f"/jobs/{job}/part", data=SMALL).headers["location"])
    assert seen == {"state": "done", "share": 1.0, "said": ""}
    assert asks.get(f"/api/heat-runs/{run}/film").status_code == 200
    outline = asks.post(f"/jobs/{job}/part/outline", files={"file": ("part.svg", LINES)})
    assert (outline.status_code, "80 mm" in outline.text) == (200, True)
    bad = asks.post(f"/jobs/{job}/part/outline", files={"file": ("part.svg", b"no drawing")})
    with pytest.raises(BadInput) as there:
        tasks.read_outlines(b"no drawing", "part.svg")
    assert bad.status_code == 422
    assert in_units(there.value.problems[0].allowed) in " ".join(bad.text.split())
    exported = asks.get("/book/export.json")
    with stored() as session:
        export_to(session, tmp_path / "own.json")
    same, own = exported.json(), json.loads((tmp_path / "own.json").read_text("utf-8"))
    assert same | {"made_at": ""} == own | {"made_at": ""}
    looked = asks.post("/book/import", files={"file": ("own.json", io.BytesIO(exported.content))})
    assert looked.status_code == 303
    torn = asks.post("/book/import", files={"file": ("own.json", b"{torn")})
    assert (torn.status_code, "The file cannot be read" in torn.text) == (422, True)
    picture = io.BytesIO()
    Image.new("RGB", (640, 480), "grey").save(picture, "PNG")
    taken = asks.post(f"/jobs/{job}/photographs", files={"file": ("bead.png", picture.getvalue())})
    assert taken.status_code == 303
    assert asks.get(taken.headers["location"]).status_code == 200
    assert asks.get("/book/sheets/coupons.csv").text.startswith("\ufeffuid,job")
    # Nothing of it stays: no row of what was fetched, no file beside.
    with stored() as session:
        assert session.scalar(text("SELECT count(*) FROM works WHERE part IS NULL AND state = 'done'")) == 0
        assert session.scalar(text("SELECT count(*) FROM work_pieces")) == 0
    assert [each.name for each in tmp_path.iterdir() if each.name.endswith(".work")] == []


def test_a_part_is_stopped_at_its_next_step(asks, workers, job_id):
    workers()
    job = job_id("Float tank")
    address = asks.post(f"/jobs/{job}/part", data=SMALL | {"cell_mm": "0.6", "others": "1"}).headers[
        "location"
    ]
    run = int(re.search(r"run=(\d+)", address)[1])
    until = time.monotonic() + PATIENCE_S
    while asks.get(f"/api/heat-runs/{run}").json()["share"] <= 0:
        assert time.monotonic() < until
        time.sleep(0.05)
    asks.post(f"/jobs/{job}/part/{run}/stop")
    _, seen = finished(asks, address)
    assert (seen["state"], "drawing" in seen["said"]) == ("stopped", True)


def test_a_killed_worker_leaves_its_part_to_another_who_does_it_once(asks, workers, stored, job_id):
    first = workers()
    job = job_id("Float tank")
    address = asks.post(f"/jobs/{job}/part", data=SMALL | {"cell_mm": "1.2", "others": "1"}).headers[
        "location"
    ]
    run = int(re.search(r"run=(\d+)", address)[1])
    until = time.monotonic() + PATIENCE_S
    while asks.get(f"/api/heat-runs/{run}").json()["share"] <= 0:
        assert time.monotonic() < until
        time.sleep(0.02)
    os.kill(first.pid, signal.SIGKILL)
    first.wait(30)
    second = workers()
    _, seen = finished(asks, address)
    assert seen == {"state": "done", "share": 1.0, "said": ""}
    with stored() as session:
        row = heat_runs.find_heat_run(session, run)
        assert heat_runs.result_of(row) is not None
        (turn, state), *others = session.execute(
            text("SELECT turn, state FROM works WHERE part = :part"), {"part": row.uid}
        ).all()
    assert (turn, state, others) == (2, "done", [])
    assert second.poll() is None


def test_only_the_turn_that_counts_ends_a_work(queue):
    """A worker that was thought gone, and another that took over: what the first says comes too late."""
    number = queue.works.add("Parts", "", None, "weld", 0, "[]")
    slow = queue.works.begin(number)
    quick = queue.works.begin(number)
    assert (slow.turn, quick.turn) == (1, 2)
    assert queue.works.goes_on(slow, 0.5) == "lost"
    assert not queue.works.finish(slow, "done", "[1]")
    assert queue.works.goes_on(quick, 0.25) == "on"
    queue.works.stop(number)
    assert queue.works.goes_on(quick, 0.3) == "stops"
    assert queue.works.finish(quick, "stopped", None)
    assert not queue.works.finish(quick, "done", "[1]")
    assert queue.works.begin(number) is None


def test_a_work_that_was_lost_takes_no_place(queue):
    """A server was killed between its row and its job: after a while it has failed, and others have room."""
    number = queue.works.add("Parts", "", "a" * 32, "weld", 0, "[]")
    assert queue.works.open_in("Parts") == 1
    queue.works._ask("UPDATE works SET made_at = made_at - interval '1 minute'")
    assert queue.works.open_in("Parts") == 0
    assert queue.works.find(number).state == queue.works.of_part("a" * 32).state == "failed"


def test_what_waits_gives_way_and_what_was_stopped_is_not_begun(queue, workers):
    workers()
    first = queue.works.add("Parts", "page", None, "weld", 0, "[]")
    queue.works.give_way("Parts", "page")
    assert queue.works.begin(first) is None
    assert queue.works.find(first).state == "stopped"
    task = queue.submit(PICTURES, tasks.read_outlines, LINES, "plate.svg")
    assert len(task.result().outlines) == 1
    ended = queue.submit(
        PARTS, tasks.weld, JOB, make_plan(JOB).settings, nominal(), PRESETS["plate"][1](), True
    )
    ended.end()
    with pytest.raises(Stopped):
        ended.result()
