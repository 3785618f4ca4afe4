"""A pedal run over a socket: welded to its end and stored, waiting for a page that was away, closed to everybody else."""

import asyncio
import html
import json
import re
import sqlite3
import threading
from datetime import datetime, timedelta

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import text
from sqlalchemy.exc import OperationalError
from starlette.websockets import WebSocketDisconnect
from tests.web.test_door import WORDS, come_in

from anvilsong.config import Config
from anvilsong.core.job import Job
from anvilsong.core.practice import Practised
from anvilsong.core.practice.panels import panel_question
from anvilsong.core.practice.pedal_run import PedalRun
from anvilsong.core.practice.progress import Done, by_week, next_at_the_bench
from anvilsong.core.practice.thumb import THUMB_ITEMS, thumb_question
from anvilsong.core.said import in_units
from anvilsong.core.settings import Settings
from anvilsong.store import book, practice, shop
from anvilsong.store.models import JobRow
from anvilsong.store.reading import digest
from anvilsong.web import live
from anvilsong.web.app import create_app
from anvilsong.web.door import set_passphrase
from anvilsong.web.door.addresses import seen_from_outside
from anvilsong.web.job_view import job_view

OWN = {"origin": "http://127.0.0.1"}
HERE = "ws://127.0.0.1"
SHORT = f"{HERE}/practice/live?job=10&part=casting&mode=hold&welder=Bram"


def task_of(socket):
    return socket.receive_json()["task"]


def ends_with(socket):
    """The code that a socket is closed with by the server."""
    try:
        while True:
            socket.receive_json()
    except WebSocketDisconnect as gone:
        return gone.code


def seen_until(socket, is_there):
    """What is seen, up to what was waited for."""
    while True:
        message = socket.receive_json()
        if is_there(message):
            return message


def stepped(socket, pedal):
    """A paused run, stepped on to its end: as quickly as the machine computes it."""
    socket.send_json({"do": "pause", "pedal": pedal})
    seen, done = [], None
    seen_until(socket, lambda message: message.get("paused"))
    while done is None:
        socket.send_json({"do": "step"})
        for _ in range(10):
            message = socket.receive_json()
            if "seen" not in message:
                done = message.get("done", message)
                break
            seen.append(message["seen"])
    return seen, done


def test_a_run_is_welded_to_its_end_judged_and_stored(client):
    page = client.get("/practice?job=10&part=casting&welder=Bram").text
    assert 'data-part="casting"' in page
    assert "Done before" not in page
    with client.websocket_connect(SHORT, headers=OWN) as socket:
        task = task_of(socket)
        assert task["length"] == 26
        assert task["begins"] == pytest.approx(task["wanted"] / 2)
        first = socket.receive_json()["seen"]
        assert (first[0], first[-1]) == (0, "ready")
        socket.send_json({"pedal": 0.0})  # unhurried: no time passes before the pedal is pressed
        seen, done = stepped(socket, 0.9)
    assert [one[0] for one in seen] == sorted(one[0] for one in seen)
    assert {one[-1] for one in seen} >= {"waits", "moves"}
    assert isinstance(done, int)
    told = client.get(f"/practice/done/{done}").json()["done"]
    assert "Pool held" in told
    assert "pedal-ideal" in told
    again = client.get("/practice?job=10&welder=Bram").text
    assert "Even pool" in again.split('id="practised"')[1]
    assert "Done before" not in client.get("/practice?job=10&welder=Ottilie").text
    with client.app.state.sessions() as session:
        assert session.execute(text("SELECT welder, skill, item FROM practice")).all() == [
            ("Bram", "pedal", "hold")
        ]
    assert client.get("/practice/done/999").status_code == 404
    assert len(client.app.state.live_runs) == 0


def test_a_run_that_was_given_up_is_not_counted(client):
    with client.websocket_connect(SHORT, headers=OWN) as socket:
        task_of(socket)
        socket.send_json({"pedal": 1.0})
        seen_until(socket, lambda message: message["seen"][0] > 0.1)
        socket.send_json({"do": "stop"})
        said = seen_until(socket, lambda message: "said" in message)["said"]
    assert said == "Stopped. Nothing of it was counted."
    assert len(client.app.state.live_runs) == 0
    with client.app.state.sessions() as session:
        assert session.scalar(text("SELECT count(*) FROM practice")) == 0


def test_a_run_waits_for_its_page_and_goes_to_the_one_that_has_it_last(client):
    with client.websocket_connect(SHORT, headers=OWN) as socket:
        token = task_of(socket)["token"]
        socket.send_json({"pedal": 1.0})
        reached = seen_until(socket, lambda message: message["seen"][0] > 0.1)["seen"]
    runs = client.app.state.live_runs
    until = threading.Event()
    while runs.find(token).left_at is None:
        until.wait(0.01)
    with client.websocket_connect(f"{HERE}/practice/live?run={token}", headers=OWN) as socket:
        assert task_of(socket)["token"] == token
        now = socket.receive_json()
        assert now["paused"]
        assert now["seen"][0] >= reached[0]
        with client.websocket_connect(f"{HERE}/practice/live?run={token}", headers=OWN) as other:
            assert task_of(other)["token"] == token
            assert ends_with(socket) == 4001
            with client.websocket_connect(f"{HERE}/practice/live/hand?run={token}", headers=OWN) as hand:
                hand.send_json({"pedal": 0.4})
                other.send_json({"do": "go"})
                assert seen_until(other, lambda message: message["seen"][9] == 0.4)["seen"][7] > 0
    with client.websocket_connect(f"{HERE}/practice/live?run=none", headers=OWN) as socket:
        assert "over" in socket.receive_json()["said"]
    assert client.get(f"/practice/pedal/{token}").status_code == 200
    assert client.get("/practice/pedal/none").status_code == 404


@pytest.mark.parametrize(
    "message",
    [
        '{"pedal": 2}',
        '{"pedal": NaN}',
        '{"pedal": "x"}',
        "[]",
        "",
        '{"do": "fly"}',
        '{"more": 1}',
        '{"travel": -1}',
    ],
)
def test_messages_that_no_page_sends_end_the_socket_and_not_the_run(client, message):
    with client.websocket_connect(SHORT, headers=OWN) as socket:
        token = task_of(socket)["token"]
        socket.send_text(message)
        assert ends_with(socket) == 1008
    assert client.app.state.live_runs.find(token).is_paused


def test_what_cannot_be_practised_is_said(client):
    for query in ("job=999", "job=x", "part=own&mode=fly"):
        with client.websocket_connect(f"{HERE}/practice/live?{query}", headers=OWN) as socket:
            message = socket.receive_json()
            assert ("said" in message) == query.startswith("job=")
    assert client.get("/practice?job=999").status_code == 200
    assert client.get("/practice?job=2&part=nothing&mode=nothing&welder=Nobody").status_code == 200


@pytest.mark.parametrize("path", [SHORT, f"{HERE}/practice/live/hand?run=0"])
def test_sockets_are_for_pages_of_ours_alone(client, path):
    for headers in (
        {},
        {"origin": "http://evil.example"},
        {"origin": "https://127.0.0.1"},
        OWN | {"host": "evil.example"},
    ):
        with pytest.raises(WebSocketDisconnect), client.websocket_connect(path, headers=headers):
            pass


def test_on_the_shops_network_a_socket_wants_a_visit_and_ends_with_it(data_file, monkeypatch):
    monkeypatch.setattr(live.welding, "IN_STILL_S", 0.0)
    set_passphrase(data_file, WORDS)
    shop = "http://192.168.1.20:8765"
    with TestClient(create_app(Config(data=data_file).for_shop()), base_url=shop) as client:
        client.follow_redirects = False
        with (
            pytest.raises(WebSocketDisconnect),
            client.websocket_connect(SHORT.replace(HERE, "ws" + shop[4:]), headers={"origin": shop}),
        ):
            pass
        come_in(client)
        with client.websocket_connect(
            SHORT.replace(HERE, "ws" + shop[4:]), headers={"origin": shop}
        ) as socket:
            assert task_of(socket)["hand"].startswith(f"{shop}/practice/pedal/")
            socket.receive_json()
            set_passphrase(data_file, "another one altogether")
            assert ends_with(socket) == 4003


def test_a_phone_is_sent_to_the_shops_address_and_not_to_this_machines_own(tmp_path):
    alone, shop = Config(data=tmp_path / "a"), Config(data=tmp_path / "b", host="192.168.1.20").for_shop()
    assert seen_from_outside(alone, "http://127.0.0.1:8765/") == "http://127.0.0.1:8765"
    assert seen_from_outside(shop, "http://127.0.0.1:8765/").startswith(f"{shop.scheme}://")
    assert "127.0.0.1" not in seen_from_outside(shop, "http://localhost:8765/")
    assert seen_from_outside(shop, "https://bench.example:443/") == "https://bench.example:443"


def test_a_hundred_sockets_opened_and_dropped_leave_nothing(client, monkeypatch):
    runs = client.app.state.live_runs
    threads = None
    for number in range(100):
        with client.websocket_connect(SHORT, headers=OWN) as socket:
            token = task_of(socket)["token"]
        if number == 20:
            threads = threading.active_count()
    assert len(runs) <= live.runs.MOST_LIVE
    assert threading.active_count() <= threads + 2
    until = threading.Event()
    while runs.find(token).left_at is None:
        until.wait(0.01)
    monkeypatch.setattr(live.runs, "KEPT_S", 0.0)
    assert runs.find(token) is None
    assert len(runs) == 0


def test_a_server_welds_so_many_at_once_and_no_more(client, monkeypatch):
    monkeypatch.setattr(live.runs, "MOST_LIVE", 1)
    with client.websocket_connect(SHORT, headers=OWN) as first:
        task_of(first)
        with client.websocket_connect(SHORT, headers=OWN) as second:
            assert "Too many" in second.receive_json()["said"]


def test_what_somebody_practised_is_erased_for_them_alone(client):
    for who in ("Bram", "Ottilie"):
        with client.websocket_connect(SHORT.replace("Bram", who), headers=OWN) as socket:
            task_of(socket)
            stepped(socket, 0.95)
    page = client.get("/practice/progress?welder=Bram").text
    mark, book = (page.split(f'name="{name}" value="')[1].split('"')[0] for name in ("uid", "book"))
    sent = client.post("/practice/erase", data={"uid": mark, "book": book, "welder": "Bram"})
    assert sent.headers["location"] == "/practice"
    with client.app.state.sessions() as session:
        assert session.scalars(text("SELECT welder FROM practice")).all() == ["Ottilie"]


def rhythm_form(client, query="job=10&welder=Bram"):
    page = client.get(f"/practice/rhythm?{query}").text
    return {name: page.split(f'name="{name}" value="')[1].split('"')[0] for name in ("uid", "book", "shown")}


def test_taps_are_judged_stored_and_drawn(client):
    page = client.get("/practice/rhythm?job=10").text
    beats = json.loads(html.unescape(page.split('data-beats="')[1].split('"')[0]))
    assert len(beats) == 27
    given = {"job": "10", "bead": "straight", "welder": "Bram"}
    sent = client.post("/practice/rhythm", data=rhythm_form(client) | given | {"taps": json.dumps(beats)})
    assert sent.status_code == 303
    assert "welder=Bram" in sent.headers["location"]  # what comes next counts for the same hands
    told = client.get(sent.headers["location"]).text
    assert "In time: 100 %" in told
    assert "/practice/changes?welder=Bram&amp;job=10" in told
    assert told.count("rhythm-ripple") == 2 * 27
    assert ": even." in told
    uneven = [beat + (0.2 if number % 2 else -0.1) for number, beat in enumerate(beats[:20])]
    sent = client.post("/practice/rhythm", data=rhythm_form(client) | given | {"taps": json.dumps(uneven)})
    told = client.get(sent.headers["location"]).text
    assert "The time before: 100 %." in told
    assert "7 missed" in told
    assert "uneven" in told
    stopped = client.get("/practice/rhythm?job=10&bead=stopped").text
    assert "two ripples back" in stopped
    for number in ("999", "x", ""):
        assert client.get(f"/practice/rhythm?done={number}").status_code == 200


@pytest.mark.parametrize(
    "taps", ["", "[]", "{}", "[1, null]", "[1e999]", "[NaN]", "[" * 4000, "[500]", "[-1]", "0", "[true, []]"]
)
def test_what_is_no_taps_is_refused_and_nothing_is_stored(client, taps):
    given = {"job": "10", "bead": "straight", "welder": "Bram", "taps": taps}
    sent = client.post("/practice/rhythm", data=rhythm_form(client) | given)
    assert sent.status_code == 422
    assert "tap at least once" in sent.text
    with client.app.state.sessions() as session:
        assert session.scalar(text("SELECT count(*) FROM practice")) == 0


def question_of(client, query="job=10&level=1&welder=Bram"):
    page = client.get(f"/practice/changes?{query}").text
    names = ("uid", "book", "job", "welder", "level", "item", "seed", "shown")
    return page, {name: page.rsplit(f'name="{name}" value="', 1)[1].split('"')[0] for name in names}


def test_a_question_is_answered_judged_and_followed_by_another(client):
    page, form = question_of(client)
    assert page.count('type="radio"') == 12
    assert "The model says" not in page  # nothing of the answer stands in the question
    missing = client.post("/practice/changes", data=form | {"pool": "more"})
    assert missing.status_code == 422
    assert "Cleaned border, Load on the tungsten, Noise of the arc" in missing.text
    assert re.search(r'name="pool" value="more"\s+checked', missing.text)
    assert f'name="item" value="{form["item"]}"' in missing.text  # the same question, with what was chosen
    given = dict.fromkeys(("pool", "border", "tungsten", "noise"), "more")
    sent = client.post("/practice/changes", data=form | given)
    assert sent.status_code == 303
    assert "welder=Bram" in sent.headers["location"]
    told = client.get(sent.headers["location"]).text
    assert "The model says" in told
    with client.app.state.sessions() as session:
        row = session.execute(text("SELECT item, score, document FROM practice")).one()
        answer = json.loads(row.document)["answer"]
        assert row.item == form["item"]
        hits = sum(answer["given"][name] == way for name, way in answer["right"].items())
        assert row.score == 25 * hits
    _, again = question_of(client)
    assert again["item"] != form["item"]
    right = client.post(
        "/practice/changes",
        data=form
        | question_of(client)[1]
        | {name: form[name] for name in ("item", "seed", "shown")}
        | answer["right"],
    )
    assert "All four right" in client.get(right.headers["location"]).text


@pytest.mark.parametrize(
    "change", [{"item": "amps_set"}, {"seed": "x"}, {"item": ""}, {"job": "999"}, {"level": "2"}]
)
def test_a_question_that_is_none_is_told_and_not_stored(client, change):
    _, form = question_of(client)
    given = dict.fromkeys(("pool", "border", "tungsten", "noise"), "same")
    sent = client.post("/practice/changes", data=form | given | change)
    assert sent.status_code == 422
    with client.app.state.sessions() as session:
        assert session.scalar(text("SELECT count(*) FROM practice")) == 0
    assert (
        client.get("/practice/changes?job=2&level=9&done=x&welder=Nobody&item=ep_share&seed=99").status_code
        == 200
    )


def panel_form(client):
    page = client.get("/practice/panels?job=10&welder=Bram").text
    names = ("uid", "book", "job", "item", "seed", "shown")
    form = {name: page.rsplit(f'name="{name}" value="', 1)[1].split('"')[0] for name in names}
    return page, form | {"welder": "Bram"}


def test_a_panels_figure_is_judged_and_told(client):
    page, form = panel_form(client)
    for bad, said in (("", "uch as "), ("much", "such as"), ("1e9", "such as")):
        refused = client.post("/practice/panels", data=form | {"answer": bad})
        assert refused.status_code == 422
        assert said in refused.text
        assert f'value="{bad}"' in refused.text
        assert page.split("<h2>")[-1].split("</h2>")[0] in refused.text  # the same question
    with client.app.state.sessions() as session:
        machines, view = shop.machines(session), job_view(session, 10)
    for _ in range(6):
        _, form = panel_form(client)
        if form["item"] in THUMB_ITEMS:
            question = thumb_question(view.machine, form["item"], int(form["seed"]))
        else:
            question = panel_question(machines, view.settings, form["item"], int(form["seed"]))
        sent = client.post("/practice/panels", data=form | {"answer": f"{question.right:.2f}"})
        told = client.get(sent.headers["location"]).text
        assert f"Right: {in_units(question.shown)}" in html.unescape(told)
    _, form = panel_form(client)
    sent = client.post("/practice/panels", data=form | {"answer": "-99999"})
    assert "welder=Bram" in sent.headers["location"]
    assert "Not quite" in client.get(sent.headers["location"]).text
    assert "6 of the last 7 right." in client.get("/practice/panels?job=10&welder=Bram").text
    assert (
        client.post("/practice/panels", data=panel_form(client)[1] | {"item": "x", "answer": "1"}).status_code
        == 422
    )


def test_a_rod_by_rule_of_thumb_is_read_with_its_unit(client):
    _, form = panel_form(client)
    with client.app.state.sessions() as session:
        view = job_view(session, 10)
    question = thumb_question(view.machine, "thumb rod", 5)
    shown = digest(["thumb rod", in_units(question.asked)])
    form |= {"item": "thumb rod", "seed": "5", "shown": shown}
    for typed, is_near in (
        (f"{question.right:g} mm", True),
        (f"{question.right / 25.4:.3f} in", True),
        ("5", False),
    ):
        form["uid"] = panel_form(client)[1]["uid"]
        sent = client.post("/practice/panels", data=form | {"answer": typed})
        told = client.get(sent.headers["location"]).text
        assert (f"Right: {question.right:g} mm" in told) == is_near
    refused = client.post(
        "/practice/panels", data=form | {"uid": panel_form(client)[1]["uid"], "answer": " "}
    )
    assert refused.status_code == 422
    assert "such as 2.4 mm or 3/32" in refused.text


def test_without_a_job_or_a_machine_practice_still_opens(tmp_path):
    with TestClient(create_app(Config(data=tmp_path / "new.sqlite")), base_url="http://127.0.0.1") as client:
        for path in ("/practice", "/practice/rhythm", "/practice/changes", "/practice/panels"):
            page = client.get(path)
            assert page.status_code == 200
            assert "Plan a first job" in page.text
        with client.websocket_connect(f"{HERE}/practice/live", headers=OWN) as socket:
            assert "job" in socket.receive_json()["said"]


def test_progress_by_week_for_the_bench_and_as_files(client):
    monday = datetime(2026, 3, 2, 9)
    with client.app.state.sessions.begin() as session:
        for week, score in enumerate((40, 60, 90)):
            for skill, off in (("pedal", 0), ("rhythm", -30)):
                done = Practised(skill=skill, item="hold", score=score + off, on="=2+3", machine="Heron 320")
                practice.add_practised(session, "Bram", done).made_at = monday + timedelta(days=7 * week + 2)
    page = client.get("/practice/progress?welder=Bram").text
    assert re.findall(r"<td>(\d+) %</td><td>(\d+)</td>", page) == [("63", "3"), ("33", "3")]
    assert page.split('id="at-the-bench"')[1].index("counting aloud") < page.split('id="at-the-bench"')[
        1
    ].index("narrow strip")
    untrained = client.get("/practice/progress?welder=Ottilie").text
    assert "Nothing practised yet" in untrained
    assert "twenty minutes" not in untrained
    assert re.search(r"Real coupons</th><td>\d+ %</td><td>3</td>", untrained)  # those of her jobs
    given = client.get("/api/practice?welder=Bram").json()["practice"]
    assert [one["score"] for one in given] == [60, 90, 30, 60, 10, 40]
    lines = client.get("/practice/progress.csv?welder=Bram").text.splitlines()
    assert lines[0] == "made_at,welder,skill,item,score,on,machine,seconds"
    assert lines[1] == "2026-03-18T09:00:00,Bram,rhythm,hold,60.0,'=2+3,Heron 320,0.0"
    assert len(lines) == 7
    weeks = by_week([Done(monday + timedelta(days=days), "rhythm", 50) for days in (6, 7)])["rhythm"]
    assert [(week.monday.day, week.times) for week in weeks] == [(2, 1), (9, 1)]
    assert next_at_the_bench([Done(monday, "eye", 99)]) != next_at_the_bench([Done(monday, "eye", 10)])
    assert client.get("/api/practice?welder=Bram&page=2").json() == {
        "welder": "Bram",
        "count": 6,
        "pages": 1,
        "practice": [],
    }
    # Bram's own last job is welded by pedal: what no panel sets stands there too, and what is turned is marked.
    bench = page.split('id="at-the-bench"')[1]
    assert "Coupon 2" in bench
    assert ">Travel</th>" in bench
    with client.app.state.sessions.begin() as session:
        practice.add_practised(session, "Bram", Practised(skill="eye", item="two:far", score=0, on="x"))
    turned = client.get("/practice/progress?welder=Bram").text.split('id="at-the-bench"')[1]
    row = re.search(r'<tr class="turned">.*?</tr>', turned, re.DOTALL)[0]
    cells = re.findall(r"<td>(.*?)</td>", row)
    assert len(cells) == 2
    assert cells[0] != cells[1]


def test_a_hand_is_heard_as_often_as_it_can_move_and_no_more(monkeypatch):
    now = [100.0]
    monkeypatch.setattr(live.messages.time, "monotonic", lambda: now[0])
    hearing = live.Hearing()
    heard = [hearing.read('{"pedal": 0.5}') is not None for _ in range(live.messages.MOST_A_SECOND + 5)]
    assert sum(heard) == live.messages.MOST_A_SECOND
    now[0] += 1.1
    assert hearing.read('{"do": "stop"}').do == "stop"


def test_a_run_that_fails_fails_alone():
    class Runs:
        def __init__(self, fails):
            self.fails = fails

        def step(self, *hand):
            if self.fails:
                raise ZeroDivisionError
            return hand

    async def together():
        stepper = live.stepping.Stepper()
        given = [stepper.step(Runs(fails), 0.02, 0.5, 1.0) for fails in (False, True, False)]
        found = await asyncio.gather(*given, return_exceptions=True)
        assert [type(one).__name__ for one in found] == ["tuple", "ZeroDivisionError", "tuple"]
        assert await stepper.step(Runs(False), 0.02, 0.1, 1.0) == (0.02, 0.1, 1.0)
        stepper.runs = live.stepping.FEW + 1
        assert stepper.step_s == live.stepping.STEP_OF_MANY_S

    asyncio.run(together())


def test_a_fault_in_a_run_is_told_once_and_the_run_forgotten(client, monkeypatch, caplog):
    monkeypatch.setattr(PedalRun, "step", lambda *given: 1 / 0)
    with client.websocket_connect(SHORT, headers=OWN) as socket:
        task_of(socket)
        socket.send_json({"pedal": 1.0})
        assert "fault of the program" in seen_until(socket, lambda message: "said" in message)["said"]
    assert len(client.app.state.live_runs) == 0
    assert "A pedal run failed" in caplog.text


def test_what_was_changed_in_another_window_is_told_and_not_counted(client):
    """A question, a panel or a rhythm is judged as it was shown, or not at all."""
    _, question = question_of(client)
    _, panel = panel_form(client)
    rhythm = rhythm_form(client) | {"job": "10", "bead": "straight", "welder": "Bram", "taps": "[0, 0.6]"}
    with client.app.state.sessions.begin() as session:
        plan = book.find_plan(session, 10)
        faster = {"travel_mm_s": 2.5, "amps_run": 60.0, "ep_share": 0.45, "frequency_hz": 60, "ep_trim": -0.3}
        changed = Settings.model_validate(plan.settings | faster)
        row = session.get(JobRow, 10)
        book.add_plan(session, row, Job.model_validate(plan.job_document), "board", "", changed)
    same = dict.fromkeys(("pool", "border", "tungsten", "noise"), "same")
    for path, form in (
        ("/practice/changes", question | same),
        ("/practice/rhythm", rhythm),
        ("/practice/panels", panel | {"shown": "0" * 16, "answer": "1"}),
    ):
        sent = client.post(path, data=form)
        assert sent.status_code == 422, path
        assert "It was changed meanwhile" in sent.text
    with client.app.state.sessions() as session:
        assert session.scalar(text("SELECT count(*) FROM practice")) == 0


def test_a_run_that_cannot_be_stored_waits_and_is_stored_once(client, monkeypatch):
    add, tried = practice.add_practised, []

    def busy(*given):
        tried.append(given)
        if len(tried) == 1:
            raise OperationalError("INSERT", {}, sqlite3.OperationalError("database is locked"))
        return add(*given)

    monkeypatch.setattr(practice, "add_practised", busy)
    with client.websocket_connect(SHORT, headers=OWN) as socket:
        token = task_of(socket)["token"]
        _, message = stepped(socket, 0.95)
        assert "could not be stored" in message["said"]
        assert ends_with(socket) == 4503
    for _ in range(2):  # the page that heard nothing asks again, and once more
        client.app.state.live_runs._runs.setdefault(token, live_run := client.app.state.live_runs.find(token))
        with client.websocket_connect(f"{HERE}/practice/live?run={token}", headers=OWN) as socket:
            done = seen_until(socket, lambda message: "done" in message)["done"]
        client.app.state.live_runs._runs[token] = live_run
    assert done == live_run.kept_as
    with client.app.state.sessions() as session:
        assert session.scalar(text("SELECT count(*) FROM practice")) == 1


def test_a_run_that_nobody_goes_on_with_is_put_away(client, monkeypatch):
    monkeypatch.setattr(live.welding, "IDLE_S", 0.05)
    with client.websocket_connect(SHORT, headers=OWN) as socket:
        task_of(socket)
        assert ends_with(socket) == 4008
    with client.websocket_connect(f"{HERE}/practice/live/hand?run=none", headers=OWN) as socket:
        assert ends_with(socket) == 4404
    assert "Float tank lid" in client.get("/practice?job=2").text  # a refused job is practised on another one
