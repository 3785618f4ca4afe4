"""A new machine, asked for one control at a time; the panel as it would stand is drawn beside the answers."""

from __future__ import annotations

from urllib.parse import urlencode

from fastapi import Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from anvilsong.core import say
from anvilsong.core.arc.waveform import SHAPES
from anvilsong.core.errors import BadInput
from anvilsong.core.machine import SHAPE_WORDS, Machine
from anvilsong.core.said import Words
from anvilsong.core.words import sentence
from anvilsong.store import book, shop
from anvilsong.store.models import JobRow
from anvilsong.web.drawings.wave import shape_drawing
from anvilsong.web.field_words import in_words
from anvilsong.web.frame import part, render, see_other, spoken_json
from anvilsong.web.guide_scales import AMPS_FIGURES, FIGURES
from anvilsong.web.job_view import UnreadableJob, job_view
from anvilsong.web.machine_counts import COUNTS
from anvilsong.web.machine_guide import PLAIN, TRIMS, machine_of, shown_of
from anvilsong.web.once import page_router
from anvilsong.web.pages.machine_page import sample_panel
from anvilsong.web.requests import Fields, typed_query, whole

router = page_router()


def _page(request: Request, answers: dict[str, str], trouble: BadInput | None = None) -> HTMLResponse:
    drawing: Words = ""
    if answers.get("amps_high"):
        try:
            machine = machine_of(answers | {"name": answers.get("name") or "New machine"})
            drawing = part("panel", lambda: sample_panel(machine))
        except BadInput:
            drawing = ""
    return render(
        request,
        "machine_guide.html",
        422 if trouble else 200,
        form=shown_of(answers),
        trouble=trouble,
        problems={problem.field: problem for problem in trouble.problems} if trouble else {},
        drawing=drawing,
        plain=PLAIN,
        figures=FIGURES,
        trims=TRIMS,
        counts=COUNTS,
        amps_figures=AMPS_FIGURES,
        shapes=[(shape, SHAPE_WORDS[shape], shape_drawing(shape)) for shape in SHAPES],
        here="shop",
    )


@router.get("/shop/machines/new", response_class=HTMLResponse)
def ask_for_machine(request: Request) -> HTMLResponse:
    wanted = typed_query(request).get("job", "")
    with request.app.state.sessions() as session:
        is_there = wanted == "new" or session.get(JobRow, whole(wanted) or 0) is not None
    return _page(request, {"job": wanted if is_there else ""})


@router.post("/shop/machines/new")
def keep_machine(request: Request, form: Fields) -> Response:
    """The machine of the answers, kept; then back to the job it was wanted for, planned for it."""
    job_id = whole(form.get("job"))

    def store(session: Session) -> tuple[Machine, bool]:
        machine = machine_of(form)
        shop.add_machine(session, machine)
        row = session.get(JobRow, job_id) if job_id else None
        if row is None:
            return machine, False
        try:
            job = job_view(session, row.id).job.model_copy(update={"machine": machine.name})
        except UnreadableJob:
            return machine, False
        book.add_plan(session, row, job, "plan", f"Planned for {machine.name}")
        return machine, True

    try:
        machine, planned = request.app.state.sessions.write(store)
    except BadInput as trouble:
        return _page(request, form, trouble)
    note = f" {machine.note}" if machine.note else ""
    if planned:
        return see_other(f"/jobs/{job_id}/tune", f"Planned for {machine.name}.{note}")
    if form.get("job") == "new":
        said = sentence("web.workshop_job_planned", name=machine.name, note=note)
        return see_other(f"/jobs/new?{urlencode({'machine': machine.name})}", said)
    return see_other("/shop", sentence("web.saved_panel_can_corrected", name=machine.name, note=note))


@router.post("/api/machine/guided")
def check_answers(request: Request, form: Fields) -> Response:
    """The answers as they stand → the panel they make, or what is still to be answered."""
    try:
        machine = machine_of(form | {"name": form.get("name", "").strip() or "New machine"})
    except BadInput as trouble:
        return spoken_json(
            request,
            {"problems": [say.joined(in_words(p.field), ": ", p.said) for p in trouble.problems]},
        )
    return spoken_json(request, {"problems": [], "drawing": part("panel", lambda: sample_panel(machine))})
