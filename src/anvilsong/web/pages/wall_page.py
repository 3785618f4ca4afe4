"""A sheet for the wall: the favourite recipes, each as its machine's panel should stand."""

from __future__ import annotations

from dataclasses import dataclass

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse

from anvilsong.core.machine import Panel, show_on_panel
from anvilsong.core.shop import STATE_WORDS
from anvilsong.store import recipe_marks, recipes
from anvilsong.store.models import now
from anvilsong.store.recipes import Recipe
from anvilsong.web.frame import render

router = APIRouter(include_in_schema=False)

MOST_ON_WALL = 24
LARGE = ("amps_set", "ep_share", "frequency_hz")


@dataclass(frozen=True)
class OnWall:
    """A recipe and the panel of its machine."""

    recipe: Recipe
    panel: Panel


@router.get("/recipes/wall", response_class=HTMLResponse)
def show_wall(request: Request) -> HTMLResponse:
    """Favourites that are not retired, by name; what cannot be read is left out."""
    with request.app.state.sessions() as session:
        marks = recipe_marks.marks_of(session)
        favourites = [key for key, mark in marks.items() if mark.favourite and not mark.retired_at]
        wanted = recipes.heads_of(session, sorted(favourites))
        shown = [
            OnWall(recipe, show_on_panel(recipe.settings, recipe.machine))
            for recipe in recipes.recipes(session, wanted[:MOST_ON_WALL], marks)
            if recipe.settings is not None and recipe.job is not None
        ]
    return render(
        request,
        "wall.html",
        here="book",
        shown=shown,
        left_out=len(wanted) - len(shown),
        large=LARGE,
        state_words=STATE_WORDS,
        today=now(),
    )
