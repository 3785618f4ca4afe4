"""Forms as a browser without scripts sees them: found on pages, filled in, sent; and what the tables hold before and after."""

import re
from html.parser import HTMLParser
from urllib.parse import urlsplit

from sqlalchemy import inspect

from anvilsong.store.databases import make_engine

HTML = {"accept": "text/html"}


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
            if tag == "option" and self.select:
                fields = self.form["fields"]
                if "selected" in given or self.select not in fields:
                    fields[self.select] = given.get("value", "")
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


def forms_of(answer):
    """The forms of a page that was answered."""
    return Forms(answer.request.url.path, answer.text).found


def form_on(client, address, to=None):
    """The form of a page that goes to an address, by default the page's own."""
    found = Forms(address, client.get(address, headers=HTML).text).found
    return next(form for form in found if form["to"] == (to or address))


def sent(client, form, **more):
    """A form sent as it stands but for some fields."""
    return client.post(form["to"], data=form["fields"] | more, headers=HTML)


def complaints(answer):
    """What a refusing page complains of."""
    return re.findall(
        r"<li>(.*?)</li>", answer.text.partition("problem-list")[2].partition("</ul>")[0], re.DOTALL
    )


def kind_of(address):
    """An address without its numbers."""
    return re.sub(r"\d+", "N", urlsplit(address).path)


def pages_of(client, first="/book"):
    """Pages of the program that its own links lead to, one of each kind: their addresses and texts."""
    seen, kinds, waiting = [], set(), [first]
    while waiting:
        address = waiting.pop(0)
        kind = kind_of(address)
        if kind in kinds or kind.startswith(("/static", "/api", "/book/backup", "/book/export")):
            continue
        kinds.add(kind)
        answer = client.get(address, headers=HTML)
        if answer.status_code != 200 or "text/html" not in answer.headers["content-type"]:
            continue
        seen.append((address, answer.text))
        waiting += re.findall(r'href="(/[^"#]*)"', answer.text)
    return seen


def every_form(client):
    """Each kind of form that writes, as it stands on a page: the page's address and the form."""
    known = {
        "/units",
        "/who",
        "/leave",
        "/jobs/N/part/outline",
        "/book/restore",
    }  # write nothing, or another book
    for address, text in pages_of(client):
        for form in Forms(address, text).found:
            if kind_of(form["to"]) not in known:
                known.add(kind_of(form["to"]))
                yield address, form
