"""A job in, a plan out; settings in, consequences out."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse, Response

from anvilsong.core import say
from anvilsong.core.arc.sound import loudness_db, noise_words, power_harmonics
from anvilsong.core.board import read_lane, resolve, ties
from anvilsong.core.checks import Outcome, outcome, refusals
from anvilsong.core.coefficients import Coefficients
from anvilsong.core.job import Job
from anvilsong.core.model import Bench, Plan, situation
from anvilsong.core.plan import worked_out
from anvilsong.core.registry import BY_KEY
from anvilsong.core.said import in_units
from anvilsong.core.shown import show
from anvilsong.core.units import UnitSystem
from anvilsong.store import shop
from anvilsong.store.database import Sessions
from anvilsong.web.api.bodies import (
    PROBLEMS,
    ConsequencesAnswer,
    ConsequencesBody,
    Health,
    JobBody,
    ReadAnswer,
    ReadBody,
    ResolveAnswer,
    ResolveBody,
    SoundAnswer,
    SoundBody,
)
from anvilsong.web.drawings.panel import panel_drawing
from anvilsong.web.drawings.pedal import pedal_drawing
from anvilsong.web.drawings.section import section_drawing
from anvilsong.web.drawings.wave import overview_drawing, wave_drawing
from anvilsong.web.figures import difference_words, wave_figures
from anvilsong.web.frame import part, spoken_json, units

router = APIRouter(tags=["plan"])


@router.get("/healthz", response_model=Health)
async def healthz() -> dict[str, str]:
    """Alive."""
    return {"status": "ok"}


@router.post("/api/plan", response_model=Plan, responses=PROBLEMS)
def post_plan(request: Request, job: JobBody) -> Response:
    """A job → a plan."""
    plan = worked_out(job, None, *_bench(request, job, None))
    return spoken_json(request, plan)


def _bench(request: Request, job: Job, c: Coefficients | None) -> Bench:
    """What the job is welded with; a board goes on with the coefficients that its plan was made with."""
    make: Sessions = request.app.state.sessions
    bench = make.unchanged((job.machine, job.kit), lambda session: shop.bench_of(session, job))
    return bench if c is None else bench._replace(c=c)


@router.post("/api/consequences", response_model=ConsequencesAnswer, responses=PROBLEMS)
def post_consequences(request: Request, body: ConsequencesBody) -> Response:
    """Job and settings → consequences and warnings, and the faces that ``show`` names."""
    job, settings = body.job, body.settings
    if stops := refusals(situation(job)):
        return spoken_json(request, {"consequences": None, "warnings": [stop.model_dump() for stop in stops]})
    bench = _bench(request, job, body.coefficients)
    what = outcome(job, settings, *bench)
    answer: dict[str, Any] = {
        "consequences": what.consequences.model_dump(),
        "warnings": [warning.model_dump() for warning in what.warnings],
    }
    return spoken_json(request, answer | _faces(body, what, units(request)))


def _faces(body: ConsequencesBody, what: Outcome, system: UnitSystem) -> dict[str, Any]:
    job, settings, ghost = body.job, body.settings, body.ghost
    seen, machine = what.consequences, what.machine
    makers: dict[str, Callable[[], Any]] = {
        "margins": lambda: [margin.model_dump() for margin in what.margins],
        "panel": lambda: what.panel.model_dump(),
        "panel_drawing": lambda: part("panel", lambda: panel_drawing(what.panel, machine)),
        "section": lambda: part("section", lambda: section_drawing(job, settings, seen, system)),
        "wave": lambda: part("wave", lambda: wave_drawing(settings, ghost, body.large)),
        "overview": lambda: part("pulse", lambda: overview_drawing(settings)),
        "ties": lambda: [tie.model_dump() for tie in ties(settings, seen, machine)],
        "figures": lambda: wave_figures(settings, seen),
        "pedal": lambda: part("pedal", lambda: pedal_drawing(job, settings, body.foot)),
        "differences": lambda: difference_words(ghost, what) if ghost else [],
    }
    return {name: makers[name]() for name in body.show}


@router.post("/api/resolve", response_model=ResolveAnswer, responses=PROBLEMS)
def post_resolve(request: Request, body: ResolveBody) -> Response:
    """Job, settings and the locked lanes → the others solved again, what moved, what still conflicts."""
    bench = _bench(request, body.job, body.coefficients)
    solved = resolve(body.job, body.settings, list(body.locked), *bench)
    return spoken_json(request, {
        "settings": solved.settings.model_dump(mode="json", by_alias=True),
        "moved": [say.within(BY_KEY[key].words) for key in solved.moved],
        "conflicts": [warning.model_dump() for warning in solved.conflicts],
        "kept_back": solved.kept_back,
    })  # fmt: skip


@router.post("/api/read", response_model=ReadAnswer, responses=PROBLEMS)
def post_read(request: Request, body: ReadBody) -> Response:
    """What was typed for a setting → its value; bare numbers are in the units of the asking browser."""
    system, entry = units(request), BY_KEY[body.setting]
    limits = (body.low, body.high) if body.low is not None and body.high is not None else None
    value = read_lane(entry, body.typed, system, limits, body.whose)
    return JSONResponse(
        {"value": value, "said": show(value, entry.dimension or "number", system, entry.decimals)}
    )


@router.post("/api/sound", response_model=SoundAnswer, responses=PROBLEMS)
def post_sound(body: SoundBody) -> Response:
    """Settings → what the arc sounds of: harmonics (Hz, amplitude), loudness, and words."""
    settings = body.settings
    wave = settings.wave(settings.amps_set)
    db = loudness_db(wave)
    pulse = settings.pulse.model_dump() if settings.pulse else None
    return JSONResponse(
        {
            "harmonics": power_harmonics(wave),
            "loudness_db": db,
            "words": in_units(noise_words(db)),
            "pulse": pulse,
        }
    )
