"""A restore by a person: it asks once, replaces what it said, and goes back with one tap; names are no paths."""

import re
import sqlite3
import time

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import func, select
from tests.forms import HTML, Forms

from anvilsong.config import Config
from anvilsong.core.job import read_job
from anvilsong.store import book
from anvilsong.store.backup import backup_to
from anvilsong.store.copies import copies_of
from anvilsong.store.models import JobRow
from anvilsong.web import copying
from anvilsong.web.app import create_app
from anvilsong.web.pages import care_page


@pytest.fixture
def asked(client, data_file, make_session, tmp_path):
    """A backup of ten jobs chosen on a page of a logbook that has one more since, and the page that asks."""
    copy = backup_to(data_file, tmp_path / "copy.sqlite")
    with make_session.begin() as session:
        book.add_job(
            session, "Came since", read_job({"a": {"alloy": "6061", "thickness": 3}, "joint": "butt"})
        )
    answer = client.post("/book/restore", files={"file": ("a.sqlite", copy.read_bytes())}, headers=HTML)
    form = next(
        form for form in Forms("/book/restore", answer.text).found if form["to"] == "/book/restore/now"
    )
    return answer, form["fields"]


def jobs(make_session):
    with make_session() as session:
        return session.scalar(select(func.count()).select_from(JobRow))


def test_it_asks_once_and_goes_back(client, make_session, asked, data_file):
    answer, fields = asked
    words = " ".join(re.sub("<[^>]+>", "", answer.text).split())
    assert "Replace 11 jobs, 3 coupons and 7 machines by 10 jobs, 3 coupons and 7 machines?" in words
    assert jobs(make_session) == 11
    done = client.post("/book/restore/now", data=fields, headers=HTML)
    assert (done.status_code, jobs(make_session)) == (303, 10)
    assert not list(data_file.parent.glob(".*waiting"))
    (beside,) = data_file.parent.glob("*-before-restore-*")
    again = client.post("/book/restore/now", data=fields, headers=HTML)  # a second tap
    assert (again.status_code, jobs(make_session)) in ((422, 10), (409, 10), (303, 10))
    page = client.get("/book", headers=HTML).text
    undo = next(form for form in Forms("/book", page).found if "restore/back" in form["to"])
    assert undo["to"].endswith(beside.name)
    back = client.post(undo["to"], data=undo["fields"], headers=HTML)
    assert (back.status_code, jobs(make_session)) == (303, 11)


@pytest.mark.parametrize(
    "name", ["", "../copy.sqlite", "book.sqlite", ".book.sqlite.1-0123456789ab.waiting", "x" * 500]
)
def test_a_name_is_no_path(client, make_session, asked, data_file, name):
    _, fields = asked
    (data_file.parent / "book.sqlite-wal").touch()
    answer = client.post("/book/restore/now", data=fields | {"waiting": name}, headers=HTML)
    assert answer.status_code == 422
    assert "choose the file again" in answer.text
    back = client.post("/book/restore/back", params={"kept": name}, headers=HTML)
    assert back.status_code == 422
    assert jobs(make_session) == 11


def test_only_the_newest_choice_waits_and_a_damaged_logbook_is_replaced_too(
    client, asked, data_file, monkeypatch
):
    def ruined(path):
        raise sqlite3.DatabaseError("database disk image is malformed")

    content = (data_file.parent / "copy.sqlite").read_bytes()
    monkeypatch.setattr(care_page, "counts_of", ruined)
    again = client.post("/book/restore", files={"file": ("a.sqlite", content)}, headers=HTML)
    assert "Replace the logbook, which is damaged," in " ".join(again.text.split())
    (waiting,) = data_file.parent.glob(".*waiting")
    _, first = asked
    assert first["waiting"] != waiting.name
    assert client.post("/book/restore/now", data=first, headers=HTML).status_code == 422


def test_a_daily_copy_is_made_by_itself_and_put_back(data_file, monkeypatch):
    monkeypatch.setattr(copying, "FIRST_AFTER_S", 0.01)
    app = create_app(Config(data=data_file))
    with TestClient(app, base_url="http://127.0.0.1", follow_redirects=False) as client:
        until = time.monotonic() + 60
        while not copies_of(data_file):
            assert time.monotonic() < until, "no copy was made"
            time.sleep(0.02)
        page = client.get("/book/care", headers=HTML).text
        assert str(data_file) in page
        day = re.search(r'name="day" value="(\d{4}-\d\d-\d\d)"', page)[1]
        assert client.post("/jobs/8/put-away", data={}).status_code == 303
        before = client.get("/api/jobs").json()["count"]
        asked = client.post("/book/restore/copy", data={"day": day}, headers=HTML)
        waiting = re.search(r'name="waiting" value="([^"]+)"', asked.text)[1]
        assert client.get("/api/jobs").json()["count"] == before  # asked first
        assert client.post("/book/restore/now", data={"waiting": waiting}).status_code == 303
        assert client.get("/api/jobs").json()["count"] == before + 1
        assert client.post("/book/restore/copy", data={"day": "2020-01-01"}, headers=HTML).status_code == 422
