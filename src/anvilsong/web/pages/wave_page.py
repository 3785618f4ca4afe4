"""The wave as a drawing and a table of its own."""

from __future__ import annotations

import csv
import io

import numpy as np
from fastapi import APIRouter, HTTPException, Request
from fastapi.responses import PlainTextResponse, Response

from anvilsong.core import say
from anvilsong.core.arc.sampling import current_a, whole_period_s
from anvilsong.web.drawings.wave import wave_drawing
from anvilsong.web.frame import units
from anvilsong.web.job_view import job_view
from anvilsong.web.requests import RowId

router = APIRouter(include_in_schema=False)

# A drawing that is handed on takes its colours along.
STYLE = (
    ".frost-fill{fill:#bfdde2}.ember-fill{fill:#f3cdb9}.wave-line{stroke:#1d2125;stroke-width:2;fill:none}"
    ".zero-line{stroke:#5d5a52}.label{font:16px sans-serif}"
)
SAMPLES_A_CYCLE, MOST_SAMPLES = 200, 40_000  # of the wave as CSV: a long pulse comes in coarser steps


@router.get("/jobs/{job_id}/wave.svg")
def wave_svg(request: Request, job_id: RowId) -> Response:
    """The wave as a drawing of its own."""
    with request.app.state.sessions() as session:
        view = job_view(session, job_id)
    if view.plan.refused:
        raise HTTPException(404)
    return Response(
        say.in_units(wave_drawing(view.settings, large=True, handles=False), units(request)).replace(
            "<title>", f"<style>{STYLE}</style><title>", 1
        ),
        media_type="image/svg+xml",
    )


@router.get("/jobs/{job_id}/wave.csv")
def wave_csv(request: Request, job_id: RowId) -> PlainTextResponse:
    """The current against time at full press: two AC cycles, or a whole pulse or mix cycle."""
    with request.app.state.sessions() as session:
        view = job_view(session, job_id)
    if view.plan.refused:
        raise HTTPException(404)
    wave = view.settings.wave(view.settings.amps_set)
    span = max(2 / view.settings.frequency_hz, whole_period_s(wave))
    samples = min(int(np.ceil(span * view.settings.frequency_hz * SAMPLES_A_CYCLE)), MOST_SAMPLES)
    time = np.arange(samples) * span / samples
    text = io.StringIO()
    writer = csv.writer(text)
    writer.writerow(["time_s", "current_a"])
    writer.writerows((f"{t:.7f}", f"{i:.2f}") for t, i in zip(time, current_a(wave, time), strict=True))
    return PlainTextResponse(
        text.getvalue(),
        media_type="text/csv",
        headers={"content-disposition": f'attachment; filename="wave-{job_id}.csv"'},
    )
