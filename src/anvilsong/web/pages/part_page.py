"""Part: drawn on a grid, welded in the computer; the film, what the foot does, and what follows."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING, Any

from fastapi import HTTPException, Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from anvilsong.core import say
from anvilsong.core.errors import BadInput
from anvilsong.core.model import situation
from anvilsong.core.quantities import parse
from anvilsong.core.units import UnitSystem
from anvilsong.core.value import MOST_THICKNESS_MM
from anvilsong.core.warming import (
    HOTTEST_PART_C,
    MOST_SIDE_MM,
    PRESETS,
    Mark,
    PartDrawing,
    PartResult,
    Run,
    Shape,
)
from anvilsong.core.warming.job_arc import metal_of
from anvilsong.core.words import sentence
from anvilsong.instruments.limits import LEAST_WIDE_MM, MOST_WIDE_MM, OUTLINE_BYTES
from anvilsong.store import heat_runs
from anvilsong.store.database import Sessions
from anvilsong.store.models import HeatRunRow
from anvilsong.web.drawings.foot import foot_drawing, said_of
from anvilsong.web.drawings.part import part_drawing
from anvilsong.web.forms import field_of, form_of
from anvilsong.web.frame import part, render, see_other, spoken_json, units
from anvilsong.web.heavy import done_now
from anvilsong.web.job_view import JobView, job_view
from anvilsong.web.on_part import changed_since, plate_of
from anvilsong.web.once import page_router
from anvilsong.web.part_form import KINDS, form_of_part, part_from_form, rows_of
from anvilsong.web.part_outline import part_of_outlines
from anvilsong.web.part_words import advice_words, compared_rows, edge_words
from anvilsong.web.requests import Fields, Revision, RowId, Uploads, found
from anvilsong.work import PICTURES, Ended, tasks

if TYPE_CHECKING:
    from anvilsong.instruments import Drawing

router = page_router()

FILM_KEPT_FOR = "private, no-cache"  # a restored book may have another run of this number


def _page(
    request: Request,
    session: Session,
    view: JobView,
    row: HeatRunRow | None,
    form: Mapping[str, str],
    trouble: BadInput | None = None,
) -> HTMLResponse:
    if view.plan.refused:
        return render(request, "part.html", 422 if trouble else 200, view=view, here="tune")
    system = units(request)
    result = heat_runs.result_of(row)
    drawn = _drawn(form, system)
    work = request.app.state.heat_works.find(row.uid) if row is not None else None
    return render(
        request,
        "part.html",
        422 if trouble else 200,
        view=view,
        here="tune",
        form=form,
        rows=rows_of(form),
        more=_blank_rows(system),
        trouble=trouble,
        problems={field_of(problem): problem for problem in trouble.problems} if trouble else {},
        presets={key: words for key, (words, _) in PRESETS.items()},
        drawing=part("part", lambda: part_drawing(drawn)) if drawn is not None else "",
        row=row,
        result=result,
        work=work,
        is_fresh=request.method == "POST" and trouble is None,
        feet=_feet(result) if result else [],
        changed=changed_since(session, view, row, result) if row and result else [],
        advice=advice_words(result, plate_of(view, row), metal_of(situation(view.job)).solidus_c)
        if row and result
        else [],
        others=compared_rows(result) if result else [],
        earlier=heat_runs.earlier_runs(session, view.row.id),
        film=result.film.model_dump() | {"ends": result.run.ends_s}
        if result and row and heat_runs.has_film(session, row.id)
        else None,
        contour_c=situation(view.job).contour_c,
        edges=edge_words(situation(view.job), view.settings, view.c),
    )


def _feet(result: PartResult) -> list[dict[str, Any]]:
    def drawn(number: int) -> Callable[[], Any]:
        return lambda: foot_drawing(result, number)

    return [
        {"trace": trace, "said": said_of(result, number), "drawing": part("foot", drawn(number))}
        for number, trace in enumerate(result.run.runs)
    ]


def _drawn(form: Mapping[str, str], system: UnitSystem) -> PartDrawing | None:
    try:
        return part_from_form(form, system)
    except BadInput:
        return None


def _blank_rows(system: UnitSystem) -> dict[str, dict[str, str]]:
    """A row of each kind as it is added."""
    blank = {
        "shapes": Shape(width_mm=60, height_mm=40),
        "runs": Run(x_mm=0, y_mm=20, to_x_mm=60, to_y_mm=20),
        "marks": Mark(name="Seal", x_mm=30, y_mm=10),
    }
    rows = {kind: form_of(value, system, f"{KINDS[kind][0]}NN_") for kind, value in blank.items()}
    rows["shapes"]["sNN_corners"] = ""
    return rows


@router.get("/jobs/{job_id}/part", response_class=HTMLResponse)
def show_part(request: Request, job_id: RowId, preset: str = "", run: Revision = None) -> HTMLResponse:
    """The newest part of the job, one that is asked for, or one to begin with."""
    with request.app.state.sessions() as session:
        view = job_view(session, job_id, units(request))
        if view.plan.refused:
            return _page(request, session, view, None, {})
        row = None
        if preset not in PRESETS:
            row = heat_runs.find_heat_run(session, run) if run else heat_runs.newest_heat_run(session, job_id)
            if run and (row is None or row.job_id != job_id):
                raise HTTPException(404)
        drawing = heat_runs.part_of(row)
        if drawing is None:
            row, drawing = None, _first_part(view, preset)
        return _page(request, session, view, row, form_of_part(drawing, units(request)))


def _first_part(view: JobView, preset: str) -> PartDrawing:
    """A preset in the job's own thickness and size, as far as they are known."""
    make = PRESETS.get(preset, PRESETS["plate"])[1]
    drawing = make()
    job, known = view.job, view.job.part
    warm = view.settings.preheat_c or max(job.part_temperature_c, 0.0)
    update: dict[str, Any] = {"start_c": min(warm, HOTTEST_PART_C)}
    if preset != "casting":
        update["thickness_mm"] = min(round(situation(job).thickness_mm, 2), MOST_THICKNESS_MM)
    if preset in ("", "plate"):
        length = (known.length_mm if known else None) or min(job.weld_length_mm, 600.0)
        width = (known.width_mm if known else None) or 150.0
        length, width = min(max(length, 20.0), MOST_SIDE_MM), min(max(width, 10.0), MOST_SIDE_MM)
        run = Run(x_mm=0, y_mm=width / 2, to_x_mm=min(job.weld_length_mm, length), to_y_mm=width / 2)
        update |= {"shapes": (Shape(width_mm=length, height_mm=width),), "runs": (run,)}
    return drawing.model_copy(update=update)


@router.post("/jobs/{job_id}/part")
def weld_part_of(request: Request, job_id: RowId, form: Fields) -> Response:
    """Keep the drawing, and begin to compute it."""
    make: Sessions = request.app.state.sessions
    works, system = request.app.state.heat_works, units(request)
    if works.is_full:
        raise HTTPException(503, say.in_units(sentence("web.other_parts_are_being_2")))
    try:
        drawing = part_from_form(form, system)
        with make.begin() as session:
            view = job_view(session, job_id, system)
            if view.plan.refused:
                raise BadInput.one("job", view.row.title, sentence("web.refused_there_nothing_weld"))
            _check(view, drawing)
            row = heat_runs.add_heat_run(session, view.row, view.plan_row.revision, drawing)
            run_id, uid = row.id, row.uid
    except BadInput as trouble:
        with make() as session:
            view = job_view(session, job_id, system)
            return _page(request, session, view, None, form, trouble)

    def keep(found: tuple[PartResult, bytes]) -> None:
        with make.begin() as session:
            heat_runs.keep_result(session, uid, *found)

    works.start(uid, keep, tasks.weld, view.job, view.settings, view.c, drawing, bool(form.get("others")))
    return see_other(f"/jobs/{job_id}/part?run={run_id}")


@router.post("/jobs/{job_id}/part/outline", response_class=HTMLResponse)
def take_outline(request: Request, job_id: RowId, form: Fields, uploads: Uploads) -> HTMLResponse:
    """The closed lines of a drawing as a part to go on with; nothing is stored until it is welded."""
    upload = uploads.get("file")
    with request.app.state.sessions() as session:
        view = job_view(session, job_id, units(request))
        if view.plan.refused:
            return _page(request, session, view, None, {})
        drawing = _first_part(view, "")
        try:
            if upload is None or not upload.filename:
                raise BadInput.one("outline", "no file", sentence("web.choose_svg_dxf_drawing"))
            read = _outlines(upload.file.read(OUTLINE_BYTES + 1), upload.filename, _wide_mm(request, form))
            drawing = part_of_outlines(read.outlines, drawing)
        except BadInput as trouble:
            typed = {"outline_wide": form.get("outline_wide", "")}
            return _page(request, session, view, None, form_of_part(drawing, units(request)) | typed, trouble)
        said = {"outline_said": say.in_units(say.joined(*read.said, by=" "), units(request))}
        return _page(request, session, view, None, form_of_part(drawing, units(request)) | said)


def _wide_mm(request: Request, form: Mapping[str, str]) -> float | None:
    """How wide the drawing is, where somebody said so."""
    text = form.get("outline_wide", "").strip()
    if not text:
        return None
    wide = parse(text, "length", "outline_wide", units(request))
    if not LEAST_WIDE_MM <= wide <= MOST_WIDE_MM:
        allowed = say.joined("allowed is ", say.mm(LEAST_WIDE_MM, 0), " to ", say.mm(MOST_WIDE_MM, 0))
        raise BadInput.one("outline_wide", text, allowed)
    return wide


def _outlines(data: bytes, name: str, wide_mm: float | None) -> Drawing:
    try:
        read: Drawing = done_now(PICTURES, tasks.read_outlines, data, name, wide_mm)
    except Ended as ended:
        raise BadInput.one("outline", name[:60], sentence("web.drawing_can_read", ended=ended)) from None
    return read


def _check(view: JobView, drawing: PartDrawing) -> None:
    """What would take too long, or lies over no metal, is said before anything starts.

    Raises
    ------
    BadInput : which field
    """
    from anvilsong.core.warming.effort import check_effort
    from anvilsong.core.warming.job_arc import arc_of
    from anvilsong.core.warming.raster import rasterised

    arc = arc_of(situation(view.job), view.settings, view.c)
    check_effort(drawing, arc)
    rasterised(drawing, drawing.cell_mm or arc.usual_cell_mm)


def _progress(request: Request, row: HeatRunRow) -> dict[str, Any]:
    work = request.app.state.heat_works.find(row.uid)
    if row.result is not None:
        return {"state": "done", "share": 1.0, "said": ""}
    if work is None:
        return {"state": "stopped", "share": 0.0, "said": sentence("web.did_not_come_end")}
    return {"state": work.state, "share": round(work.share, 3), "said": work.said}


@router.get("/api/heat-runs/{run_id}")
def show_progress(request: Request, run_id: RowId) -> Response:
    """How far it has come."""
    with request.app.state.sessions() as session:
        return spoken_json(request, _progress(request, found(heat_runs.find_heat_run(session, run_id))))


@router.post("/jobs/{job_id}/part/{run_id}/stop")
def stop(request: Request, job_id: RowId, run_id: RowId) -> Response:
    """Stop computing; the drawing stays."""
    with request.app.state.sessions() as session:
        row = found(heat_runs.find_heat_run(session, run_id))
        if row.job_id != job_id:
            raise HTTPException(404)
    work = request.app.state.heat_works.find(row.uid)
    if work is not None:
        work.stop()
    return see_other(f"/jobs/{job_id}/part?run={run_id}")


@router.get("/api/heat-runs/{run_id}/film")
def show_film(request: Request, run_id: RowId) -> Response:
    """The film's bytes, picture after picture; packed by gzip, which every browser unpacks."""
    with request.app.state.sessions() as session:
        film = found(heat_runs.film_of(session, run_id))
    headers = {"content-encoding": "gzip", "cache-control": FILM_KEPT_FOR}
    return Response(film, media_type="application/octet-stream", headers=headers)


@router.post("/api/parts/draw")
def draw(request: Request, form: Fields) -> Response:
    """The drawing of a form as it stands, or what is wrong with it, by field."""
    try:
        drawing = part_from_form(form, units(request))
    except BadInput as trouble:
        return spoken_json(
            request, {"drawing": "", "problems": {field_of(each): str(each) for each in trouble.problems}}
        )
    return spoken_json(request, {"drawing": part_drawing(drawing), "problems": {}})
