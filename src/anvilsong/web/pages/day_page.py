"""The day's check: coupons with one setting on control charts, and what to look at before any setting."""

from __future__ import annotations

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse

from anvilsong.core import say
from anvilsong.core.bead import CHECKS, LEAST_RUNS, Readings, control_chart
from anvilsong.store import coupons
from anvilsong.store.reading import readable
from anvilsong.web.drawings.control import control_drawing
from anvilsong.web.frame import part, render, units
from anvilsong.web.job_view import job_view
from anvilsong.web.requests import RowId

router = APIRouter(include_in_schema=False)

MOST_RUNS = 200
RULER_MM = 0.1  # what a coupon is measured to


@router.get("/jobs/{job_id}/day", response_class=HTMLResponse)
def show_day(request: Request, job_id: RowId) -> HTMLResponse:
    """Coupons run with the settings that stand now, as the same standard run of each day."""
    system = units(request)
    with request.app.state.sessions() as session:
        view = job_view(session, job_id, system)
        run = [
            coupon
            for coupon in coupons.find_coupons(session, job_id, MOST_RUNS)
            if coupon.plan_id == view.plan_row.id and coupon.readings
        ]
        seen = [
            found for coupon in run if (found := readable(Readings, coupon.readings[-1].document)) is not None
        ]
        charts = {
            "Border": control_chart([each.border_mm for each in seen], RULER_MM),
            "Bead width": control_chart([each.bead_width_mm for each in seen], RULER_MM),
        }
        drawn = [
            (words, chart, part("curve", lambda w=words, c=chart: control_drawing(c, w, system)))  # type: ignore[misc]
            for words, chart in charts.items()
            if chart is not None
        ]
        return render(
            request,
            "day.html",
            view=view,
            here="read",
            runs=len(seen),
            least=LEAST_RUNS,
            drawn=drawn,
            out=[say.within(words) for words, chart, _ in drawn if chart.is_out],
            back=[say.within(words) for words, chart, _ in drawn if chart.is_back],
            checks=CHECKS,
        )
