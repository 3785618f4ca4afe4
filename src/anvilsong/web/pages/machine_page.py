"""Machines: the panel editor, checked as it is typed; import and export; knobs; which machine does a job."""

from __future__ import annotations

import json

from fastapi import Request
from fastapi.responses import HTMLResponse, JSONResponse, Response
from sqlalchemy.orm import Session

from anvilsong.core.arc.waveform import SHAPES
from anvilsong.core.complaints import validated
from anvilsong.core.errors import BadInput, CannotRead
from anvilsong.core.job import Job
from anvilsong.core.machine import SHAPE_WORDS, Machine, show_on_panel
from anvilsong.core.plan import make_plan
from anvilsong.core.said import Words
from anvilsong.core.shop import rank_shop
from anvilsong.store import book, shop
from anvilsong.store.models import MachineRow
from anvilsong.store.reading import digest, document, readable
from anvilsong.web.drawings.panel import panel_drawing
from anvilsong.web.frame import part, render, see_other, spoken_json, units
from anvilsong.web.job_view import job_view, kit_of
from anvilsong.web.machine_form import (
    BASIS_CHOICES,
    KINDS,
    QUANTITIES,
    ROWS,
    START_MODES,
    form_from_machine,
    machine_from_form,
)
from anvilsong.web.once import page_router
from anvilsong.web.requests import Fields, PageNumber, RowId, Uploads, found, whole

router = page_router()

SAMPLE = Job.model_validate({"a": {"alloy": "6061", "thickness": 3.0}, "joint": "butt"})
FITS_A_PAGE = 40
NEW = {
    "least_a": "5",
    "most_a": "200",
    "duty_amps": "200",
    "duty_share": "30",
    "least_frequency_hz": "40",
    "most_frequency_hz": "200",
    "least_ep_share": "15",
    "most_ep_share": "50",
}
NEW |= {
    "least_trim": "50",
    "most_trim": "150",
    "torch_amps": "150",
    "torch_duty": "35",
    "least_half_ms": "0.6",
    "memory_slots": "0",
    "most_pulse_hz": "40",
    "shape_square": "on",
    "trigger_pedal": "on",
    "trigger_switch_2": "on",
}
NEW |= {
    "c0_setting": "amps_set",
    "c0_label": "Amps",
    "c0_kind": "digits",
    "c0_meaning": "5 = 5, 200 = 200",
    "c0_step": "1",
    "c0_unit": "A",
}
NEW |= {
    "c1_setting": "ep_share",
    "c1_label": "AC balance",
    "c1_kind": "percent",
    "c1_meaning": "15 = 15, 50 = 50",
    "c1_step": "1",
    "c1_unit": "% EP",
}


def sample_panel(machine: Machine) -> Words:
    """What the panel would look like for a plain job."""
    plan = make_plan(SAMPLE, machine)
    if plan.settings is None:
        return ""
    return panel_drawing(show_on_panel(plan.settings, machine), machine)


def _editor(
    request: Request,
    session: Session,
    form: dict[str, str],
    row: MachineRow | None,
    trouble: BadInput | None = None,
) -> HTMLResponse:
    drawing: Words = ""
    try:
        machine = machine_from_form(form)
        drawing = part("panel", lambda: sample_panel(machine))
    except BadInput as problem:
        trouble = trouble or (problem if row is None and form.get("name") else None)
    # After a clash the form carries what stands there now: saving it again is then meant.
    form = form | {"seen": digest(row.document) if row else ""}
    used = 1 + max((row for row in range(ROWS) if form.get(f"c{row}_setting")), default=0)
    return render(
        request,
        "machine.html",
        422 if trouble else 200,
        form=form,
        row=row,
        trouble=trouble,
        drawing=drawing,
        rows=min(ROWS, used + 2),
        kinds=KINDS,
        quantities=QUANTITIES,
        start_modes=START_MODES,
        bases=BASIS_CHOICES,
        shapes=[(shape, SHAPE_WORDS[shape]) for shape in SHAPES],
        machines=shop.machines(session),
        here="shop",
    )


@router.get("/shop/machines/new/rows", response_class=HTMLResponse)
def new_machine(request: Request) -> HTMLResponse:
    with request.app.state.sessions() as session:
        return _editor(request, session, dict(NEW), None)


@router.get("/shop/machines/{machine_id}", response_class=HTMLResponse)
def edit_machine(request: Request, machine_id: RowId) -> HTMLResponse:
    with request.app.state.sessions() as session:
        row, machine = stored_machine(session, machine_id)
        return _editor(request, session, form_from_machine(machine) | {"machine_id": str(row.id)}, row)


def stored_machine(session: Session, machine_id: int) -> tuple[MachineRow, Machine]:
    """A machine's row and value; one that cannot be read is shown as a new one of its name."""
    row = found(session.get(MachineRow, machine_id))
    return row, readable(Machine, row.document) or Machine(name=row.name)


@router.post("/shop/machines")
def save_machine(request: Request, form: Fields) -> Response:
    make = request.app.state.sessions
    machine_id = whole(form.get("machine_id"))
    try:
        with make.begin() as session:
            machine = machine_from_form(form)
            if machine_id:
                row = found(session.get(MachineRow, machine_id))
                # What was tried on scrap stands on no field of the editor.
                before = readable(Machine, row.document)
                kept = machine.model_copy(update={"starts": before.starts if before else ()})
                shop.change_machine(session, row, kept, form.get("seen") or None)
            else:
                machine_id = shop.add_machine(session, machine).id
    except BadInput as trouble:
        with make() as session:
            row = session.get(MachineRow, machine_id) if machine_id else None
            return _editor(request, session, form, row, trouble)
    return see_other(f"/shop/machines/{machine_id}")


@router.post("/api/machine/check")
def check_machine(request: Request, form: Fields) -> Response:
    """The editor's form as it stands → its panel drawn, or what does not make sense yet."""
    try:
        machine = machine_from_form(form)
    except BadInput as trouble:
        return spoken_json(request, {"problems": [problem.sentence for problem in trouble.problems]})
    return spoken_json(request, {"problems": [], "drawing": sample_panel(machine)})


@router.get("/api/machine/schema")
def machine_schema() -> Response:
    """The JSON schema that machine files follow."""
    return JSONResponse(Machine.model_json_schema())


@router.get("/shop/machines/{machine_id}/export.json")
def export_machine(request: Request, machine_id: RowId) -> Response:
    with request.app.state.sessions() as session:
        text = json.dumps(document(stored_machine(session, machine_id)[1]), ensure_ascii=False, indent=1)
    return Response(
        text,
        media_type="application/json",
        headers={"content-disposition": 'attachment; filename="machine.json"'},
    )


@router.post("/shop/machines/import")
def import_machine(request: Request, form: Fields, uploads: Uploads) -> Response:
    """A machine from JSON, pasted or as a file. One of the same name is not overwritten."""
    upload = uploads.get("file")
    text = (
        upload.file.read().decode("utf-8", "replace")
        if upload is not None and upload.filename
        else form.get("text", "")
    )
    try:
        given = json.loads(text)
    except (ValueError, RecursionError):
        raise CannotRead("The machine", "it is not JSON") from None
    machine = validated(Machine, given)
    with request.app.state.sessions.begin() as session:
        machine_id = shop.add_machine(session, machine).id
    return see_other(f"/shop/machines/{machine_id}")


@router.get("/jobs/{job_id}/machines", response_class=HTMLResponse)
def show_ranking(request: Request, job_id: RowId, page: PageNumber = 1) -> HTMLResponse:
    """The shop's machines ranked for a job, with reasons, the best first."""
    with request.app.state.sessions() as session:
        view = job_view(session, job_id, units(request))
        fits = rank_shop(view.job, shop.machines(session), kit_of(session, view))
        pages = max(1, -(-len(fits) // FITS_A_PAGE))
        page = min(page, pages)
        first = (page - 1) * FITS_A_PAGE
        return render(
            request,
            "ranking.html",
            view=view,
            here="job",
            fits=fits[first : first + FITS_A_PAGE],
            first=first + 1,
            page=page,
            pages=pages,
        )


@router.post("/jobs/{job_id}/machines")
def use_machine(request: Request, job_id: RowId, form: Fields) -> Response:
    """Plan the job for another machine: a new revision."""
    name = form.get("machine", "")

    def plan_anew(session: Session) -> None:
        view = job_view(session, job_id)
        shop.find_machine(session, name)
        job = view.job.model_copy(update={"machine": name})
        book.add_plan(session, view.row, job, "plan", f"Planned for {name}")

    request.app.state.sessions.write(plan_anew)
    return see_other(f"/jobs/{job_id}/tune")
