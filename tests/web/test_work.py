"""The list of the work names pages that answer and tests that exist, and every station of a job is in it."""

import re
from pathlib import Path

from anvilsong.web.app import PARTS

ROOT = Path(__file__).parents[2]
LIST = (ROOT / "docs" / "work.md").read_text(encoding="utf-8")


ROUTES = [route for module in PARTS for route in module.router.routes]


def rows():
    for line in LIST.splitlines():
        cells = [cell.strip() for cell in line.strip().strip("|").split("|")]
        if line.startswith("| ") and len(cells) == 4 and cells[0] != "pieces":
            yield cells


def test_pages_and_tests_are_there():
    known = {route.path for route in ROUTES if "GET" in route.methods}
    found = list(rows())
    assert len(found) > 30
    for pieces, pages, tests, _ in found:
        for page in re.findall("`([^`]+)`", pages):
            assert page in known, (pieces, page)
        named = re.findall("`([^`]+)`", tests)
        assert named, pieces
        for test in named:
            assert "def test_" in (ROOT / test).read_text(encoding="utf-8"), (pieces, test)


def test_every_station_of_a_job_is_in_the_list():
    named = set(re.findall("`(/[^`]+)`", LIST))
    stations = {
        route.path
        for route in ROUTES
        if re.fullmatch(r"/jobs/\{job_id\}/[a-z-]+", route.path) and "GET" in route.methods
    }
    beside = {f"/jobs/{{job_id}}/{name}" for name in ("beside", "ladder-sheet", "recipe", "photographs")}
    assert stations - named - beside == set()
