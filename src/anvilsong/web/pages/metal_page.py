"""Metals: every alloy's numbers, what it takes, what it refuses, and where it stands against the crack
range.
"""

from __future__ import annotations

from fastapi import APIRouter, HTTPException, Request
from fastapi.responses import HTMLResponse

from anvilsong.core.errors import BadInput
from anvilsong.core.metal.alloys import FAMILY_WORDS, alloys, find_alloy, unknown_names
from anvilsong.core.metal.chemistry import crack_sensitivity
from anvilsong.core.metal.fillers import choose_filler, find_filler
from anvilsong.core.metal.preheat import preheat_limit
from anvilsong.web.drawings.crack import crack_drawing
from anvilsong.web.frame import render

router = APIRouter(include_in_schema=False)

ELEMENTS = {
    "si": "Silicon",
    "mg": "Magnesium",
    "cu": "Copper",
    "mn": "Manganese",
    "zn": "Zinc",
    "cr": "Chromium",
    "zr": "Zirconium",
}


@router.get("/metals", response_class=HTMLResponse)
def show_metals(request: Request) -> HTMLResponse:
    rows = [(alloy, FAMILY_WORDS[alloy.family]) for alloy in alloys()]
    return render(
        request,
        "metals.html",
        rows=rows,
        unknown=[(name, find_alloy(name)) for name in unknown_names()],
        here="metals",
    )


@router.get("/metals/{name}", response_class=HTMLResponse)
def show_metal(request: Request, name: str) -> HTMLResponse:
    try:
        alloy = find_alloy(name)
    except BadInput:
        raise HTTPException(404) from None
    choice = choose_filler(alloy, alloy)
    candidates = (
        [(row.filler, find_filler(row.filler)) for row in choice.ranked] if not choice.pair_refused else []
    )
    return render(
        request,
        "metal.html",
        alloy=alloy,
        family=FAMILY_WORDS[alloy.family],
        elements=[(words, getattr(alloy, key)) for key, words in ELEMENTS.items() if getattr(alloy, key)],
        choice=choice,
        limit=preheat_limit(alloy),
        alone=crack_sensitivity(alloy),
        drawing=crack_drawing(alloy, alloy.name, candidates, choice.dilution),
        here="metals",
    )
