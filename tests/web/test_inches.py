"""Inch mode is inch mode: a crawl of every page finds no metric quantity outside what a person typed so, and the other way round."""

import re
from html.parser import HTMLParser

import pytest

HTML = {"accept": "text/html"}
METRIC = re.compile(r"\b(mm|cm|mm²|L/min|kg|g/cm³)\b|°C|\d bar\b|\d C\b(?!/)|/mm\b|\d (m|L|g)\b|⟦")
IMPERIAL = re.compile(r"\d in\b|\b(CFH|psi|in/min|ga)\b|°F|⟦")
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


def crawl(client):
    """Every page that links lead to, once for each kind of address."""
    seen, waiting = set(), ["/book", "/jobs/new", "/shop", "/metals", "/swap"]
    while waiting:
        address = waiting.pop(0).split("#")[0]
        if address in seen or address.startswith(("/static", "/api")):
            continue
        seen.add(address)
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
    for address, said in crawl(client):
        pages += 1
        found += [f"{address}: {line[:160]}" for line in said if strange.search(line)]
    assert pages > 60
    assert not found, f"{len(found)}\n" + "\n".join(found[:400])
