"""Prep: everything done before the arc, in order, ticked off."""

from __future__ import annotations

from functools import partial

from fastapi import Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from anvilsong.core.errors import BadInput
from anvilsong.core.model import Step, situation
from anvilsong.core.plan import may_be_offered
from anvilsong.core.prep import Slice, bench_steps, prepare, wedge
from anvilsong.core.quantities import parse
from anvilsong.store import book, shop
from anvilsong.web.drawings.gap import gap_drawing
from anvilsong.web.drawings.passes import passes_drawing
from anvilsong.web.frame import part, render, see_other, units
from anvilsong.web.job_view import JobView, job_view
from anvilsong.web.on_part import on_part
from anvilsong.web.once import page_router
from anvilsong.web.requests import Fields, RowId, typed_query

router = page_router()

MOST_COMPARED = 30  # machines of the shop that a short one is compared with


@router.get("/jobs/{job_id}/prep", response_class=HTMLResponse)
def show_prep(request: Request, job_id: RowId) -> HTMLResponse:
    with request.app.state.sessions() as session:
        view = job_view(session, job_id, units(request))
        ticked = {tick.step for tick in view.row.ticks}
        if view.plan.refused or view.plan.consequences is None:
            return render(request, "prep.html", view=view, here="prep")
        at = situation(view.job)
        prep = prepare(
            at,
            view.settings,
            view.plan.consequences,
            view.machine,
            shop.machines(session)[:MOST_COMPARED],
            view.c,
            may_be_offered(view.job, view.settings, view.machine, view.c),
        )
        return render(
            request,
            "prep.html",
            view=view,
            here="prep",
            steps=[step for step in view.plan.run_sheet if step.station == "prep"],
            ticked=ticked,
            prep=prep,
            on_part=on_part(session, view) if prep.short else None,
            section=at.whole,
            passes_drawing=part("drawing of the passes", lambda: passes_drawing(at.job, prep.passes)),
            gap_drawings=[
                part("gap", partial(gap_drawing, step, view.job.gap_mm, view.job.thin_mm))
                for step in prep.gap
            ],
        )


def bench_of(session: Session, view: JobView) -> list[Step]:
    """The set-up of the bench for a job, with what its kit holds."""
    kit = shop.find_kit(session, view.job.kit)
    return bench_steps(situation(view.job), view.settings, view.machine, kit)


@router.get("/jobs/{job_id}/bench", response_class=HTMLResponse)
def show_bench(request: Request, job_id: RowId) -> HTMLResponse:
    """The set-up sheet: bottle to torch, ticked off or printed."""
    with request.app.state.sessions() as session:
        view = job_view(session, job_id, units(request))
        if view.plan.refused:
            return render(request, "bench.html", view=view, here="prep")
        ticked = {tick.step for tick in view.row.ticks}
        steps = bench_of(session, view)
        return render(request, "bench.html", view=view, here="prep", steps=steps, ticked=ticked)


@router.get("/jobs/{job_id}/wedge", response_class=HTMLResponse)
def show_wedge(request: Request, job_id: RowId) -> HTMLResponse:
    """A gap that opens along the seam, sliced from its closed end."""
    form, system = typed_query(request), units(request)
    with request.app.state.sessions() as session:
        view = job_view(session, job_id, system)
        if view.plan.refused:
            return render(request, "wedge.html", view=view, here="prep")
        slices: list[Slice] = []
        trouble: BadInput | None = None
        if form.get("narrow") or form.get("wide"):
            try:
                narrow, wide = (
                    parse(form.get(name, "").strip() or "0", "length", name, system)
                    for name in ("narrow", "wide")
                )
                slices = wedge(situation(view.job), view.settings, narrow, wide, view.c)
            except BadInput as problem:
                trouble = problem
        return render(
            request,
            "wedge.html",
            422 if trouble else 200,
            view=view,
            here="prep",
            form=form,
            slices=slices,
            trouble=trouble,
        )


@router.post("/jobs/{job_id}/tick")
def tick_step(request: Request, job_id: RowId, form: Fields) -> Response:
    with request.app.state.sessions.begin() as session:
        view = job_view(session, job_id)
        steps = [*view.plan.run_sheet, *(bench_of(session, view) if not view.plan.refused else [])]
        known = {f"{step.station}:{step.key}" for step in steps}
        step = str(form.get("step", ""))
        if step in known:
            book.tick(session, view.row, step, form.get("done") == "1")
    return see_other(f"/jobs/{job_id}/{step.partition(':')[0] if step in known else 'prep'}")
