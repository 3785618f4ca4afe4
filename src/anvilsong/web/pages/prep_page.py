"""Prep: everything done before the arc, in order, ticked off."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response

from anvilsong.core.plan.prep import prepare
from anvilsong.core.plan.situation import situation
from anvilsong.store import book
from anvilsong.web.drawings.gap import gap_drawing
from anvilsong.web.drawings.passes import passes_drawing
from anvilsong.web.frame import job_view, render, see_other, units

router = APIRouter(include_in_schema=False)


@router.get("/jobs/{job_id}/prep", response_class=HTMLResponse)
def show_prep(request: Request, job_id: int) -> HTMLResponse:
    with request.app.state.sessions() as session:
        view = job_view(session, job_id, units(request))
        ticked = {tick.step for tick in view.row.ticks}
        if view.plan.refused or view.plan.consequences is None:
            return render(request, "prep.html", view=view, here="prep")
        at = situation(view.job)
        prep = prepare(at, view.settings, view.plan.consequences, view.machine, book.machines(session))
        return render(
            request,
            "prep.html",
            view=view,
            here="prep",
            steps=[step for step in view.plan.run_sheet if step.station == "prep"],
            ticked=ticked,
            prep=prep,
            section=at.whole,
            passes_drawing=passes_drawing(view.job, prep.passes),
            gap_drawings=[gap_drawing(step, view.job.gap_mm, view.job.thin_mm) for step in prep.gap],
        )


@router.post("/jobs/{job_id}/tick")
async def tick_step(request: Request, job_id: int) -> Response:
    form: dict[str, Any] = dict(await request.form())
    with request.app.state.sessions.begin() as session:
        view = job_view(session, job_id)
        known = {f"{step.station}:{step.key}" for step in view.plan.run_sheet}
        step = str(form.get("step", ""))
        if step in known:
            book.tick(session, view.row, step, form.get("done") == "1")
    return see_other(f"/jobs/{job_id}/{step.partition(':')[0] if step in known else 'prep'}")
