"""Somebody with odd habits wanders through the workshop: any link, any form as it stands, a few fields changed.

No walk meets a fault; what a form refuses comes back with all that was typed; afterwards the book is sound
and can be carried away.
"""

import html
import json
import random
import re
import sqlite3
from contextlib import closing
from html.parser import HTMLParser

import pytest

HTML = {"accept": "text/html"}
STARTS = (
    "book shop jobs/new metals swap help jobs/8/tune jobs/2/part jobs/8/coupon jobs/3/read book/care jobs/1/torch "
    "jobs/5/map"
)
TYPED = [
    "", "x", "-1", "1e999", "🙂", "0", "999999999", "1/0", '<b>&"', "12 in", "±",
    "1/8", "3,2 mm", "0.5", "2.5", "7", "12", "40", "85", "120", "300", "1000", "10 %", "3/32 in", "200 C",
    "20 CFH", "1 e 3", "٣", "1_000", " 5 ", "half", "Float tank", "Île à Ñandú", "a" * 300, "two\nlines",
    "2026-02-30", "true", "0x10", "1e-9", "4-5", "$5",
]  # fmt: skip
# What no page says to a person: a fault, an empty value written out, a quantity or a template not filled in.
NEVER = re.compile(
    r"This did not work|cannot be drawn|could not be drawn|\b(nan|None(?! is wrong)|undefined)\b|⟦|\{\{"
)
UNREAD = re.compile(r"(?s)<(script|style|textarea).*?</\1>|<[^>]*>")


class Forms(HTMLParser):
    """A page's links, and its forms: method, address, buttons, and fields with the values that stand in them."""

    def __init__(self, page):
        super().__init__()
        self.links, self.forms, self.form, self.select, self.area = [], [], None, None, None
        self.pattern = False  # inside a <template>, which no person sees
        self.feed(page)

    def handle_starttag(self, tag, attrs):
        given = {name: "" if value is None else value for name, value in attrs}
        if tag == "a" and given.get("href", "").startswith("/"):
            self.links.append(given["href"])
        if tag == "form" and given.get("method", "get").lower() in ("get", "post"):
            self.form = {
                "method": given.get("method", "get"),
                "action": given.get("action", ""),
                "fields": [],
                "buttons": [],
            }
            self.forms.append(self.form)
        if tag == "option" and self.select:
            self.select["choices"].append(given.get("value", ""))
            if "selected" in given:
                self.select["value"] = given.get("value", "")
        self.pattern = self.pattern or tag == "template"
        if self.form is None or self.pattern or "disabled" in given or not given.get("name"):
            return
        field = {"name": given["name"], "kind": given.get("type", tag), "value": given.get("value", "")}
        if tag == "button":
            self.form["buttons"].append((field["name"], field["value"]))
        elif tag == "select":
            self.select = field | {"value": None, "choices": []}
            self.form["fields"].append(self.select)
        elif tag in ("input", "textarea"):
            self.form["fields"].append(field | {"on": "checked" in given, "value": given.get("value", "")})
            self.area = self.form["fields"][-1] if tag == "textarea" else None

    def handle_data(self, data):
        if self.area:
            self.area["value"] += data

    def handle_endtag(self, tag):
        if tag == "form":
            self.form = None
        self.pattern = self.pattern and tag != "template"
        if tag in ("select", "textarea"):
            self.select = self.area = None


def entered(field, hit, chance):
    """What a field sends, None for nothing; where it is `hit`, a change that its kind allows."""
    match field["kind"]:
        case "file":
            return None
        case "checkbox":
            return field["value"] or "on" if field["on"] != hit else None
        case "radio":
            return field["value"] if field["on"] or hit else None
        case "select":
            choices = field["choices"] or [""]
            return chance.choice(choices) if hit else choices[0] if field["value"] is None else field["value"]
        case "hidden":
            return field["value"]
    return chance.choice(TYPED) if hit else field["value"]


def filled(form, chance):
    """What is sent, and what was typed by hand in it: about two fields differ from what the page shows."""
    sent, typed = {}, {}
    for field in form["fields"]:
        name, hit = field["name"], chance.random() < 2 / len(form["fields"])
        value = entered(field, hit, chance)
        if value is None:
            continue
        if field["kind"] == "radio":  # only the last one pressed is on
            sent[name] = [value]
        else:
            sent.setdefault(name, []).append(value)
        if hit and field["kind"] not in ("checkbox", "radio", "select", "hidden"):
            typed[name] = value
    if form["buttons"]:
        name, value = chance.choice(form["buttons"])
        sent[name] = [value]
    return sent, typed


def read(answer):
    """What a person reads of a page."""
    return " ".join(html.unescape(UNREAD.sub(" ", answer.text)).split())


def holds(answer, typed):
    """Whether a page still has what was typed, in its fields or in its words."""
    page = " ".join(html.unescape(answer.text).split())
    return all(" ".join(value.split()) in page for value in typed.values())


@pytest.mark.parametrize("walk", range(4))
def test_a_walk_with_odd_habits(client, data_file, walk, tmp_path):
    chance = random.Random(f"walk {walk}")
    starts = [f"/{name}" for name in STARTS.split()]
    address, kept, refused, last = chance.choice(starts), 0, 0, None
    for _ in range(140):
        answer = client.get(address, headers=HTML)
        assert answer.status_code in (200, 303, 404), (address, answer.status_code, last)
        if answer.status_code == 303:
            address = answer.headers["location"]
            continue
        address = chance.choice(starts)
        if answer.status_code == 404 or "text/html" not in answer.headers["content-type"]:
            continue
        assert not NEVER.search(read(answer)), (NEVER.search(read(answer)), address, last)
        page = Forms(answer.text)
        if page.links and chance.random() < 0.8:
            address = chance.choice([link for link in page.links if not link.startswith(("/static", "/api"))])
        if not page.forms or chance.random() < 0.3:
            continue
        form = chance.choice(page.forms)
        sent, typed = filled(form, chance)
        to = (form["action"] or str(answer.url)).split("#")[0]
        last = (form["method"], to, typed)
        if form["method"] == "get":
            answer = client.get(to, params=sent, headers=HTML)
        else:
            answer = client.post(to, data=sent, headers=HTML)
        assert answer.status_code in (200, 303, 404, 409, 422), (answer.status_code, last)
        if answer.status_code == 303:
            kept, address = kept + 1, answer.headers["location"]
        elif answer.status_code == 422:
            refused += 1
            if sent.get("theirs") == sent.get("typed_for"):  # another machine has other knobs
                assert holds(answer, typed), last
    assert kept > 20
    assert refused
    with closing(sqlite3.connect(data_file)) as connection:
        assert connection.execute("PRAGMA integrity_check").fetchall() == [("ok",)]
        assert connection.execute("PRAGMA foreign_key_check").fetchall() == []
        jobs = connection.execute("SELECT count(*) FROM jobs").fetchone()[0]
    carried = client.get("/book/export.json")
    assert carried.status_code == 200
    assert len(json.loads(carried.text)["jobs"]) == jobs
