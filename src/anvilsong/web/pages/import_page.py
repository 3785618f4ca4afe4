"""An export brought in: what it would add and put together is shown first, then taken as it was shown."""

from __future__ import annotations

import os
from pathlib import Path

from fastapi import Request
from fastapi.responses import HTMLResponse, Response

from anvilsong.core import say
from anvilsong.core.errors import AnvilsongError
from anvilsong.store.exchange_taking import Imported
from anvilsong.store.files import aside, forget_beside, found_beside
from anvilsong.web.errors import wants_page
from anvilsong.web.frame import render, see_other
from anvilsong.web.once import page_router
from anvilsong.web.pages.care_page import by_itself, show_page, uploaded
from anvilsong.web.requests import Fields, Uploads
from anvilsong.web.who import note_now
from anvilsong.work import tasks

router = page_router()

SHOWN = 100
KINDS = {
    "plans": "version",
    "coupons": "coupon",
    "readings": "correction",
    "part_runs": "weld on a part",
    "attachments": "photograph",
    "memories": "stored memory",
    "trials": "trial",
    "heat_runs": "drawn part",
}


@router.post("/book/import")
def bring_in(request: Request, uploads: Uploads) -> Response:
    """Read an export: a script's at once, all of it or nothing; a person sees first what would come of it."""
    data = request.app.state.config.beside
    asks = wants_page(request)
    try:
        with uploaded(uploads, data, "The file") as path:
            came: Imported = by_itself(tasks.import_book, request.app.state.config.data, path, asks)
            if asks:
                forget_beside(data, "coming")
                waiting = aside(data, "coming")
                os.replace(path, waiting)
    except AnvilsongError as trouble:
        return show_page(request, trouble)
    return _shown(request, came, waiting) if asks else _taken(request, came)


@router.post("/book/import/now")
def bring_in_now(request: Request, form: Fields) -> Response:
    """Bring in the export that waits as it was shown; where something else would come of it, look again."""
    data = request.app.state.config.beside
    try:
        waiting = found_beside(data, form.get("waiting", ""), "coming")
        came: Imported = by_itself(
            tasks.import_book, request.app.state.config.data, waiting, False, form.get("seen", "")
        )
    except AnvilsongError as trouble:
        return show_page(request, trouble)
    if not came.is_stored:
        return _shown(request, came, waiting, is_other=True)
    waiting.unlink(missing_ok=True)
    return _taken(request, came)


def _taken(request: Request, came: Imported) -> Response:
    note_now(request.app.state.sessions)
    return see_other("/book", say.joined("Came in: ", came.said, "."))


def _shown(request: Request, came: Imported, waiting: Path, is_other: bool = False) -> HTMLResponse:
    return render(
        request,
        "import.html",
        422 if is_other else 200,
        here="care",
        came=came,
        waiting=waiting.name,
        is_other=is_other,
        most=SHOWN,
        kinds=KINDS,
    )
