"""Drawings of what is being typed."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response

from anvilsong.core.checks import refusals
from anvilsong.core.errors import BadInput
from anvilsong.core.metal.chemistry import mix
from anvilsong.core.metal.fillers import find_filler
from anvilsong.core.model import Situation, situation
from anvilsong.core.prep import aim_words, mix_words
from anvilsong.web.drawings.crack import crack_drawing
from anvilsong.web.drawings.section import joint_drawing
from anvilsong.web.field_words import named
from anvilsong.web.frame import fragment, spoken_json, units
from anvilsong.web.job_form import job_from_form
from anvilsong.web.job_words import assumed_words, proposed_title
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


def seen_so_far(request: Request, form: Mapping[str, str]) -> dict[str, Any]:
    """The job form as it stands → the joint in section, the fillers, the name it proposes, what it assumes,
    and what is wrong.

    Before the metal is known the joint is drawn in a sample of sheet, and ``sample`` says so.
    """
    system = units(request)
    sample = not (form.get("a_alloy", "").strip() and form.get("a_thickness", "").strip())
    if sample:
        form = {**form, "a_alloy": form.get("a_alloy", "").strip() or "6061"}
        form["a_thickness"] = form.get("a_thickness", "").strip() or "3 mm"
    try:
        job = job_from_form(form, system)
    except BadInput as trouble:
        return {
            "problems": [
                {"field": p.field.replace(".", "_"), "said": str(named(p))} for p in trouble.problems
            ]
        }
    seen = {
        "drawing": joint_drawing(job, system),
        "sample": sample,
        "assumed": assumed_words(job),
        "problems": [],
    }
    if sample:
        return seen | {"fillers": "", "title": "", "stops": []}
    at = situation(job)
    stops = [stop.message for stop in refusals(at)]
    return seen | {"stops": stops, "fillers": filler_panel(request, at), "title": proposed_title(job)}


@router.post("/api/draw/joint")
def draw_joint(request: Request, form: Fields) -> Response:
    """``seen_so_far`` for the page's script."""
    return spoken_json(request, seen_so_far(request, form))
