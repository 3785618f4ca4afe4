"""A weld that is there already: gone over to level its face, or cut out where it has a flaw and built up."""

from __future__ import annotations

from fastapi import Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from anvilsong.core.checks import outcome
from anvilsong.core.errors import BadInput
from anvilsong.core.machine import show_on_panel
from anvilsong.core.model import situation
from anvilsong.core.prep import CutOut, GoingOver, cut_out, going_over
from anvilsong.core.quantities import parse
from anvilsong.core.units import UnitSystem
from anvilsong.core.words import sentence
from anvilsong.store import book
from anvilsong.web.drawings.groove import groove_drawing
from anvilsong.web.forms import field_of
from anvilsong.web.frame import part, render, see_other, units
from anvilsong.web.job_view import JobView, job_view
from anvilsong.web.once import page_router
from anvilsong.web.requests import RowId, typed_query

router = page_router()

LONGEST_TITLE = 120
SHOWN = ("amps_set", "ep_share", "frequency_hz", "shape_en", "ep_trim")


def _over(view: JobView) -> GoingOver:
    """What goes over the bead of the newest version."""
    seen = outcome(view.job, view.settings, view.machine, c=view.c).consequences
    return going_over(situation(view.job), view.settings, seen, view.machine, view.c)


@router.get("/jobs/{job_id}/again", response_class=HTMLResponse)
def show_again(request: Request, job_id: RowId) -> HTMLResponse:
    """Going over the bead: what to set, how, and what it costs."""
    with request.app.state.sessions() as session:
        view = job_view(session, job_id, units(request))
        if view.plan.refused:
            return render(request, "again.html", view=view, here="prep")
        over = _over(view)
        panel = show_on_panel(over.settings, view.machine).lines
        return render(
            request,
            "again.html",
            view=view,
            here="prep",
            over=over,
            panel=[line for line in panel if line.setting in SHOWN],
        )


@router.post("/jobs/{job_id}/again")
def make_again(request: Request, job_id: RowId) -> Response:
    """Going over as a job of its own, with its own versions and coupons."""

    def make(session: Session) -> int:
        view = job_view(session, job_id, units(request))
        if view.plan.refused:
            raise BadInput.one("job", view.row.title, sentence("web.job_refused_has_no"))
        over = _over(view)
        title = f"{view.row.title[: LONGEST_TITLE - 12]}, gone over"
        row = book.add_job(session, title, view.job, view.row.welder_id)
        words = sentence("web.goes_over_version", revision=view.plan_row.revision)
        book.add_plan(session, row, view.job, "tuned", words, over.settings)
        return row.id

    made = request.app.state.sessions.write(make)
    return see_other(f"/jobs/{made}/tune", sentence("web.goes_over_made"))


@router.get("/jobs/{job_id}/cut-out", response_class=HTMLResponse)
def show_cut_out(request: Request, job_id: RowId) -> HTMLResponse:
    """A flaw cut out and the groove built up, for its length and depth as typed."""
    form, system = typed_query(request), units(request)
    cut: CutOut | None = None
    trouble: BadInput | None = None
    with request.app.state.sessions() as session:
        view = job_view(session, job_id, system)
        if not view.plan.refused and (form.get("flaw") or form.get("depth")):
            try:
                cut = _worked_out(view, form, system)
            except BadInput as problem:
                trouble = problem
        return render(
            request,
            "cut_out.html",
            422 if trouble else 200,
            view=view,
            here="prep",
            form=form,
            cut=cut,
            drawing=part("groove", lambda: groove_drawing(cut, view.job.thin_mm)) if cut else "",
            trouble=trouble,
            problems={field_of(problem): problem for problem in trouble.problems} if trouble else {},
        )


def _worked_out(view: JobView, form: dict[str, str], system: UnitSystem) -> CutOut:
    flaw, depth = (parse(form.get(name, "").strip(), "length", name, system) for name in ("flaw", "depth"))
    return cut_out(situation(view.job), view.settings, flaw, depth, view.c)
