"""A restore by a person: it asks once, replaces what it said, and goes back with one tap; names are no paths."""

import re
import sqlite3

import pytest
from sqlalchemy import func, select
from tests.forms import HTML, Forms

from anvilsong.core.job import read_job
from anvilsong.store import book
from anvilsong.store.backup import backup_to
from anvilsong.store.models import JobRow
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
    assert "choose the backup again" in answer.text
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
