"""Help: first steps, keys, how to read each drawing, and every word, with drawings of one plain job."""

from __future__ import annotations

from functools import cache

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse

from anvilsong.core.arc.waveform import SHAPES
from anvilsong.core.glossary import terms
from anvilsong.core.metal.chemistry import mix
from anvilsong.core.metal.fillers import find_filler
from anvilsong.core.plan import make_plan
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.units import UnitSystem
from anvilsong.web.drawings.crack import crack_drawing
from anvilsong.web.drawings.section import section_drawing
from anvilsong.web.drawings.svg import drawn_together
from anvilsong.web.drawings.wave import shape_drawing, wave_drawing
from anvilsong.web.frame import render, units
from anvilsong.web.plain_job import PLAIN_JOB

router = APIRouter(include_in_schema=False)


def _changed(settings: Settings, **values: float) -> Words:
    """The wave of the plain job with one thing changed, the plan's own behind it."""
    return wave_drawing(settings.model_copy(update=values), settings, handles=False)


@cache
def help_pictures(system: UnitSystem) -> dict[str, Words]:
    """Each drawing of the help, of the plain job."""
    plan = make_plan(PLAIN_JOB)
    assert plan.settings is not None
    assert plan.consequences is not None
    metal, rod = PLAIN_JOB.a.metal, find_filler("4043")
    return {
        "wave": wave_drawing(plan.settings, handles=False),
        "balance": _changed(plan.settings, ep_share=0.45),
        "trim": _changed(plan.settings, ep_trim=0.3),
        "shapes": drawn_together(map(shape_drawing, SHAPES)),
        "section": section_drawing(PLAIN_JOB, plan.settings, plan.consequences, system),
        "crack": crack_drawing(mix(metal, metal, 0.5), metal.name, [("4043", rod)], 0.65),
    }


@router.get("/help", response_class=HTMLResponse)
def show_help(request: Request) -> HTMLResponse:
    pictures = help_pictures(units(request))
    shown = set[str]()
    glossary = []
    for term in terms():
        # A drawing stands at the first word that needs it; later ones point back to it.
        picture = term.drawing if term.drawing and term.drawing not in shown else None
        shown |= {term.drawing} if term.drawing else set()
        glossary.append((term, pictures[picture] if picture else ""))
    return render(request, "help.html", glossary=glossary, pictures=pictures, here="help")
