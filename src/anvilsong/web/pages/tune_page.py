"""Tune: the board. Lanes that can be dragged, stepped and typed, and what it will do beside them."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response

from anvilsong.core.errors import BadInput
from anvilsong.core.plan.board import board
from anvilsong.core.quantities import UnitSystem, figure, parse, to_shown, unit_words
from anvilsong.core.registry import BOARD, get_value, with_value
from anvilsong.core.settings import Settings
from anvilsong.store import book
from anvilsong.web.drawings.section import section_drawing
from anvilsong.web.drawings.wave import wave_drawing
from anvilsong.web.frame import JobView, job_view, render, see_other, units

router = APIRouter(include_in_schema=False)

LEAST_APART = 15.0  # per cent of the track, for words at arm's length


def _lanes(view: JobView, system: UnitSystem) -> list[dict[str, Any]]:
    """The board's lanes with everything scaled to a track of 0..100."""
    rows = []
    planned = view.plan.model_copy(update={"settings": view.planned}) if view.planned else view.plan
    for lane in board(planned, view.settings, view.machine):
        span = lane.high - lane.low or 1.0

        def at(value: float, low: float = lane.low, width: float = span) -> float:
            return max(0.0, min(100.0, 100 * (value - low) / width))

        dimension: Any = lane.dimension
        unit = unit_words(dimension, system) + (" EP" if lane.key == "ep_share" else "")
        rows.append(
            {
                "lane": lane,
                "at": at,
                "marks": _spread([(words, at(value)) for words, value in lane.marks]),
                "unit": unit,
                "figure": figure(lane.value, dimension, system, lane.decimals),
                "factor": to_shown(1.0, dimension, system) - to_shown(0.0, dimension, system),
                "outside": not lane.window[0] - 1e-9 <= lane.value <= lane.window[1] + 1e-9,
            }
        )
    return rows


def _spread(marks: list[tuple[str, float]]) -> list[tuple[str, float, float]]:
    """Each mark's place on the track, and its words' place, moved apart where they would lie on one another."""
    marks = sorted(marks, key=lambda mark: mark[1])
    places = [at for _, at in marks]
    for _ in range(20):
        for i in range(len(places) - 1):
            short = LEAST_APART - (places[i + 1] - places[i])
            if short > 0:
                places[i], places[i + 1] = places[i] - short / 2, places[i + 1] + short / 2
    if places:
        inwards = max(0.0, 5 - places[0]) - max(0.0, places[-1] - 95)
        places = [place + inwards for place in places]
    return [(words, at, place) for (words, at), place in zip(marks, places, strict=True)]


def _page(request: Request, view: JobView, trouble: BadInput | None = None, typed: dict[str, str] | None = None) -> HTMLResponse:
    system = units(request)
    if view.plan.refused:
        return render(request, "tune.html", view=view, here="tune")
    seen = view.plan.consequences
    assert seen is not None
    return render(
        request,
        "tune.html",
        422 if trouble else 200,
        view=view,
        here="tune",
        lanes=_lanes(view, system),
        trouble=trouble,
        typed=typed or {},
        section=section_drawing(view.job, view.settings, seen, system),
        wave=wave_drawing(view.settings),
        state={"job": view.job.model_dump(mode="json", by_alias=True), "settings": view.settings.model_dump(mode="json", by_alias=True)},
    )


@router.get("/jobs/{job_id}/tune", response_class=HTMLResponse)
def show_tune(request: Request, job_id: int, revision: int | None = None) -> HTMLResponse:
    with request.app.state.sessions() as session:
        return _page(request, job_view(session, job_id, units(request), revision))


@router.post("/jobs/{job_id}/tune")
async def keep_settings(request: Request, job_id: int) -> Response:
    """Keep the board's settings as a new revision."""
    form = {key: str(value) for key, value in (await request.form()).items()}
    system = units(request)
    make = request.app.state.sessions
    try:
        with make.begin() as session:
            view = job_view(session, job_id, system)
            if view.plan.refused:
                return see_other(f"/jobs/{job_id}/tune")
            settings, words = _typed_settings(view.settings, form, system)
            if words:
                book.add_plan(session, view.row, view.job, "tuned", "Tuned: " + ", ".join(words), settings)
    except BadInput as trouble:
        with make() as session:
            return _page(request, job_view(session, job_id, system), trouble, form)
    return see_other(f"/jobs/{job_id}/tune")


def _typed_settings(settings: Settings, form: dict[str, str], system: UnitSystem) -> tuple[Settings, list[str]]:
    """The settings with every lane's field applied, and which of them changed."""
    changed: list[str] = []
    for entry in BOARD:
        typed = form.get(entry.key, "").strip()
        if not typed:
            continue
        dimension = entry.dimension or "number"
        # A field that still says what the page printed was not touched: keep the exact value behind it.
        path_value = float(get_value(settings, entry.key))
        if typed.replace("-", "−") == figure(path_value, dimension, system, entry.decimals):
            continue
        value = _share(typed, entry.words) if dimension == "share" else parse(typed, dimension, entry.words, system)
        settings = with_value(settings, entry.key, value)
        changed.append(entry.words.lower())
    return settings, changed


def _share(typed: str, field: str) -> float:
    """On the board a share is always typed in per cent, so −25 and 1 mean per cent too."""
    return parse(typed.replace("EP", "").strip().removesuffix("%"), "number", field) / 100
