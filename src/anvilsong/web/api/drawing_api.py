"""Drawings of what is being typed."""

from __future__ import annotations

from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse

from anvilsong.core.errors import BadInput
from anvilsong.core.job import read_job
from anvilsong.core.metal.chemistry import mix
from anvilsong.core.metal.fillers import find_filler
from anvilsong.core.plan.checks import refusals
from anvilsong.core.plan.prep import aim_words, mix_words
from anvilsong.core.plan.situation import Situation, situation
from anvilsong.web.drawings.crack import crack_drawing
from anvilsong.web.drawings.section import joint_drawing
from anvilsong.web.frame import fragment, spoken_json, units
from anvilsong.web.job_form import job_from_form
from anvilsong.web.requests import Fields

router = APIRouter(include_in_schema=False)


def filler_panel(request: Request, at: Situation) -> str:
    """The filler's ranking and crack range for a job, as a piece of page."""
    choice = at.filler
    a, b = at.job.a.metal, at.job.b.metal
    candidates = (
        [(row.filler, find_filler(row.filler)) for row in choice.ranked] if not choice.pair_refused else []
    )
    name = a.name if a.name == b.name else f"{a.name} + {b.name}"
    drawing = crack_drawing(mix(a, b, 0.5), name, candidates, choice.dilution) if candidates else ""
    facts = [words for words in (aim_words(at), mix_words(at)) if words]
    return fragment(request, "filler_panel.html", choice=choice, drawing=drawing, facts=facts)


@router.post("/api/draw/joint")
def draw_joint(request: Request, form: Fields) -> JSONResponse:
    """The job form as it stands → the joint in section, the fillers, and what is wrong with it so far."""
    try:
        job = read_job(job_from_form(form, units(request)))
    except BadInput as trouble:
        return spoken_json(
            request,
            {
                "problems": [
                    {"field": problem.field.replace(".", "_"), "said": str(problem)}
                    for problem in trouble.problems
                ]
            }
        )
    at = situation(job)
    stops = [stop.message for stop in refusals(at)]
    return spoken_json(
            request,
        {
            "drawing": joint_drawing(job, units(request)),
            "stops": stops,
            "fillers": filler_panel(request, at),
            "problems": [],
        }
    )
