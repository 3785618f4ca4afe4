"""Tables: coupons, runs, recipes and memories for spreadsheets, and coupons and runs from one: looked at row
by row, then taken whole or not at all.
"""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any, Literal

from fastapi import Request
from fastapi.responses import FileResponse, HTMLResponse, Response
from sqlalchemy.orm import Session
from starlette.background import BackgroundTask

from anvilsong.core.errors import AnvilsongError, BadInput
from anvilsong.core.words import sentence
from anvilsong.store.files import aside, forget_beside, found_beside, make_private
from anvilsong.store.models import now
from anvilsong.store.sheets import KINDS, Kind, Looked, Sheet, look_at, take
from anvilsong.store.sheets.files import Form
from anvilsong.web.frame import render, see_other
from anvilsong.web.once import page_router
from anvilsong.web.pages.care_page import by_itself, show_page, uploaded
from anvilsong.web.requests import Fields, Uploads, found
from anvilsong.work import tasks

router = page_router()

SHOWN = 200
TYPES = {
    "csv": "text/csv; charset=utf-8",
    "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
}


@router.get("/book/sheets/{name}")
def download_sheet(request: Request, name: str, decimal: Literal["point", "comma"] = "point") -> FileResponse:
    """A table as a file: ``coupons.csv``, ``runs.xlsx`` and so on."""
    kind_of, _, ending = name.partition(".")
    kind: Kind = found(next((each for each in KINDS if each == kind_of), None))
    found(TYPES.get(ending))
    form: Form = "xlsx" if ending == "xlsx" else "csv-comma" if decimal == "comma" else "csv"
    data = request.app.state.config.beside
    made = aside(data, "export")
    by_itself(tasks.write_sheet, request.app.state.config.data, kind, form, made)
    return FileResponse(
        made,
        filename=f"anvilsong-{kind}-{now():%Y%m%d}.{ending}",
        media_type=TYPES[ending],
        background=BackgroundTask(made.unlink, missing_ok=True),
    )


@router.post("/book/sheet")
def look_at_sheet(request: Request, uploads: Uploads) -> Response:
    """What a table would do to the logbook, row by row; it waits until it is taken."""
    data = request.app.state.config.beside
    try:
        with uploaded(uploads, data, "The table") as path:
            sheet: Sheet = by_itself(tasks.read_sheet, path)
        with request.app.state.sessions() as session:
            looked = look_at(session, sheet)
    except AnvilsongError as trouble:
        return show_page(request, trouble)
    return _shown(request, looked, "" if looked.count("bad") else _wait(data, sheet))


def _shown(request: Request, looked: Looked, waiting: str, trouble: Any = "") -> HTMLResponse:
    order = {"bad": 0, "changed": 1, "new": 2, "same": 3}
    return render(
        request,
        "sheet.html",
        422 if looked.count("bad") or trouble else 200,
        here="care",
        looked=looked,
        rows=sorted(looked.rows, key=lambda row: (order[row.state], row.line))[:SHOWN],
        waiting=waiting,
        counted=_counted(looked),
        trouble=trouble,
    )


def _counted(looked: Looked) -> str:
    return "-".join(str(looked.count(state)) for state in ("new", "changed", "same"))


def _wait(data: Path, sheet: Sheet) -> str:
    """Lay a table that was read beside the logbook; the newest alone waits."""
    forget_beside(data, "sheet")
    place = make_private(aside(data, "sheet"))
    said = {"heads": sheet.heads, "rows": sheet.rows, "comma": sheet.comma}
    place.write_text(json.dumps(said), encoding="utf-8")
    return place.name


def _waiting(data: Path, name: str) -> tuple[Path, Sheet]:
    place = found_beside(data, name, "sheet")
    try:
        said = json.loads(place.read_text(encoding="utf-8"))
    except (OSError, ValueError):
        raise BadInput.one("file", name, sentence("store.choose_file_again")) from None
    rows = tuple((int(line), dict(cells)) for line, cells in said["rows"])
    return place, Sheet(tuple(said["heads"]), rows, bool(said["comma"]))


@router.post("/book/sheet/take")
def take_sheet(request: Request, form: Fields) -> Response:
    """Take the table that waits, all of it; where it would do something else than was shown, look again."""
    make = request.app.state.sessions
    try:
        place, sheet = _waiting(request.app.state.config.beside, form.get("waiting", ""))

        def write(session: Session) -> Looked:
            looked = take(session, sheet)
            if _counted(looked) != form.get("counted", ""):
                raise BadInput.one("file", "", sentence("web.table_is_other_now"))
            return looked

        with make() as session:
            looked = look_at(session, sheet)
        if looked.count("bad") or _counted(looked) != form.get("counted", ""):
            again = "" if looked.count("bad") else place.name
            return _shown(request, looked, again, sentence("web.table_is_other_now"))
        looked = make.write(write)
    except AnvilsongError as trouble:
        return show_page(request, trouble)
    place.unlink(missing_ok=True)
    counts = {state: looked.count(state) for state in ("new", "changed", "same")}
    return see_other("/runs" if looked.kind == "runs" else "/book", sentence("web.table_taken", **counts))
