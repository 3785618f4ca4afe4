"""Inch mode is inch mode: a crawl of every page finds no metric quantity outside what a person typed so, and the other way round."""

import re
from html.parser import HTMLParser

import pytest

HTML = {"accept": "text/html"}
METRIC = re.compile(r"\b(mm|m/s|cm|mm²|L/min|kg|g/cm³)\b|°C|\d bar\b|\d C\b(?!/)|/mm\b|\d (m|L|g)\b")
IMPERIAL = re.compile(r"\d in\b|\b(CFH|psi|in/min|ga|mph)\b|°F")
# Where both units are the point, where a person typed it, and what is not read by people.
PASSED = {"translator", "as-typed"}
NOT_READ = {"script", "style"}


class Words(HTMLParser):
    """Everything of a page that somebody reads or hears, with the links that leave it."""

    def __init__(self):
        super().__init__()
        self.open, self.said, self.links = [], [], []

    def handle_starttag(self, tag, attrs):
        given = {name: value or "" for name, value in attrs}
        passed = bool(PASSED & set(given.get("class", "").split())) or given.get("id") == "units"
        if tag == "a" and given.get("href", "").startswith("/"):
            self.links.append(given["href"])
        # Tags that are never closed leave the stack with their parent.
        self.open.append((tag, (passed or tag in NOT_READ) and tag != "input"))
        if not self.passed and not passed:
            self.said += [
                given[name]
                for name in ("placeholder", "title", "aria-label", "aria-valuetext")
                if name in given
            ]

    def handle_startendtag(self, tag, attrs):
        pass

    def handle_endtag(self, tag):
        while self.open and self.open.pop()[0] != tag:
            pass

    @property
    def passed(self):
        return any(passed for _, passed in self.open)

    def handle_data(self, data):
        if not self.passed and data.strip():
            self.said.append(" ".join(data.split()))


def crawl(client, once_a_kind=False):
    """Every page that links lead to, or one of each kind of address; of preset parts, faults and practice one each in any case."""
    seen, waiting = set(), ["/help", "/book", "/jobs/new", "/shop", "/metals", "/swap"]
    while waiting:
        address = waiting.pop(0).split("#")[0]
        once = once_a_kind or re.search("preset=|/faults\\?|^/practice", address)
        kind = re.sub(r"\d+", "1", address) if once else address
        if kind in seen or address.startswith(("/static", "/api")):
            continue
        seen.add(kind)
        answer = client.get(address, headers=HTML)
        assert answer.status_code in (200, 303), (address, answer.status_code)
        if "text/html" not in answer.headers.get("content-type", ""):
            continue
        words = Words()
        words.feed(answer.text)
        waiting += words.links
        yield address, words.said


@pytest.mark.parametrize(("units", "strange"), [("inch", METRIC), ("mm", IMPERIAL)])
def test_no_page_speaks_the_other_units(client, units, strange):
    client.cookies.set("units", units)
    found, pages = [], 0
    for address, said in crawl(client, once_a_kind=units == "mm"):
        pages += 1
        found += [f"{address}: {line[:160]}" for line in said if strange.search(line)]
    assert pages > (60 if units == "inch" else 40), pages
    assert not found, f"{len(found)}\n" + "\n".join(found[:400])


def said_in(data):
    """Every text of a script's answer."""
    if isinstance(data, str):
        yield from (
            " ".join(part.split()) for part in re.sub(r"<style.*?</style>|<[^>]*>", "\n", data).split("\n")
        )
    elif isinstance(data, dict):
        for value in data.values():
            yield from said_in(value)
    elif isinstance(data, list):
        for value in data:
            yield from said_in(value)


@pytest.mark.parametrize(("units", "strange"), [("inch", METRIC), ("mm", IMPERIAL)])
def test_no_answer_to_a_script_speaks_the_other_units(client, units, strange):
    client.cookies.set("units", units)
    thick = {"mm": "5 mm", "inch": "3/16"}[units]
    job = {"a": {"alloy": "6061", "thickness": thick}, "joint": "butt", "gap_mm": 2, "machine": "Dunlin 180", "draught_m_s": 3}  # fmt: skip
    plan = client.post("/api/plan", json=job).json()
    shown = {"job": plan["job"], "settings": plan["settings"]}
    faces = ["margins", "panel", "panel_drawing", "section", "wave", "ties", "figures", "differences"]
    form = {"a_alloy": "6061", "a_thickness": thick, "b_alloy": "7075", "joint": "lap", "gap_mm": "1 mm"}
    answers = [
        {"warnings": plan["warnings"], "reasons": plan["reasons"], "run_sheet": plan["run_sheet"]},
        client.post("/api/consequences", json=shown | {"show": faces, "ghost": plan["settings"]}).json(),
        client.post("/api/resolve", json=shown | {"locked": ["amps_set"]}).json(),
        client.post("/api/draw/joint", data=form).json(),
        client.post("/api/jobs/10/torch", data={"diameter_mm": "2.4", "cup": "8"}).json(),
        client.post("/api/read", json={"setting": "travel_mm_s", "typed": "3"}).json(),
    ]
    for answer in answers:
        answer.pop("keys", None)  # what sentences were made of, in the units of the program
    said = [line for line in said_in(answers) if line]
    assert len(said) > 60
    assert not [line for line in said if strange.search(line)]
