"""The ladder on paper: a sheet with blanks to take to the machine, and its rows to type in afterwards."""

from __future__ import annotations

from dataclasses import replace

from fastapi import Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from anvilsong.core.bead import FIRST
from anvilsong.core.errors import BadInput, Problem
from anvilsong.core.machine import read_panel
from anvilsong.core.model import situation
from anvilsong.core.settings import Settings
from anvilsong.core.units import UnitSystem
from anvilsong.core.words import sentence
from anvilsong.store import book, coupons
from anvilsong.web.coupon_scales import PICKS
from anvilsong.web.forms import field_of
from anvilsong.web.frame import render, see_other, units
from anvilsong.web.job_view import JobView, job_view, opened_view
from anvilsong.web.once import page_router
from anvilsong.web.pages.coupon_page import looks_from_form
from anvilsong.web.panel_fields import panel_values
from anvilsong.web.requests import Fields, Revision, RowId

router = page_router()

RUNGS = 6
MEASURES = ("bead_width_mm", "border_left_mm", "border_right_mm", "seconds", "length_mm")
COUPON: dict[UnitSystem, str] = {"mm": "100 mm", "inch": "4 in"}
ON_PAPER = FIRST[:2]  # judged by a ring round a figure


def _sheet(
    request: Request, view: JobView, form: dict[str, str], trouble: BadInput | None = None
) -> HTMLResponse:
    system = units(request)
    return render(
        request,
        "ladder_sheet.html",
        422 if trouble else 200,
        view=view,
        here="read",
        form=form,
        trouble=trouble,
        problems={field_of(problem): problem for problem in trouble.problems} if trouble else {},
        rungs=range(1, RUNGS + 1),
        controls=[control for control in view.machine.controls if len(control.scale.points) > 1],
        scales=ON_PAPER,
        overall=PICKS["overall"][1],
        aim=None if view.plan.refused else situation(view.job).aim,
        coupon_words=COUPON[system],
        first=view.coupons + 1,
    )


@router.get("/jobs/{job_id}/ladder-sheet", response_class=HTMLResponse)
def show_sheet(request: Request, job_id: RowId, revision: Revision = None) -> HTMLResponse:
    """The sheet for print, and its rows to type in."""
    with request.app.state.sessions() as session:
        view = job_view(session, job_id, units(request), revision)
        return _sheet(request, view, {"revision": str(view.plan_row.revision)})


@router.post("/jobs/{job_id}/ladder-sheet")
def type_sheet(request: Request, job_id: RowId, form: Fields) -> Response:
    """Every row that says something becomes a rung, in one transaction or not at all."""
    make, system = request.app.state.sessions, units(request)

    def climb(session: Session) -> None:
        # A sheet may be typed in days later: its rows start from what it was printed with.
        view = opened_view(session, job_id, form.get("revision"), system)
        if view.plan.refused:
            raise BadInput.one("revision", view.plan_row.revision, sentence("web.has_no_settings_run"))
        _climb(session, view, form, system)

    try:
        make.write(climb)
    except BadInput as trouble:
        with make() as session:
            try:
                shown = opened_view(session, job_id, form.get("revision"), system)
            except BadInput:
                shown = job_view(session, job_id, system)
                form = form | {"revision": str(shown.plan_row.revision)}
            return _sheet(request, shown, form, trouble)
    return see_other(f"/jobs/{job_id}/read")


def _climb(session: Session, view: JobView, form: dict[str, str], system: UnitSystem) -> None:
    """The rows as rungs: the settings of the one before, but for what a row says was changed."""
    rows = [(rung, found) for rung in range(1, RUNGS + 1) if (found := _row(form, rung, COUPON[system]))]
    if not rows:
        raise BadInput.one("r1_bead_width_mm", "nothing", sentence("web.type_least_one_row"))
    problems, plan, settings = [], view.plan_row, view.settings
    for rung, row in rows:
        try:
            changed, words = _changed(view, settings, row)
            readings = looks_from_form(row, system)
        except BadInput as trouble:
            problems += [_of_rung(problem, rung) for problem in trouble.problems]
            continue
        if problems:
            continue
        if changed != settings:
            plan, settings = book.add_plan(session, view.row, view.job, "rung", words, changed), changed
        typed = {name: row[name] for name in MEASURES if row.get(name)} | {"units": system}
        coupons.add_coupon(session, view.row, plan, readings, typed)
    if problems:
        raise BadInput(*problems)


def _row(form: dict[str, str], rung: int, length: str) -> dict[str, str]:
    """What a row says by field, the usual length where none is typed; empty where nothing was measured."""
    start = f"r{rung}_"
    row = {name.removeprefix(start): text.strip() for name, text in form.items() if name.startswith(start)}
    asked = ("bead_width_mm", "border_left_mm", "border_right_mm", "seconds", "to")
    judged = [text for name, text in row.items() if name.startswith(("judged_", "overall"))]
    if not any(row.get(name) for name in asked) and not any(judged):
        return {}
    return row | {"length_mm": row.get("length_mm") or length}


def _changed(view: JobView, settings: Settings, row: dict[str, str]) -> tuple[Settings, str]:
    """The settings of a rung, and what was changed in the panel's words."""
    key, text = row.get("changed", ""), row.get("to", "")
    control = view.machine.control(key) if key else None
    if control is None:
        if text:
            raise BadInput.one("changed", text, sentence("web.say_which_setting"))
        return settings, ""
    try:
        values = panel_values({key: text}, view.machine)
        if not values:
            raise BadInput.one("to", "nothing", sentence("web.type_what_was_set", label=control.label))
        found = read_panel(values, view.machine, settings, view.job.control)
    except BadInput as trouble:
        raise BadInput(*(replace(problem, field="to") for problem in trouble.problems)) from None
    return found, f"{control.label} {text}, from the sheet"


def _of_rung(problem: Problem, rung: int) -> Problem:
    return replace(problem, field=f"r{rung}_{field_of(problem)}")
