"""Card: one page for print, readable at arm's length."""

from __future__ import annotations

from functools import lru_cache

import segno
from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse

from anvilsong.web.drawings.panel import panel_drawing
from anvilsong.web.drawings.section import section_drawing
from anvilsong.web.frame import job_view, part, render, units
from anvilsong.web.requests import Revision, RowId

router = APIRouter(include_in_schema=False)


@lru_cache(maxsize=256)
def qr_code(address: str) -> str:
    """The address as a code to be photographed."""
    return segno.make(address, error="m").svg_inline(scale=3, border=1, dark="#1d2125", light=None)


@router.get("/jobs/{job_id}/card", response_class=HTMLResponse)
def show_card(request: Request, job_id: RowId, revision: Revision = None) -> HTMLResponse:
    with request.app.state.sessions() as session:
        view = job_view(session, job_id, units(request), revision)
        section, code, panel = "", "", ""
        if not view.plan.refused and view.plan.consequences:
            seen = view.plan.consequences
            section = part("section", lambda: section_drawing(view.job, view.settings, seen, units(request)))
            panel = part("panel", lambda: panel_drawing(view.plan.panel, view.machine, pointers_only=True))
            address = str(
                request.url_for("show_card", job_id=job_id).include_query_params(
                    revision=view.plan_row.revision
                )
            )
            code = qr_code(address)
        return render(request, "card.html", view=view, here="card", section=section, code=code, panel=panel)
