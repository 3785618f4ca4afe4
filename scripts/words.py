"""Every text that a visitor of the demo workshop can see, one a line, with the page where it was first met.

``make words`` writes them to a file, to be read as a learner and as a foreman would read them.
"""

from __future__ import annotations

import re
import sys
import tempfile
from collections.abc import Iterator
from html.parser import HTMLParser
from pathlib import Path

from fastapi.testclient import TestClient

from anvilsong.config import Config
from anvilsong.demo.workshop import load_demo
from anvilsong.store.database import open_database, sessions
from anvilsong.web.app import create_app

SILENT = {"script", "style", "template"}
SPOKEN = ("aria-label", "title", "alt", "placeholder", "content", "data-said")
INLINE = {"a", "abbr", "b", "em", "i", "kbd", "small", "span", "strong", "sub", "sup", "tspan", "code"}
SKIPPED = ("/static", "/api", "/book/backup", "/book/export")
PANEL = "data-panel"  # what stands inside speaks the words of a machine's own panel


class Texts(HTMLParser):
    """The visible texts of a page: what stands between tags, and what a reader of the screen is told."""

    def __init__(self, page: str) -> None:
        super().__init__()
        self.found: list[str] = []
        self._line, self._open = "", []
        self.feed(page)
        self._end()

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        given = dict(attrs)
        if tag not in INLINE:
            self._end()
        if tag not in VOID:
            self._open.append((tag, PANEL in given))
        if self._is_silent():
            return
        self.found += [given[name] for name in SPOKEN if given.get(name) and tag != "meta"]
        if tag == "input" and given.get("type") in ("submit", "button"):
            self.found.append(given.get("value") or "")

    def handle_endtag(self, tag: str) -> None:
        if tag not in INLINE:
            self._end()
        while self._open and self._open.pop()[0] != tag:
            pass

    def handle_data(self, data: str) -> None:
        if not self._is_silent():
            self._line += data

    def _is_silent(self) -> bool:
        return any(tag in SILENT or panel for tag, panel in self._open)

    def _end(self) -> None:
        text = re.sub(r"\s+", " ", self._line).strip()
        if text:
            self.found.append(text)
        self._line = ""


VOID = {"area", "base", "br", "col", "hr", "img", "input", "link", "meta", "source", "wbr"}


def pages(client: TestClient, first: str = "/book") -> Iterator[tuple[str, str]]:
    """Every page of the program that its own links lead to: its address and what it answers."""
    seen, waiting = {first}, [first, "/help", "/nothing-here"]
    while waiting:
        address = waiting.pop(0)
        answer = client.get(address, headers={"accept": "text/html"})
        if "text/html" not in answer.headers.get("content-type", ""):
            continue
        yield address, answer.text
        for link in re.findall(r'href="(/[^"#]*)"', answer.text):
            link = link.replace("&amp;", "&")
            # One address of each page, without what a query only sorts or turns over.
            bare = link.split("?")[0]
            if bare not in seen and not bare.startswith(SKIPPED):
                seen.add(bare)
                waiting.append(link)


def texts(client: TestClient) -> dict[str, str]:
    """Each visible text, and the address where it was first met."""
    met: dict[str, str] = {}
    for address, page in pages(client):
        for text in Texts(page).found:
            met.setdefault(text, address)
    return met


def main() -> None:
    target = Path(sys.argv[1] if len(sys.argv) > 1 else "words.txt")
    with tempfile.TemporaryDirectory() as folder:
        config = Config(data=Path(folder) / "demo.sqlite")
        engine = open_database(config.data)
        with sessions(engine).begin() as session:
            load_demo(session)
        engine.dispose()
        with TestClient(create_app(config), base_url="http://127.0.0.1") as client:
            met = texts(client)
    target.write_text("".join(f"{address}\t{text}\n" for text, address in met.items()), encoding="utf-8")
    print(f"{len(met)} texts in {target}")


if __name__ == "__main__":
    main()
