"""A form that is sent twice is stored once; the same page with other content is another form; a page of another book stores nothing."""

import re
import threading
from html.parser import HTMLParser
from urllib.parse import urlsplit

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import inspect

from anvilsong.config import Config
from anvilsong.store.backup import backup_to, restore_from
from anvilsong.store.database import make_engine
from anvilsong.web.app import create_app

HTML = {"accept": "text/html"}
JOB = {"title": "Bracket", "a_alloy": "6061", "a_thickness": "3 mm", "joint": "butt"}
GUIDE = {"name": "Turnstone 180", "amps_low": "5", "amps_high": "180"}
COUPON = {
    "bead_width_mm": "6",
    "border_left_mm": "1",
    "border_right_mm": "1",
    "length_mm": "100",
    "seconds": "28",
}


def counts(data):
    """How many rows every table holds, but for the marks of forms."""
    engine = make_engine(data)
    with engine.connect() as connection:
        tables = set(inspect(connection).get_table_names()) - {"sent_forms"}
        found = {
            name: connection.exec_driver_sql(f"SELECT count(*) FROM {name}").scalar()
            for name in tables
            if not name.startswith("words_")
        }
    engine.dispose()
    return found


class Forms(HTMLParser):
    """The forms of a page that write: where each goes, its fields as they stand, whether it sends a file."""

    def __init__(self, address, text):
        super().__init__()
        self.address, self.found, self.form, self.select, self.area = address, [], None, None, None
        self.feed(text)

    def handle_starttag(self, tag, attrs):
        given = dict(attrs)
        if tag == "form":
            self.form = None
            if given.get("method", "").lower() == "post":
                self.form = {"to": given.get("action", self.address), "fields": {}, "file": False}
                self.found.append(self.form)
        elif self.form is None or not given.get("name"):
            if (
                tag == "option"
                and self.select
                and ("selected" in given or self.select not in self.form["fields"])
            ):
                self.form["fields"][self.select] = given.get("value", "")
        elif tag == "select":
            self.select = given["name"]
        elif tag == "textarea":
            self.area = given["name"]
            self.form["fields"][self.area] = ""
        elif given.get("type") == "file":
            self.form["file"] = True
        elif tag == "input" and (given.get("type") not in ("checkbox", "radio") or "checked" in given):
            self.form["fields"][given["name"]] = given.get("value", "")

    def handle_data(self, data):
        if self.area:
            self.form["fields"][self.area] += data

    def handle_endtag(self, tag):
        if tag == "form":
            self.form = None
        self.select = None if tag == "select" else self.select
        self.area = None if tag == "textarea" else self.area


def form_on(client, address, to=None):
    """The form of a page that goes to an address, by default the page's own."""
    text = client.get(address, headers=HTML).text
    return next(form for form in Forms(address, text).found if form["to"] == (to or address))


def sent(client, form, **more):
    return client.post(form["to"], data=form["fields"] | more, headers=HTML)


def complaints(answer):
    """What a refusing page complains of."""
    return re.findall(
        r"<li>(.*?)</li>", answer.text.partition("problem-list")[2].partition("</ul>")[0], re.DOTALL
    )


# Where each goes, what is typed, what is typed the second time, and the table that grows.
WRITES = [
    ("/jobs/8/coupon", None, COUPON, {"bead_width_mm": "9", "note": "the other one"}, "coupons"),
    ("/jobs/new", None, JOB, {"title": "Another bracket"}, "jobs"),
    ("/jobs/8/job", None, {"gap_mm": "0.3 mm"}, {"weld_length_mm": "250 mm"}, "plans"),
    ("/jobs/8/part", None, {}, {"start_c": "40 °C"}, "heat_runs"),
    ("/jobs/8/machines", None, {}, {"machine": "Dunlin 180"}, "plans"),
    ("/shop/kits/1", "/shop/gauge", {"bar": "150"}, {"bar": "140"}, "gauge_readings"),
    ("/jobs/8/ladder-sheet", None, {f"r1_{name}": value for name, value in COUPON.items()}, {"r1_bead_width_mm": "7"}, "coupons"),
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


def addresses_of(client, first="/book"):
    """Pages of the program that its own links lead to, one of each kind."""
    seen, kinds, waiting = [], set(), [first]
    while waiting:
        address = waiting.pop(0)
        kind = re.sub(r"\d+", "N", urlsplit(address).path)
        if kind in kinds or kind.startswith(("/static", "/api", "/book/backup", "/book/export")):
            continue
        kinds.add(kind)
        answer = client.get(address, headers=HTML)
        if answer.status_code != 200 or "text/html" not in answer.headers["content-type"]:
            continue
        seen.append((address, answer.text))
        waiting += re.findall(r'href="(/[^"#]*)"', answer.text)
    return seen


def test_every_form_that_writes_is_stored_once(client, data_file):
    """All pages are walked, each form on them is sent as it stands, twice: the second time no table grows."""
    sent_to, grew = set(), 0
    for address, text in addresses_of(client):
        for form in Forms(address, text).found:
            kind = re.sub(r"\d+", "N", urlsplit(form["to"]).path)
            if kind in sent_to or kind in ("/units", "/jobs/N/part/outline", "/book/restore"):
                continue
            sent_to.add(kind)
            assert {"uid", "book"} <= set(form["fields"]), f"{address}: {form['to']}"
            files = {"file": ("x.json", b"{}")} if form["file"] else None
            before = counts(data_file)
            first = client.post(form["to"], data=form["fields"], files=files, headers=HTML)
            once = counts(data_file)
            again = client.post(form["to"], data=form["fields"], files=files, headers=HTML)
            assert counts(data_file) == once, f"{address}: {form['to']}"
            assert again.headers.get("location") == first.headers.get("location"), form["to"]
            grew += once != before
    assert len(sent_to) >= 25
    assert grew >= 6, "forms that write hardly anything show nothing"


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
    assert sent(client, form, **(COUPON | {"seconds": ""})).status_code == 422
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
    assert "A backup took the place of the book" in answer.text
    assert "typed before" in answer.text
    assert "Send it again" not in answer.text
    assert counts(data_file) == before
    assert sent(client, form_on(client, "/jobs/8/coupon"), **COUPON).status_code == 303
