"""A job in, a plan out; settings in, consequences out."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, Any

from fastapi import APIRouter, Body, Request
from fastapi.responses import JSONResponse

from anvilsong.core.arc.sound import loudness_db, noise_words, power_harmonics
from anvilsong.core.errors import BadInput
from anvilsong.core.job import Job, read_job, validated
from anvilsong.core.machine.model import Machine
from anvilsong.core.machine.panel import show_on_panel
from anvilsong.core.plan.checks import margins, refusals, warnings_for
from anvilsong.core.plan.consequences import consequences
from anvilsong.core.plan.planner import make_plan
from anvilsong.core.plan.resolve import resolve, ties
from anvilsong.core.plan.situation import situation
from anvilsong.core.quantities import UnitSystem
from anvilsong.core.registry import BY_KEY
from anvilsong.core.settings import Settings
from anvilsong.store import book
from anvilsong.web.drawings.panel import panel_drawing
from anvilsong.web.drawings.section import section_drawing
from anvilsong.web.drawings.wave import overview_drawing, wave_drawing
from anvilsong.web.figures import difference_words, wave_figures
from anvilsong.web.frame import units

router = APIRouter(tags=["plan"])
Given = Annotated[Any, Body()]


@router.get("/healthz")
async def healthz() -> dict[str, str]:
    """Alive."""
    return {"status": "ok"}


@router.post("/api/plan")
def post_plan(request: Request, given: Given) -> JSONResponse:
    """A job → a plan."""
    job = read_job(given)
    with request.app.state.sessions() as session:
        plan = make_plan(job, book.find_machine(session, job.machine), book.find_kit(session, job.kit))
    return JSONResponse(plan.model_dump(mode="json", by_alias=True))


@router.post("/api/consequences")
def post_consequences(request: Request, given: Given) -> JSONResponse:
    """Job and settings → consequences and warnings.

    With ``"show"`` naming any of panel, panel_drawing, margins, section, wave, overview, ties, figures, differences, the same
    values also come as those faces; ``"ghost"`` is a second setting to compare with.
    """
    if not isinstance(given, dict) or "job" not in given or "settings" not in given:
        raise BadInput.one("body", given, "send a JSON object with “job” and “settings”")
    job, settings = read_job(given["job"]), validated(Settings, given["settings"])
    at, machine = situation(job), _machine(request, job)
    stops = refusals(at)
    if stops:
        return JSONResponse({"consequences": None, "warnings": [stop.model_dump() for stop in stops]})
    seen = consequences(job, settings, machine)
    answer: dict[str, Any] = {"consequences": seen.model_dump(), "warnings": [warning.model_dump() for warning in warnings_for(at, settings, seen, machine)]}
    if given.get("show"):
        answer |= _faces(job, settings, machine, given, units(request))
    return JSONResponse(answer)


def _faces(job: Job, settings: Settings, machine: Machine, given: dict[str, Any], system: UnitSystem) -> dict[str, Any]:
    at, seen = situation(job), consequences(job, settings, machine)
    ghost = validated(Settings, given["ghost"]) if given.get("ghost") else None
    large = bool(given.get("large"))
    makers: dict[str, Callable[[], Any]] = {
        "margins": lambda: [margin.model_dump() for margin in margins(at, settings, seen, machine)],
        "panel": lambda: show_on_panel(settings, machine).model_dump(),
        "panel_drawing": lambda: panel_drawing(show_on_panel(settings, machine), machine),
        "section": lambda: section_drawing(job, settings, seen, system),
        "wave": lambda: wave_drawing(settings, ghost, large),
        "overview": lambda: overview_drawing(settings),
        "ties": lambda: [tie.model_dump() for tie in ties(settings, seen, machine)],
        "figures": lambda: wave_figures(settings, seen, system),
        "differences": lambda: difference_words(ghost, settings, job, machine) if ghost else [],
    }
    return {name: makers[name]() for name in given["show"] if name in makers}


@router.post("/api/resolve")
def post_resolve(request: Request, given: Given) -> JSONResponse:
    """Job, settings and the locked lanes → the others solved again, what moved, what still conflicts."""
    if not isinstance(given, dict) or "job" not in given or "settings" not in given:
        raise BadInput.one("body", given, "send a JSON object with “job”, “settings” and “locked”")
    job, settings = read_job(given["job"]), validated(Settings, given["settings"])
    locked = [str(key) for key in given.get("locked") or []]
    for key in locked:
        if key not in BY_KEY:
            raise BadInput.one("locked", key, "name settings of the registry")
    with request.app.state.sessions() as session:
        machine, kit = book.find_machine(session, job.machine), book.find_kit(session, job.kit)
    solved = resolve(job, settings, locked, machine, kit)
    return JSONResponse({
        "settings": solved.settings.model_dump(mode="json", by_alias=True),
        "moved": [BY_KEY[key].words.lower() for key in solved.moved],
        "conflicts": [warning.model_dump() for warning in solved.conflicts],
    })  # fmt: skip


@router.post("/api/sound")
def post_sound(given: Given) -> JSONResponse:
    """Settings → what the arc sounds of: harmonics (Hz, amplitude), loudness, and words."""
    settings = validated(Settings, given.get("settings") if isinstance(given, dict) else given)
    wave = settings.wave(settings.amps_set)
    db = loudness_db(wave)
    pulse = settings.pulse.model_dump() if settings.pulse else None
    return JSONResponse({"harmonics": power_harmonics(wave), "loudness_db": db, "words": noise_words(db), "pulse": pulse})


def _machine(request: Request, job: Job) -> Machine:
    with request.app.state.sessions() as session:
        return book.find_machine(session, job.machine)
