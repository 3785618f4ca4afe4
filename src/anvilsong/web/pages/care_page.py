"""Care of the book: take a backup or an export along, bring one in, put a backup in the book's place."""

from __future__ import annotations

import os
import tempfile
from pathlib import Path

from fastapi import APIRouter, Request
from fastapi.responses import FileResponse, HTMLResponse, Response
from starlette.background import BackgroundTask
from starlette.datastructures import UploadFile

from anvilsong.core.errors import AnvilsongError, BadInput
from anvilsong.store.backup import backup_to, restore_from
from anvilsong.store.exchange import database_path, import_from
from anvilsong.store.export import export_to
from anvilsong.store.models import now
from anvilsong.web.frame import render, see_other
from anvilsong.web.requests import Uploads

router = APIRouter(include_in_schema=False)


def _page(request: Request, trouble: AnvilsongError | None = None) -> HTMLResponse:
    problems = trouble.problems if isinstance(trouble, BadInput) else ()
    return render(
        request, "care.html", 422 if trouble else 200, trouble=trouble, problems=problems, here="care"
    )


@router.get("/book/care", response_class=HTMLResponse)
def show_care(request: Request) -> HTMLResponse:
    return _page(request)


def _handed_out(path: Path, name: str, media_type: str) -> FileResponse:
    """A file made for this answer, gone when it was sent."""
    return FileResponse(
        path, filename=name, media_type=media_type, background=BackgroundTask(path.unlink, missing_ok=True)
    )


def _beside(data: Path, ending: str) -> Path:
    """A name for a file of our own beside the book, where there is room for one of its size."""
    handle, name = tempfile.mkstemp(prefix=f".{data.name}.", suffix=ending, dir=data.parent)
    os.close(handle)
    os.unlink(name)
    return Path(name)


@router.get("/book/backup")
def download_backup(request: Request) -> FileResponse:
    """A whole, consistent copy of the database."""
    data = database_path(request.app.state.sessions)
    made = backup_to(data, _beside(data, ".backup"))
    return _handed_out(made, f"anvilsong-{now():%Y%m%d-%H%M}.sqlite", "application/vnd.sqlite3")


@router.get("/book/export.json")
def download_export(request: Request) -> FileResponse:
    """Everything as JSON."""
    make = request.app.state.sessions
    made = _beside(database_path(make), ".export")
    with make() as session:
        export_to(session, made)
    return _handed_out(made, f"anvilsong-{now():%Y%m%d-%H%M}.json", "application/json")


def _uploaded(uploads: dict[str, UploadFile], data: Path, ending: str) -> Path:
    """An uploaded file, written down beside the book."""
    upload = uploads.get("file")
    if upload is None or not upload.filename:
        raise BadInput.one("file", "", "choose a file")
    path = _beside(data, ending)
    with path.open("wb") as out:
        while piece := upload.file.read(1 << 20):
            out.write(piece)
    return path


@router.post("/book/import")
def bring_in(request: Request, uploads: Uploads) -> Response:
    """Read an export: all of it, or nothing with the place of what is wrong."""
    make = request.app.state.sessions
    path: Path | None = None
    try:
        path = _uploaded(uploads, database_path(make), ".came")
        came = import_from(make, path)
    except AnvilsongError as trouble:
        return _page(request, _named(trouble, path, "The file"))
    finally:
        if path is not None:
            path.unlink(missing_ok=True)
    return see_other("/book", f"Came in: {came.said}.")


@router.post("/book/restore")
def put_back(request: Request, uploads: Uploads) -> Response:
    """Put a backup in the book's place; the book as it was is kept beside it."""
    make = request.app.state.sessions
    data = database_path(make)
    path: Path | None = None
    try:
        path = _uploaded(uploads, data, ".came")
        restored = restore_from(data, path)
    except AnvilsongError as trouble:
        return _page(request, _named(trouble, path, "The backup"))
    finally:
        if path is not None:
            path.unlink(missing_ok=True)
    return see_other("/book", restored.said)


def _named(trouble: AnvilsongError, path: Path | None, words: str) -> AnvilsongError:
    """The sentence without the name that the uploaded file had on this machine."""
    if isinstance(trouble, BadInput) or path is None:
        return trouble
    return AnvilsongError(str(trouble).replace(str(path), words))
