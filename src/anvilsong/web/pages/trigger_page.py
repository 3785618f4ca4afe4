"""Pedal and trigger: amps over time with the presses, how the panel stands for it, and what clashes."""

from __future__ import annotations

from typing import get_args

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse

from anvilsong.core.job import Control
from anvilsong.core.plan import decide
from anvilsong.core.prep import (
    clashes,
    course_of,
    means_under,
    second_level,
    set_for,
    spot_times,
    trigger_settings,
)
from anvilsong.core.settings import Settings
from anvilsong.web.drawings.trigger import course_drawing
from anvilsong.web.frame import part, render, units
from anvilsong.web.job_view import JobView, job_view
from anvilsong.web.job_words import CONTROL_WORDS
from anvilsong.web.requests import RowId

router = APIRouter(include_in_schema=False)

ENDS = ("start_amps", "finish_amps", "up_slope_s", "down_slope_s")
CONTROLS: tuple[Control, ...] = get_args(Control)


def _under(view: JobView, control: Control) -> Settings:
    """What is set; under another control than the job's, with the start and end that a plan for it has, and
    the amps that flow, since a switch has no foot to come back by.
    """
    if control == view.job.control:
        return view.settings
    planned = decide(view.job.model_copy(update={"control": control}), view.machine, None, view.c)
    if planned is None:
        return view.settings
    ends = {name: getattr(planned.settings, name) for name in ENDS}
    full = view.settings.amps_run if view.job.control == "pedal" else planned.settings.amps_set
    return view.settings.model_copy(update=ends | {"amps_set": full})


@router.get("/jobs/{job_id}/trigger", response_class=HTMLResponse)
def show_trigger(request: Request, job_id: RowId, control: str = "") -> HTMLResponse:
    """One run under the job's control, or under another to compare."""
    with request.app.state.sessions() as session:
        view = job_view(session, job_id, units(request))
        if view.plan.refused:
            return render(request, "trigger.html", view=view, here="tune")
        chosen: Control = next((one for one in CONTROLS if one == control), view.job.control)
        settings, machine = _under(view, chosen), view.machine
        weld_s = view.job.weld_length_mm / settings.travel_mm_s
        at = view.situation
        level = second_level(at, settings, weld_s)
        spot = spot_times(at, settings, machine.most_a, view.c)
        course = course_of(chosen, settings, weld_s, level, spot)
        return render(
            request,
            "trigger.html",
            view=view,
            here="tune",
            chosen=chosen,
            controls=[(one, CONTROL_WORDS[one], one in machine.triggers) for one in CONTROLS],
            course=course,
            drawing=part("curve", lambda: course_drawing(course, CONTROL_WORDS[chosen].capitalize())),
            set_for=set_for(chosen, settings, machine),
            own=trigger_settings(chosen, settings, machine, level, spot),
            means=means_under(chosen, machine),
            clashes=clashes(chosen, settings, machine),
            level=level if chosen == "switch_4_two_levels" else None,
            spot=spot if chosen == "spot" else None,
        )
