"""Order: which side and stretch comes first, stops and starts, how the weld pulls, how the part is turned."""

from __future__ import annotations

from contextlib import suppress

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse

from anvilsong.core.checks import outcome
from anvilsong.core.errors import BadInput
from anvilsong.core.model import situation
from anvilsong.core.prep import Turning, glove_heat, pulled, sides, stretches, tie_in, turning
from anvilsong.core.quantities import parse
from anvilsong.core.units import UnitSystem
from anvilsong.store.database import Sessions
from anvilsong.web.forms import field_of
from anvilsong.web.frame import render, units
from anvilsong.web.job_view import JobView, job_view
from anvilsong.web.requests import RowId, typed_query

router = APIRouter(include_in_schema=False)


@router.get("/jobs/{job_id}/order", response_class=HTMLResponse)
def show_order(request: Request, job_id: RowId) -> HTMLResponse:
    """One sheet for the part; a diameter that is typed is turned."""
    make: Sessions = request.app.state.sessions
    form, system = typed_query(request), units(request)
    with make() as session:
        view = job_view(session, job_id, system)
        if view.plan.refused:
            return render(request, "order.html", view=view, here="tune")
        at, settings = situation(view.job), view.settings
        seen = outcome(view.job, settings, view.machine, c=view.c).consequences
        again = tie_in(seen.pool_width_mm, view.plan.amps_for_warmth, settings.amps_run)
        turned: Turning | None = None
        trouble: BadInput | None = None
        try:
            turned = _turned(view, form, system, again.overlap_mm)
        except BadInput as problem:
            trouble = problem
        return render(
            request,
            "order.html",
            422 if trouble else 200,
            view=view,
            here="tune",
            form=form,
            sides=sides(at),
            stretches=[] if at.joint.tube else stretches(view.job.weld_length_mm),
            again=again,
            pull=pulled(at, settings, seen, view.plan.passes),
            turned=turned,
            glove=glove_heat(at, settings, seen.rms_a),
            trouble=trouble,
            problems={field_of(problem): problem for problem in trouble.problems} if trouble else {},
        )


def _turned(view: JobView, form: dict[str, str], system: UnitSystem, overlap_mm: float) -> Turning | None:
    """The diameter that was typed, else that of the job's tube; None where there is neither."""
    typed = form.get("diameter", "").strip()
    if typed:
        return turning(parse(typed, "length", "diameter", system), view.settings, overlap_mm)
    tube = view.job.b.outside_diameter_mm or view.job.a.outside_diameter_mm
    with suppress(BadInput):
        return turning(tube, view.settings, overlap_mm) if tube else None
    return None
