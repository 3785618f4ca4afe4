"""Care of the book: take a backup or an export along, bring one in, put a backup in the book's place."""

from __future__ import annotations

import os
import re
import sqlite3
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from fastapi import Request
from fastapi.responses import FileResponse, HTMLResponse, Response
from starlette.background import BackgroundTask
from starlette.datastructures import UploadFile

from anvilsong.core.errors import AnvilsongError, BadInput, CannotRead
from anvilsong.core.words import sentence
from anvilsong.store.backup import backup_to, counts_of, look_into, restore_from
from anvilsong.store.copies import copies_of
from anvilsong.store.coupons import count_readings
from anvilsong.store.export_jobs import Written
from anvilsong.store.files import aside, forget_beside, found_beside, own_file
from anvilsong.store.models import now
from anvilsong.store.places import file_of
from anvilsong.web.errors import wants_page
from anvilsong.web.frame import render, see_other
from anvilsong.web.growing import has_begun, sent_while_written
from anvilsong.web.guard.patience import when_given_up
from anvilsong.web.heavy import asked_for, done_now
from anvilsong.web.once import page_router
from anvilsong.web.requests import Fields, Uploads
from anvilsong.web.who import note_now
from anvilsong.work import BOOK, Ended, Task, result_of, tasks

router = page_router()

MOST_LOOKED_THROUGH = 2000  # readings of a logbook that is exported whole before it is sent


def show_page(request: Request, trouble: AnvilsongError | None = None, **more: Any) -> HTMLResponse:
    problems = trouble.problems if isinstance(trouble, BadInput) else ()
    status = 422 if trouble else 200
    sessions = request.app.state.sessions
    if isinstance(sessions.place, Path):
        data = sessions.place
        lies = {"path": data.absolute(), "mb": data.stat().st_size / 1e6, "copies": copies_of(data)}
    else:
        lies = {"server": sessions.place, "mb": sessions.size_bytes() / 1e6}
    more.setdefault("written", None)
    last = getattr(request.app.state, "last_export", None)
    return render(
        request,
        "care.html",
        status,
        trouble=trouble,
        problems=problems,
        here="care",
        place=lies,
        last=last,
        **more,
    )


@router.get("/book/care", response_class=HTMLResponse)
def show_care(request: Request) -> HTMLResponse:
    return show_page(request)


def _handed_out(path: Path, name: str, media_type: str) -> FileResponse:
    """A file made for this answer, gone when it was sent."""
    return FileResponse(
        path, filename=name, media_type=media_type, background=BackgroundTask(path.unlink, missing_ok=True)
    )


@router.get("/book/backup")
def download_backup(request: Request) -> FileResponse:
    """A whole, consistent copy of the database."""
    data = file_of(request.app.state.config.data)
    made = backup_to(data, aside(data, "backup"))
    return _handed_out(made, f"anvilsong-{now():%Y%m%d-%H%M}.sqlite", "application/vnd.sqlite3")


@router.get("/book/export.json", response_model=None)
def download_export(request: Request, damaged: str = "") -> Response:
    """Everything as JSON. Where something is damaged, a person is told what is missing before it is saved; of
    a large logbook the file comes at once, says at its end what is missing, and this page says so too.
    """
    data, place = request.app.state.config.beside, request.app.state.config.data
    made = aside(data, "export")
    if isinstance(place, Path):
        with request.app.state.sessions() as session:
            is_large = count_readings(session) > MOST_LOOKED_THROUGH
        if is_large:
            return _sent_at_once(request, place, made)
    written: Written = by_itself(tasks.export_book, place, made)
    if written.damaged and wants_page(request) and damaged != "left-out":
        made.unlink(missing_ok=True)
        return show_page(request, written=written)
    return _handed_out(made, _export_name(), "application/json")


def _sent_at_once(request: Request, place: Path, made: Path) -> Response:
    task = asked_for(BOOK, tasks.export_growing, place, made)
    assert isinstance(task, Task)  # a file is never exported through a queue
    when_given_up(task.end)
    request.app.state.last_export = None

    def whole(written: Written) -> None:
        request.app.state.last_export = written if written.damaged else None

    name = _export_name()
    if has_begun(task, made):
        return sent_while_written(task, made, name, "application/json", whole)
    try:
        whole(result_of(task))
    except Ended as ended:
        raise AnvilsongError(f"{ended} Nothing was changed.") from None
    return _handed_out(made, name, "application/json")


def _export_name() -> str:
    return f"anvilsong-{now():%Y%m%d-%H%M}.json"


def by_itself(function: Callable[..., Any], *given: Any) -> Any:
    try:
        return done_now(BOOK, function, *given)
    except Ended as ended:
        raise AnvilsongError(f"{ended} Nothing was changed.") from None


@contextmanager
def uploaded(uploads: dict[str, UploadFile], data: Path, words: str) -> Iterator[Path]:
    """An uploaded file, written down beside the book for as long as it is read."""
    upload = uploads.get("file")
    if upload is None or not upload.filename:
        raise BadInput.one("file", "", "choose a file")
    with own_file(data, "came") as path:
        with path.open("wb") as out:
            while piece := upload.file.read(1 << 20):
                out.write(piece)
        try:
            yield path
        except CannotRead as trouble:  # the name it had on this machine tells nobody anything
            raise CannotRead(words if trouble.what == str(path) else trouble.what, trouble.why) from trouble


@router.post("/book/restore")
def put_back(request: Request, uploads: Uploads) -> Response:
    """Put a backup in the book's place, or ask a person first: so much would be replaced by so much."""
    data = file_of(request.app.state.config.data)
    try:
        with uploaded(uploads, data, "The backup") as path:
            if not wants_page(request):
                restored = restore_from(data, path)
                note_now(request.app.state.sessions)
                return see_other("/book", restored.said)
            there, waiting = look_into(data, path), aside(data, "waiting")
            forget_beside(data, "waiting")
            os.replace(path, waiting)
    except AnvilsongError as trouble:
        return show_page(request, trouble)
    return show_page(request, asks={"here": _counted(data), "there": there, "waiting": waiting.name})


@router.post("/book/restore/copy")
def put_back_copy(request: Request, form: Fields) -> Response:
    """Put a daily copy in the book's place; a person is asked first."""
    data = file_of(request.app.state.config.data)
    try:
        copy = next((one for one in copies_of(data) if one.day.isoformat() == form.get("day")), None)
        if copy is None:
            raise BadInput.one("day", form.get("day", ""), sentence("store.choose_one_list"))
        there, waiting = look_into(data, copy.path), aside(data, "waiting")
        forget_beside(data, "waiting")
        backup_to(copy.path, waiting)
    except AnvilsongError as trouble:
        return show_page(request, trouble)
    return show_page(request, asks={"here": _counted(data), "there": there, "waiting": waiting.name})


@router.post("/book/restore/now")
def put_back_now(request: Request, form: Fields) -> Response:
    """Put the backup that waits in the book's place; the book as it was stays beside it, one tap away."""
    data = file_of(request.app.state.config.data)
    try:
        waiting = found_beside(data, form.get("waiting", ""), "waiting")
        restored = restore_from(data, waiting)
    except AnvilsongError as trouble:
        return show_page(request, trouble)
    note_now(request.app.state.sessions)
    waiting.unlink(missing_ok=True)
    back = f"/book/restore/back?kept={restored.kept.name}" if restored.kept else ""
    return see_other("/book", restored.said, back)


@router.post("/book/restore/back")
def put_back_again(request: Request, kept: str) -> Response:
    """Undo a restore: the book that stands beside comes back, and the one that replaced it goes beside."""
    data = file_of(request.app.state.config.data)
    try:
        restore_from(data, _before_restore(data, kept))
    except AnvilsongError as trouble:
        return show_page(request, trouble)
    note_now(request.app.state.sessions)
    return see_other("/book", sentence("web.logbook_was_before_restore"))


_BEFORE = r"{stem}-before-restore-[0-9]{{8}}-[0-9]{{6}}-[0-9a-f]{{4}}{suffix}"


def _counted(data: Path) -> dict[str, int] | None:
    """How much the book holds; None where it is damaged, which is when a restore is wanted most."""
    try:
        return counts_of(data)
    except sqlite3.DatabaseError:
        return None


def _before_restore(data: Path, name: str) -> Path:
    """The book as it was before a restore, by its name alone."""
    ours = _BEFORE.format(stem=re.escape(data.stem), suffix=re.escape(data.suffix))
    path = data.with_name(name) if re.fullmatch(ours, name) else None
    if path is None or not path.exists():
        raise BadInput.one("file", name, sentence("store.choose_file_again"))
    return path
