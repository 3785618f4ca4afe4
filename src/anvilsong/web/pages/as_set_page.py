"""As set: what the panel really shows becomes the next rung, whoever put it there: the panel's own proposal,
somebody's message, a hand.
"""

from __future__ import annotations

from dataclasses import replace

from fastapi import Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from anvilsong.core.errors import BadInput, Problem
from anvilsong.core.machine import Machine, read_panel, show_on_panel
from anvilsong.core.units import UnitSystem
from anvilsong.core.words import sentence
from anvilsong.store import book
from anvilsong.web.forms import field_of
from anvilsong.web.frame import render, see_other, units
from anvilsong.web.job_view import JobView, job_view, opened_view
from anvilsong.web.once import page_router
from anvilsong.web.panel_fields import panel_values
from anvilsong.web.requests import Fields, RowId
from anvilsong.web.saving import merged_settings, said_version

router = page_router()

SOURCES = {
    "panel": sentence("web.what_panel_proposes_itself"),
    "somebody": "What somebody told me",
    "hand": sentence("web.what_set_now"),
}
REVISION_WORDS = {
    "panel": "As the panel proposed",
    "somebody": "As somebody told",
    "hand": "As really set",
}


def _page(
    request: Request, view: JobView, form: dict[str, str], trouble: BadInput | None = None
) -> HTMLResponse:
    shown = {} if view.plan.refused else show_on_panel(view.settings, view.machine).lines
    return render(
        request,
        "as_set.html",
        422 if trouble else 200,
        view=view,
        here="coupon",
        controls=[control for control in view.machine.controls if len(control.scale.points) > 1],
        form={line.setting: line.shown for line in shown} | form,
        sources=SOURCES,
        trouble=trouble,
        problems={field_of(problem): problem for problem in trouble.problems} if trouble else {},
    )


@router.get("/jobs/{job_id}/as-set", response_class=HTMLResponse)
def show_as_set(request: Request, job_id: RowId) -> HTMLResponse:
    """The panel's controls, as the newest revision would show them."""
    with request.app.state.sessions() as session:
        view = job_view(session, job_id, units(request))
        source = "panel" if view.machine.automatic and not view.coupons else "hand"
        return _page(request, view, {"source": source})


@router.post("/jobs/{job_id}/as-set")
def take_as_set(request: Request, job_id: RowId, form: Fields) -> Response:
    """What was typed becomes the settings of the next coupon."""
    make = request.app.state.sessions

    def take(session: Session) -> None:
        newest = job_view(session, job_id, units(request))
        opened = opened_view(session, job_id, form.get("from_revision"), units(request))
        _take(session, newest, opened, form, units(request))

    try:
        make.write(take)
    except BadInput as trouble:
        with make() as session:
            return _page(request, job_view(session, job_id, units(request)), form, trouble)
    return see_other(f"/jobs/{job_id}/coupon")


def _take(session: Session, newest: JobView, view: JobView, form: dict[str, str], system: UnitSystem) -> None:
    """A new revision, where what was typed is another setting than the panel showed when the page was opened;
    what somebody else kept since stays.
    """
    if view.plan.refused or newest.plan.refused:
        raise BadInput.one("revision", view.plan_row.revision, sentence("web.job_refused_has_no"))
    stands = {line.setting: line.shown for line in show_on_panel(view.settings, view.machine).lines}
    typed = {key: form[key].strip() for key in stands if form.get(key, "").strip()}
    base = view.settings
    if base.pulse is not None and form.get("pulse_rate_hz", "").strip() in ("", "off"):
        base = base.model_copy(update={"pulse": None})
        typed = {key: text for key, text in typed.items() if not key.startswith("pulse_")}
    try:
        found = read_panel(panel_values(typed, view.machine), view.machine, base, view.job.control)
    except BadInput as trouble:
        raise BadInput(*(_of_control(problem, view.machine) for problem in trouble.problems)) from None
    if base == view.settings and all(stands[key] == text for key, text in typed.items()):
        return  # as planned: the coupon belongs to the revision that is there
    words = REVISION_WORDS.get(form.get("source", ""), REVISION_WORDS["hand"])
    if view.plan_row.id != newest.plan_row.id:
        by = said_version(newest.plan_row)
        found = merged_settings(view.settings, found, newest.settings, system, by)
    book.add_plan(session, newest.row, newest.job, "rung", words, found)


def _of_control(problem: Problem, machine: Machine) -> Problem:
    """The complaint under the name of the control's own field."""
    named = next((c.setting for c in machine.controls if c.label == problem.field), problem.field)
    return replace(problem, field=named)
