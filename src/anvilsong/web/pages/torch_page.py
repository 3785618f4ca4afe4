"""Torch: tungsten, cup and gas for these settings."""

from __future__ import annotations

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse

from anvilsong.core.torch.tungsten import find_class, find_size, load_parts
from anvilsong.web.drawings.section import section_drawing
from anvilsong.web.frame import job_view, render, units

router = APIRouter(include_in_schema=False)


@router.get("/jobs/{job_id}/torch", response_class=HTMLResponse)
def show_torch(request: Request, job_id: int) -> HTMLResponse:
    with request.app.state.sessions() as session:
        view = job_view(session, job_id, units(request))
        if view.plan.refused:
            return render(request, "torch.html", view=view, here="torch")
        settings, seen = view.settings, view.plan.consequences
        assert seen is not None
        assert settings.tungsten is not None
        tungsten = settings.tungsten
        parts = load_parts(settings.wave(), tungsten.diameter_mm, tungsten.class_, tungsten.tip)
        return render(
            request,
            "torch.html",
            view=view,
            here="torch",
            drawing=section_drawing(view.job, settings, seen, units(request)),
            kind=find_class(tungsten.class_),
            size=find_size(tungsten.diameter_mm),
            parts_en=float(parts[0]),
            parts_ep=float(parts[1]),
            steps=[step for step in view.plan.run_sheet if step.station == "torch"],
            ticked={tick.step for tick in view.row.ticks},
        )
