"""What goes over the wire: marked addresses that are kept for ever, compressed pages, a style sheet of what is used."""

import gzip
import importlib.util
import re
from pathlib import Path

import httpx

from anvilsong.web.files import folder, mark

ROOT = Path(__file__).parents[2]
HTML = {"accept": "text/html"}


def test_scripts_and_styles_are_kept_for_ever_under_their_mark(client):
    page = client.get("/book", headers=HTML).text
    loaded = set(re.findall(r'(?:href|src)="(/static/[^"]+)"', page))
    assert len(loaded) >= 8
    assert all(address.startswith(f"/static/{mark()}/") for address in loaded)
    for address in loaded:
        answer = client.get(address)
        assert answer.status_code == 200
        assert "immutable" in answer.headers["cache-control"]
    plain = client.get("/static/js/board.js")
    assert plain.headers["cache-control"] == "no-cache"
    assert client.get("/static/0123456789ab/js/board.js").status_code == 404


def test_modules_load_their_neighbours_under_the_same_mark(client):
    """A relative import keeps the mark, so that no old module meets a new one."""
    for script in (folder() / "js").glob("*.js"):
        for other in re.findall(r'from "([^"]+)"', script.read_text(encoding="utf-8")):
            assert other.startswith("./"), f"{script.name} imports {other}"
            assert client.get(f"/static/{mark()}/js/{other[2:]}").status_code == 200


def test_pages_are_compressed_and_questions_are_not(served):
    with (
        httpx.Client(base_url=served, headers={"accept-encoding": "gzip"}) as client,
        client.stream("GET", "/book") as page,
    ):
        raw = b"".join(page.iter_raw())
        assert page.headers["content-encoding"] == "gzip"
        assert "accept-encoding" in page.headers["vary"].lower()
    assert len(raw) < 0.4 * len(gzip.decompress(raw))
    job = {"a": {"alloy": "6061", "thickness": 3.2}, "joint": "butt"}
    assert "content-encoding" not in httpx.post(f"{served}/api/plan", json=job).headers
    assert (
        "content-encoding" not in httpx.get(f"{served}/book", headers={"accept-encoding": "identity"}).headers
    )


def test_the_style_sheet_is_cut_to_what_is_used():
    """``scripts/cut_bootstrap.py`` was run since a class came or went, and the licence stayed."""
    spec = importlib.util.spec_from_file_location("cut_bootstrap", ROOT / "scripts" / "cut_bootstrap.py")
    script = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(script)
    whole, cut = script.WHOLE.read_text(encoding="utf-8"), script.CUT.read_text(encoding="utf-8")
    assert script.cut(whole, script.words_used()) == cut
    assert "Licensed under MIT" in cut
    assert len(cut) < 0.1 * len(whole)
    assert script.cut(".used{a:b}.other{c:d}@media print{.other{e:f}}", {"used"}) == ".used{a:b}\n"
