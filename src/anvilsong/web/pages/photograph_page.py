"""A photograph of a coupon: sent, marked, measured, given to the coupon."""

from __future__ import annotations

from typing import Any

from fastapi import Body, HTTPException, Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from anvilsong.core.complaints import validated
from anvilsong.core.errors import BadInput
from anvilsong.core.units import UnitSystem
from anvilsong.core.words import sentence
from anvilsong.instruments.bead_values import BeadOnPicture, Edges
from anvilsong.instruments.limits import PICTURE_BYTES
from anvilsong.instruments.marks import Marks
from anvilsong.store import attachments, bench_trials, shop
from anvilsong.store.models import AttachmentRow, CouponRow, JobRow, fresh_uid
from anvilsong.store.reading import check_seen, digest
from anvilsong.web import measuring
from anvilsong.web.frame import render, see_other, spoken_json, units
from anvilsong.web.job_view import job_view
from anvilsong.web.once import page_router
from anvilsong.web.requests import Fields, RowId, Uploads, found, uid_of

router = page_router()

KEPT_FOR = "private, max-age=31536000, immutable"  # a photograph never changes


def _photograph(session: Session, job_id: int, photograph_id: int) -> AttachmentRow:
    row: AttachmentRow = found(attachments.find_attachment(session, job_id, photograph_id))
    if row.kind != attachments.PHOTOGRAPH:
        raise HTTPException(404)
    return row


@router.post("/jobs/{job_id}/photographs")
def send_photograph(request: Request, job_id: RowId, uploads: Uploads, form: Fields) -> Response:
    """Keep a photograph with the job, and go to measure it. A refusal stores nothing."""
    upload = uploads.get("file")
    if upload is None or not upload.filename:
        raise BadInput.one("photograph", "no file", "choose a picture")
    picture = measuring.taken_in(upload.file.read(PICTURE_BYTES + 1))
    with request.app.state.sessions.begin() as session:
        job = found(session.get(JobRow, job_id))
        kept = attachments.add_photograph(session, job, picture).id
    return see_other(f"/jobs/{job_id}/photographs/{kept}")


@router.post("/jobs/{job_id}/photographs/{photograph_id}/again")
def measure_another(request: Request, job_id: RowId, photograph_id: RowId) -> Response:
    """Another bead on the same picture: the picture once more, with the same known length, the line beside
    the one that was measured.
    """

    def again(session: Session) -> int:
        job, row = found(session.get(JobRow, job_id)), _photograph(session, job_id, photograph_id)
        size = dict(zip(("width_px", "height_px"), measuring.size_of(row), strict=True))
        document = size | {"marks": measuring.marks_beside(row)}
        return attachments.add_again(session, job, row, document).id

    made = request.app.state.sessions.write(again)
    return see_other(f"/jobs/{job_id}/photographs/{made}", sentence("web.another_bead_said"))


@router.get("/jobs/{job_id}/photographs/{photograph_id}/picture")
def show_picture(request: Request, job_id: RowId, photograph_id: RowId) -> Response:
    """The picture itself."""
    with request.app.state.sessions() as session:
        row = _photograph(session, job_id, photograph_id)
        return Response(row.content, media_type=row.media_type, headers={"cache-control": KEPT_FOR})


@router.get("/jobs/{job_id}/photographs/{photograph_id}", response_class=HTMLResponse)
def show_photograph(request: Request, job_id: RowId, photograph_id: RowId) -> HTMLResponse:
    """Mark and measure it."""
    with request.app.state.sessions() as session:
        view = job_view(session, job_id, units(request))
        row = _photograph(session, job_id, photograph_id)
        bead = measuring.bead_of(row)
        coupon, system = session.get(CouponRow, row.coupon_id) if row.coupon_id else None, units(request)
        return render(
            request,
            "photograph.html",
            view=view,
            here="coupon",
            photograph=row,
            coupon=coupon,
            state={
                "page": fresh_uid(),
                "uid": row.uid,
                "seen": digest(row.document),
                "marks": bead.marks.model_dump() if bead else measuring.first_marks(row, view, system),
                "measured": _answer(bead, system) if bead else None,
            },
            known_text=measuring.known_text(bead or measuring.marked(row), system),
            series=bench_trials.trials_of(session, job_id, "series")[:1],
            size=measuring.size_of(row),
        )


@router.post("/api/photographs/{photograph_id}/measure")
def measure_photograph(request: Request, photograph_id: RowId, body: dict[str, Any] = Body(...)) -> Response:
    """Marks, and edges where somebody has set them → figures; kept with the photograph."""
    system = units(request)
    marks = validated(Marks, body.get("marks"), system)
    edges = None if body.get("edges") is None else validated(Edges, body["edges"], system)
    if edges is not None and body.get("found_with") is not None:
        edges = edges.scaled(validated(Marks, body["found_with"], system).px_per_mm / marks.px_per_mm)
    make = request.app.state.sessions
    with make() as session:
        content = _measured_row(session, photograph_id, body).content
    bead = measuring.measured(content, marks, edges, f"{photograph_id} {_page_of(body)}")
    with make.begin() as session:
        row = _measured_row(session, photograph_id, body)
        by = {"bead": bead.model_dump(mode="json"), "measured_on": _page_of(body)}
        attachments.keep_reading(row, {**row.document, **by})
        seen = digest(row.document)
    return spoken_json(request, _answer(bead, system) | {"seen": seen})


def _page_of(body: dict[str, Any]) -> str:
    """The mark of the page that measures."""
    return uid_of({"uid": str(body.get("page", ""))}) or ""


def _measured_row(session: Session, photograph_id: int, body: dict[str, Any]) -> AttachmentRow:
    """The photograph that the page shows, as the page last saw it or as that page itself left it.

    Raises
    ------
    BadInput : it was measured in another window since
    HTTPException : 404, it is not there, or another picture has its number since a restore
    """
    row: AttachmentRow = found(session.get(AttachmentRow, photograph_id))
    if row.kind != attachments.PHOTOGRAPH or body.get("uid") not in (None, row.uid):
        raise HTTPException(404)
    if row.document.get("measured_on", "") not in ("", _page_of(body)) and body.get("seen") is not None:
        check_seen(str(body["seen"]), row.document, "This picture", sentence("web.marks_lie_elsewhere_now"))
    return row


def _answer(bead: BeadOnPicture, system: UnitSystem) -> dict[str, Any]:
    return {
        "figures": measuring.seen_on(bead, system),
        "marks": bead.marks.model_dump(),
        "edges": bead.edges.model_dump(),
        "told": measuring.told_edges(bead),
        "places": measuring.places_along(bead),
    }


@router.post("/jobs/{job_id}/photographs/{photograph_id}/put-away")
def put_away_photograph(request: Request, job_id: RowId, photograph_id: RowId) -> Response:
    """Leave a photograph out; it can be brought back."""
    with request.app.state.sessions.begin() as session:
        row = _photograph(session, job_id, photograph_id)
        shop.put_away(session, row)
        to = "coupon" if row.part_run_id is None else "runs"
    back = f"/jobs/{job_id}/photographs/{photograph_id}/bring-back"
    return see_other(f"/jobs/{job_id}/{to}", "The photograph was archived.", back)


@router.post("/jobs/{job_id}/photographs/{photograph_id}/bring-back")
def bring_back_photograph(request: Request, job_id: RowId, photograph_id: RowId) -> Response:
    """Undo: the photograph is there again."""
    with request.app.state.sessions.begin() as session:
        row = _photograph(session, job_id, photograph_id)
        shop.bring_back(session, row)
        to = f"photographs/{photograph_id}" if row.part_run_id is None else "runs"
    return see_other(f"/jobs/{job_id}/{to}", sentence("web.photograph_here_again"))
