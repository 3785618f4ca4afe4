"""What stands around the pages: origins, host names, sizes, patience, faults, forms sent twice, saves on top of one another."""

import json
import logging
import re
import sqlite3
import threading
import time
from contextlib import closing

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import text

from anvilsong.config import Config
from anvilsong.store import book
from anvilsong.web.app import create_app
from anvilsong.web.pages import book_page

HTML = {"accept": "text/html"}
JOB = {"title": "Thwart clip", "a_alloy": "6061", "a_thickness": "3 mm", "joint": "butt"}
COUPON = {
    "bead_width_mm": "6",
    "border_left_mm": "1",
    "border_right_mm": "1",
    "length_mm": "100",
    "seconds": "28",
}


def count(make_session, table):
    with make_session() as session:
        return session.scalar(text(f"SELECT count(*) FROM {table}"))


@pytest.mark.parametrize(
    "headers",
    [
        {"origin": "http://elsewhere.example"},
        {"origin": "null"},
        {"origin": "http://127.0.0.1:9999"},
        {"origin": "https://127.0.0.1"},
        {"sec-fetch-site": "cross-site"},
        {"sec-fetch-site": "same-site", "origin": "http://127.0.0.1"},
    ],
)
def test_another_site_writes_nothing(client, make_session, headers):
    before = count(make_session, "jobs")
    for address, data in (
        ("/jobs/new", JOB),
        ("/jobs/8/tune", {"amps_set": "99"}),
        ("/jobs/8/put-away", {}),
        ("/units", {"to": "inch"}),
    ):
        answer = client.post(address, data=data, headers=headers | HTML)
        assert answer.status_code == 403
        assert "set-cookie" not in answer.headers
    assert (
        client.post(
            "/api/plan", content=json.dumps({"a": {}}), headers=headers | {"content-type": "text/plain"}
        ).status_code
        == 403
    )
    assert count(make_session, "jobs") == before
    own = client.post(
        "/jobs/new", data=JOB, headers={"origin": "http://127.0.0.1", "sec-fetch-site": "same-origin"}
    )
    assert own.status_code == 303


@pytest.mark.parametrize(
    "host", ["elsewhere.example", "127.0.0.1.elsewhere.example", "10.0.0.7", "", "[::", "localhost.elsewhere"]
)
def test_foreign_names_are_not_served(client, host):
    assert client.get("/book", headers={"host": host}).status_code == 421


def test_own_names_are_served(client, data_file):
    for host in ("localhost:8765", "127.0.0.1:8765", "[::1]:8765", "127.0.0.2"):
        assert client.get("/healthz", headers={"host": host}).status_code == 200, host
    shared = create_app(Config(data=data_file, host="0.0.0.0", hosts="bench-pc, shop.lan"))
    with TestClient(shared, base_url="http://192.168.1.20:8765") as other:
        assert other.get("/healthz").status_code == 200
        assert other.get("/healthz", headers={"host": "bench-pc:8765"}).status_code == 200
        assert other.get("/healthz", headers={"host": "elsewhere.example"}).status_code == 421


def test_headers_of_every_answer(client):
    for address in ("/book", "/nowhere", "/static/js/frame.js", "/api/openapi.json", "/healthz"):
        headers = client.get(address, headers=HTML).headers
        assert "script-src 'self';" in headers["content-security-policy"]
        assert "frame-ancestors 'none'" in headers["content-security-policy"]
        assert (headers["x-content-type-options"], headers["referrer-policy"]) == ("nosniff", "same-origin")


def test_no_page_has_a_script_in_it(client):
    """What the policy forbids would be dead code: no inline script, no handler in an attribute, nothing from outside."""
    for address in (
        "/book",
        "/jobs/8/tune",
        "/jobs/8/job",
        "/jobs/8/torch",
        "/jobs/8/card",
        "/shop",
        "/shop/machines/1",
        "/api/docs",
    ):
        page = client.get(address, headers=HTML).text
        assert " onclick=" not in page
        assert "javascript:" not in page
        assert 'src="http' not in page
        for script in page.split("<script")[1:]:
            assert script.split(">")[0].count("src=") or 'type="application/json"' in script.split(">")[0], (
                address
            )


def test_too_much_is_refused_with_a_sentence(client, make_session):
    before = count(make_session, "jobs")
    answer = client.post("/jobs/new", data=JOB | {"title": "x" * 1_100_000}, headers=HTML)
    assert answer.status_code == 413
    assert "At most 1 MB" in answer.text
    answer = client.post("/api/plan", content=b" " * 1_100_000, headers={"content-type": "application/json"})
    assert (answer.status_code, answer.json()["status"]) == (413, 413)
    assert count(make_session, "jobs") == before
    for title in ("x" * 900_000, "two\nlines", "\u202egnp.exe", "", "   ", "…"):
        for address in ("/jobs/new", "/jobs/8/job"):
            answer = client.post(address, data=JOB | {"title": title, "was_title": "y"}, headers=HTML)
            # An empty name proposes itself, or stays as it was.
            assert answer.status_code == (422 if title.strip() else 303)


def test_what_takes_too_long_is_told_so_and_stores_nothing(data_file, make_session, monkeypatch):
    real, freed, ends = book.add_job, threading.Event(), []

    def slow(*given):
        freed.wait(200)
        ends.append(real(*given))
        return ends[-1]

    monkeypatch.setattr(book_page.book, "add_job", slow)
    before = count(make_session, "jobs")
    with TestClient(
        create_app(Config(data=data_file, answer_within_s=0.4)),
        base_url="http://127.0.0.1",
        follow_redirects=False,
    ) as client:
        answer = client.post("/jobs/new", data=JOB, headers=HTML)
        assert answer.status_code == 503
        assert "longer than 0.4 s and was given up. Nothing was stored" in answer.text
        assert client.get("/healthz").status_code == 200
        freed.set()
        while len(ends) < 2:  # gone through beforehand, then in earnest
            time.sleep(0.01)
        with client.app.state.sessions.begin():  # its turn has come and gone
            pass
        assert count(make_session, "jobs") == before
    monkeypatch.undo()
    with TestClient(create_app(Config(data=data_file)), base_url="http://127.0.0.1") as client:
        assert client.post("/jobs/new", data=JOB, headers=HTML).status_code == 200


def test_a_fault_is_a_page_that_keeps_the_input(client, monkeypatch, caplog):
    caplog.set_level(logging.ERROR, "anvilsong")

    def breaks(*_given):
        raise RuntimeError("a mistake of ours")

    monkeypatch.setattr(book_page.book, "add_job", breaks)
    answer = client.post("/jobs/new", data=JOB, headers=HTML | {"referer": "http://127.0.0.1/jobs/new"})
    assert answer.status_code == 500
    assert "a mistake of ours" not in answer.text
    assert 'name="title" value="Thwart clip"' in answer.text
    assert 'href="/jobs/new"' in answer.text
    number = answer.text.split("log as ")[1][:8]
    assert [number in record.getMessage() and bool(record.exc_info) for record in caplog.records] == [True], (
        number
    )
    problem = client.post("/jobs/new", data=JOB, headers={"accept": "application/json"})
    assert (problem.status_code, problem.headers["content-type"]) == (500, "application/problem+json")
    monkeypatch.undo()
    assert client.post("/jobs/new", data=JOB, headers=HTML).status_code == 303


def test_a_busy_book_keeps_the_input(client, data_file, monkeypatch):
    monkeypatch.setattr("anvilsong.store.database.BUSY_S", 0.2)
    with closing(sqlite3.connect(data_file, isolation_level=None)) as other:
        other.execute("BEGIN IMMEDIATE")
        with client.app.state.sessions.engine.connect() as connection:
            connection.exec_driver_sql("PRAGMA busy_timeout = 200")
        answer = client.post("/jobs/new", data=JOB, headers=HTML)
        other.execute("ROLLBACK")
    assert answer.status_code == 503
    assert "The logbook is busy" in answer.text
    assert 'name="a_alloy" value="6061"' in answer.text
    assert client.post("/jobs/new", data=JOB, headers=HTML).status_code == 303


def settings_of(make_session, job):
    with make_session() as session:
        row = book.get_job(session, job)
        return row.plans[-1].settings, len(row.plans)


def test_a_stale_board_reverts_nothing(client, make_session):
    """Ann and Ben open revision 1. Ann changes the frequency; Ben's balance is put on top of it, his amps clash with hers."""
    assert (
        client.post(
            "/jobs/8/tune", data={"from_revision": "1", "frequency_hz": "150", "amps_set": "140"}
        ).status_code
        == 303
    )
    assert client.post("/jobs/8/tune", data={"from_revision": "1", "ep_share": "34"}).status_code == 303
    kept, count = settings_of(make_session, 8)
    assert (kept["frequency_hz"], round(kept["amps_set"]), kept["ep_share"], count) == (150, 140, 0.34, 3)
    clash = client.post(
        "/jobs/8/tune", data={"from_revision": "1", "amps_set": "120", "frequency_hz": "110"}, headers=HTML
    )
    assert clash.status_code == 422
    assert (
        "your 120 A cannot be used; version 3 (Tuned: AC balance) says 140 A; save again to have yours"
        in clash.text
    )
    shown = dict(re.findall(r'name="(amps_set|frequency_hz)"\s+value="([^"]*)"', clash.text))
    assert shown == {"amps_set": "120", "frequency_hz": "150"}  # not touched by Ben: Ann's stays
    assert 'name="from_revision" value="3"' in clash.text
    assert settings_of(make_session, 8)[1] == 3
    assert client.post("/jobs/8/tune", data={"from_revision": "3", "amps_set": "120"}).status_code == 303
    kept, count = settings_of(make_session, 8)
    assert (kept["frequency_hz"], round(kept["amps_set"]), count) == (150, 120, 4)
    # An older revision, opened on purpose, comes back as it was.
    old = client.get("/jobs/8/tune?revision=1", headers=HTML).text
    assert 'name="as_it_was" value="1"' in old
    assert client.post("/jobs/8/tune", data={"from_revision": "1", "as_it_was": "1"}).status_code == 303
    assert settings_of(make_session, 8)[0]["frequency_hz"] == 110


def test_a_stale_job_form_and_torch(client, make_session):
    form = JOB | {
        "title": "Survey raft rail, 1/8 in 6061",
        "was_title": "Survey raft rail, 1/8 in 6061",
        "from_revision": "1",
    }
    with make_session() as session:
        job = book.get_job(session, 8)
        opened = {
            "a_alloy": "6061",
            "a_thickness": "1/8",
            "joint": "tee",
            "machine": "Curlew 220",
            "kit": "Bench kit",
            "weld_length_mm": "400",
        }
        opened |= {f"school_{name}": value for name, value in job.plans[0].job_document["school"].items()}
    assert client.post("/jobs/8/job", data=form | opened | {"gap_mm": "0.5"}).status_code == 303
    assert (
        client.post("/jobs/8/job", data=form | opened | {"position": "vertical", "title": "Rail"}).status_code
        == 303
    )
    with make_session() as session:
        row = book.get_job(session, 8)
        now = row.plans[-1].job_document
        assert (row.title, now["gap_mm"], now["position"]) == ("Rail", 0.5, "vertical")
    clash = client.post("/jobs/8/job", data=form | opened | {"position": "overhead"}, headers=HTML)
    assert clash.status_code == 422
    assert "version 3 (Planned again) says “vertical”" in clash.text
    client.post("/jobs/8/tune", data={"from_revision": "3", "ep_share": "36"})
    assert client.post("/jobs/8/torch", data={"from_revision": "3", "cup": "8|lens"}).status_code == 303
    kept, _ = settings_of(make_session, 8)
    assert (kept["ep_share"], kept["cup"]["number"]) == (0.36, 8)


def test_two_people_and_one_machine(client):
    page = client.get("/shop/machines/3", headers=HTML).text
    seen = page.split('name="seen" value="')[1][:16]
    form = {"machine_id": "3", "seen": seen, "name": "Dunlin 180", "most_a": "180", "note": "Mine", "c0_setting": "amps_set", "c0_label": "A", "c0_meaning": "5 = 5, 180 = 180"}  # fmt: skip
    assert client.post("/shop/machines", data=form, headers=HTML).status_code == 303
    late = client.post("/shop/machines", data=form | {"note": "Theirs"}, headers=HTML)
    assert late.status_code == 422
    assert "somebody saved it since" in late.text
    again = late.text.split('name="seen" value="')[1][:16]
    assert (
        client.post("/shop/machines", data=form | {"note": "Theirs", "seen": again}, headers=HTML).status_code
        == 303
    )


@pytest.mark.parametrize(
    "name", ["Tom & Jerry", "A/B 200", "What?", "new", "..", "50 % off", "Ünal’s “old” one", "<b>bold</b>"]
)
def test_any_name_has_an_address(client, name):
    if name == "..":
        assert client.post("/shop/welders", data={"name": name}, headers=HTML).status_code == 422
        return
    machine = {
        "name": name,
        "c0_setting": "amps_set",
        "c0_label": "A",
        "c0_meaning": "5 = 5, 200 = 200",
        "c0_kind": "clock",
        "most_a": "200",
    }
    kit = {"name": name, "tungsten WLa 20 2.4": "1", "cup 7": "1", "rod 2.4": "1"}
    for address, data in (
        ("/shop/machines", machine),
        ("/shop/kits", kit),
        ("/shop/welders", {"name": name}),
    ):
        made = client.post(address, data=data, headers=HTML)
        assert made.status_code == 303, made.text
        page = client.get(made.headers["location"], headers=HTML)
        assert page.status_code == 200
        assert client.get(made.headers["location"] + "/export.json").status_code in (200, 404)
    assert client.post("/jobs/8/machines", data={"machine": name}).status_code == 303
    assert client.get("/jobs/8/tune", headers=HTML).status_code == 200
    assert client.get("/swap", params={"theirs": name, "mine": name}, headers=HTML).status_code == 200


def test_put_away_and_brought_back(client, make_session):
    for kind, number, name in (
        ("machines", 1, "Curlew 220"),
        ("kits", 2, "Van kit"),
        ("welders", 1, "Ottilie"),
    ):
        gone = client.post(f"/shop/{kind}/{number}/put-away")
        shop = client.get("/shop", headers=HTML).text
        assert f"{name} was archived." in shop
        assert f"/shop/{kind}/{number}/bring-back" in shop
        assert name not in client.get("/jobs/new", headers=HTML).text
        assert gone.status_code == 303
    assert (
        client.get("/jobs/8/tune", headers=HTML).status_code == 200
    )  # planned for the machine that was put away
    assert (
        client.post(
            "/jobs/8/job", data=JOB | {"machine": "Curlew 220", "title": ""}, headers=HTML
        ).status_code
        == 303
    )
    taken = client.post(
        "/shop/kits",
        data={"name": "Van kit", "tungsten WLa 20 2.4": "1", "cup 7": "1", "rod 2.4": "1"},
        headers=HTML,
    )
    assert "was archived: restore it" in taken.text
    for kind, number in (("machines", 1), ("kits", 2), ("welders", 1)):
        client.post(f"/shop/{kind}/{number}/bring-back")
    assert "archived" not in client.get("/shop", headers=HTML).text.replace("Archive", "").replace(
        "/put-away", ""
    )
    client.post("/jobs/8/put-away")
    assert "Survey raft" not in client.get("/book", headers=HTML).text.split('class="book"')[1]
    assert "Survey raft" in client.get("/book?away=true", headers=HTML).text
    client.post("/jobs/8/bring-back")
    assert "Survey raft" in client.get("/book", headers=HTML).text


def test_care_of_the_book(client, make_session):
    backup, export = client.get("/book/backup"), client.get("/book/export.json")
    assert backup.content[:15] == b"SQLite format 3"
    assert export.json()["format"] == "anvilsong-book"
    client.post("/jobs/8/put-away")
    before = count(make_session, "jobs")
    assert client.post("/book/import", files={"file": ("e.json", export.content)}).status_code == 303
    assert count(make_session, "jobs") == before
    bad = client.post(
        "/book/import",
        files={"file": ("e.json", export.content.replace(b'"butt"', b'"scarf"', 1))},
        headers=HTML,
    )
    assert bad.status_code == 422
    assert "job_document.joint" in bad.text
    assert client.post("/book/restore", files={"file": ("b.sqlite", b"no")}, headers=HTML).status_code == 422
    assert client.post("/book/restore", headers=HTML).status_code == 422
    assert client.post("/book/restore", files={"file": ("b.sqlite", backup.content)}).status_code == 303
    with make_session() as session:
        assert book.count_put_away(session) == 0
    assert client.get("/book", headers=HTML).status_code == 200


@pytest.mark.parametrize(
    ("address", "data"),
    [
        ("/jobs/8/coupon", COUPON | {"judged_bright": "²"}),
        ("/jobs/8/coupon", COUPON | {"judged_bright": "99999"}),
        ("/jobs/8/coupon", COUPON | {"length_mm": ".063"}),
        ("/jobs/8/coupon", COUPON | {"length_mm": "0.01 mm", "seconds": "100"}),
        ("/jobs/8/coupon", COUPON | {"ripple_pitch_mm": "0.0000001"}),
        ("/jobs/8/coupon", COUPON | {"seconds": "0.5"}),
        ("/jobs/new", JOB | {"welder": "99"}),
        ("/jobs/new", JOB | {"travel_mm_s": "0.001"}),
        ("/jobs/new", JOB | {"weld_length_mm": "100 m"}),
        ("/jobs/new", JOB | {"a_thickness": "9" * 400}),
        ("/jobs/new", JOB | {"a_thickness": "²"}),
        ("/jobs/8/tune", {"pulse_rate_hz": "0.0001"}),
        ("/jobs/8/tune", {"travel_mm_s": "0.001"}),
        ("/jobs/8/tune", {"amps_set": "9" * 400}),
        ("/jobs/8/torch", {"cup": "²|lens"}),
        ("/shop/machines", {"name": "X", "most_a": "inf"}),
        (
            "/shop/machines",
            {
                "name": "X",
                "c0_setting": "ep_share",
                "c0_label": "B",
                "c0_meaning": ", ".join(f"{n} = {n}" for n in range(200)),
            },
        ),
        ("/shop/kits", {"name": "X", "tungsten WLa 20 2.4": "1", "chill_blocks": "²"}),
        ("/shop/welders", {"name": "x" * 61}),
    ],
)
def test_odd_numbers_are_refused_at_once(client, address, data):
    started = time.process_time()
    answer = client.post(address, data=data, headers=HTML)
    assert answer.status_code == 422
    assert time.process_time() - started < 2
    assert any(words in answer.text for words in ("cannot be used", "may have", "may be"))


def test_ids_beyond_any_row(client):
    for number in ("0", "-1", "9223372036854775808", "9" * 60, "²", "1.5"):
        for address in (
            "/jobs/{}/tune",
            "/shop/machines/{}",
            "/shop/kits/{}",
            "/shop/welders/{}",
            "/jobs/{}/card",
        ):
            assert client.get(address.format(number), headers=HTML).status_code == 404, (address, number)
        assert client.get(f"/jobs/8/tune?revision={number}", headers=HTML).status_code in (404, 422)
        assert client.get(f"/swap?job={number}", headers=HTML).status_code == 200


def test_deep_and_odd_json(client):
    plan = client.post("/api/plan", json={"a": {"alloy": "6061", "thickness": 3}, "joint": "butt"}).json()
    deep = "[" * 100_000 + "]" * 100_000
    for body in (
        deep,
        '{"a": ' * 3000 + "1" + "}" * 3000,
        "1" * 5000,
        '{"a": {"alloy": "\\ud800", "thickness": 3}, "joint": "butt"}',
        "NaN",
        '"\\udc00"',
    ):
        answer = client.post("/api/plan", content=body.encode(), headers={"content-type": "application/json"})
        assert answer.status_code in (400, 422), body[:20]
        assert answer.headers["content-type"] == "application/problem+json"
    settings = plan["settings"]
    for change, field in (
        ({"tungsten": {"class": "Gold", "diameter_mm": 2.4}}, "tungsten.class"),
        ({"filler": {"class": "Tin", "diameter_mm": 2.4}}, "filler.class"),
        ({"travel_mm_s": 0.001}, "travel_mm_s"),
        ({"pulse": {"rate_hz": 0.0001, "peak_share": 0.5, "base_share": 0.5}}, "pulse.rate_hz"),
        ({"amps_run": 10**400}, "amps_run"),
    ):
        for address in ("/api/consequences", "/api/resolve", "/api/sound"):
            body = {"settings": settings | change} | (
                {} if address.endswith("sound") else {"job": plan["job"]}
            )
            answer = client.post(
                address, content=json.dumps(body), headers={"content-type": "application/json"}
            )
            assert answer.status_code == 422
            assert answer.json()["field"] == field
    bare = client.post("/api/resolve", json={"job": plan["job"], "settings": settings | {"tungsten": None}})
    assert bare.status_code == 200
    show = client.post("/api/consequences", json={"job": plan["job"], "settings": settings, "show": 5})
    assert (show.status_code, show.json()["field"]) == (422, "show")
