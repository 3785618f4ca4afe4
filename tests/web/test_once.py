"""A form that is sent twice is stored once; the same page with other content is another form; a page of another book stores nothing."""

import re
import threading

import pytest
from fastapi.testclient import TestClient
from tests.forms import HTML, complaints, counts, every_form, form_on, sent

from anvilsong.config import Config
from anvilsong.store.backup import backup_to, restore_from
from anvilsong.web.app import create_app

JOB = {"title": "Bracket", "a_alloy": "6061", "a_thickness": "3 mm", "joint": "butt"}
GUIDE = {"name": "Turnstone 180", "amps_low": "5", "amps_high": "180"}
COUPON = {
    "bead_width_mm": "6",
    "border_left_mm": "1",
    "border_right_mm": "1",
    "length_mm": "100",
    "seconds": "28",
}


# Where each goes, what is typed, what is typed the second time, and the table that grows.
WRITES = [
    ("/jobs/8/coupon", None, COUPON, {"bead_width_mm": "9", "note": "the other one"}, "coupons"),
    ("/jobs/new", None, JOB, {"title": "Another bracket"}, "jobs"),
    ("/jobs/8/job", None, {"gap_mm": "0.3 mm"}, {"weld_length_mm": "250 mm"}, "plans"),
    ("/jobs/8/part", None, {}, {"start_c": "40 °C"}, "heat_runs"),
    ("/jobs/8/machines", None, {}, {"machine": "Dunlin 180"}, "plans"),
    ("/shop/kits/1", "/shop/gauge", {"bar": "150"}, {"bar": "140"}, "gauge_readings"),
    ("/jobs/8/ladder-sheet", None, {f"r1_{name}": value for name, value in COUPON.items()}, {"r1_bead_width_mm": "7"}, "coupons"),
    ("/jobs/8/series?ready=balance", "/jobs/8/series", {}, {"beads": "3"}, "trials"),
    ("/jobs/8/day", None, COUPON | {"judged_bright": "2", "judged_specks": "0", "overall": "keep"}, {"bead_width_mm": "9"}, "coupons"),
    ("/shop/machines/new", None, GUIDE, {"name": "Sandpiper 180"}, "machines"),
    ("/shop/welders/new", "/shop/welders", {"name": "Wenna"}, {"name": "Jory"}, "welders"),
]  # fmt: skip


@pytest.mark.parametrize(("page", "to", "typed", "other", "table"), WRITES)
def test_the_same_once_and_other_content_too(client, data_file, page, to, typed, other, table):
    """A double tap stores once and leads where the first led; after a step back what was typed anew is stored as well, and said."""
    form = form_on(client, page, to)
    assert re.fullmatch("[0-9a-f]{32}", form["fields"]["uid"])
    before = counts(data_file)[table]
    first = sent(client, form, **typed)
    assert first.status_code == 303, complaints(first)
    grew = counts(data_file)[table]
    assert grew > before
    again = sent(client, form, **typed)
    assert (again.status_code, again.headers["location"]) == (303, first.headers["location"])
    assert counts(data_file)[table] == grew
    assert "had been sent before" not in client.get(first.headers["location"], headers=HTML).text
    third = sent(client, form, **(typed | other))
    assert third.status_code == 303, complaints(third)
    assert counts(data_file)[table] > grew
    assert (
        "had been sent before with other content" in client.get(third.headers["location"], headers=HTML).text
    )


def test_every_form_that_writes_is_stored_once(client, data_file):
    """All pages are walked, each form on them is sent as it stands, twice: the second time no table grows."""
    tried = grew = 0
    for address, form in every_form(client):
        assert {"uid", "book"} <= set(form["fields"]), f"{address}: {form['to']}"
        files = {"file": ("x.json", b"{}")} if form["file"] else None
        before = counts(data_file)
        first = client.post(form["to"], data=form["fields"], files=files, headers=HTML)
        once = counts(data_file)
        again = client.post(form["to"], data=form["fields"], files=files, headers=HTML)
        assert counts(data_file) == once, f"{address}: {form['to']}"
        assert again.headers.get("location") == first.headers.get("location"), form["to"]
        tried, grew = tried + 1, grew + (once != before)
    assert tried >= 25
    assert grew >= 5, "forms that write hardly anything show nothing"


def test_also_after_a_restart(data_file):
    with TestClient(
        create_app(Config(data=data_file)), base_url="http://127.0.0.1", follow_redirects=False
    ) as client:
        form = form_on(client, "/jobs/8/coupon")
        assert sent(client, form, **COUPON).status_code == 303
        stood = counts(data_file)
    with TestClient(
        create_app(Config(data=data_file)), base_url="http://127.0.0.1", follow_redirects=False
    ) as client:
        back = {"referer": "http://127.0.0.1/jobs/8/coupon"}
        again = client.post(form["to"], data=form["fields"] | COUPON, headers=HTML | back)
        assert (again.status_code, again.headers["location"]) == (303, "/jobs/8/coupon")
        assert "stored already" in client.get("/jobs/8/coupon", headers=HTML).text
    assert counts(data_file) == stood


def test_sent_at_the_same_moment(client, data_file):
    form, answers = form_on(client, "/jobs/8/coupon"), []
    before = counts(data_file)["coupons"]
    at_once = [
        threading.Thread(target=lambda: answers.append(sent(client, form, **COUPON))) for _ in range(5)
    ]
    for each in at_once:
        each.start()
    for each in at_once:
        each.join()
    assert {answer.status_code for answer in answers} == {303}
    assert counts(data_file)["coupons"] == before + 1


def test_what_was_refused_is_stored_when_it_is_sent_right(client, data_file):
    form = form_on(client, "/jobs/8/coupon")
    before = counts(data_file)["coupons"]
    assert sent(client, form, **(COUPON | {"seconds": "0.5"})).status_code == 422
    assert sent(client, form, **COUPON).status_code == 303
    assert counts(data_file)["coupons"] == before + 1


def test_a_page_from_before_a_restore_stores_nothing(client, data_file, tmp_path):
    """Its numbers may mean other jobs in the book that came: what was typed is shown, and not to be sent again."""
    copy = backup_to(data_file, tmp_path / "copy.sqlite")
    form = form_on(client, "/jobs/8/coupon")
    restore_from(data_file, copy)
    before = counts(data_file)
    answer = sent(client, form, **COUPON, note="typed before")
    assert answer.status_code == 409
    assert "A backup took the place of the logbook" in answer.text
    assert "typed before" in answer.text
    assert "Send it again" not in answer.text
    assert counts(data_file) == before
    assert sent(client, form_on(client, "/jobs/8/coupon"), **COUPON).status_code == 303
