"""A job in, a plan out; settings in, consequences out."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Body, Request
from fastapi.responses import JSONResponse

from anvilsong.core.errors import BadInput
from anvilsong.core.job import Job, read_job, validated
from anvilsong.core.machine.model import Machine
from anvilsong.core.machine.panel import show_on_panel
from anvilsong.core.plan.checks import margins, refusals, warnings_for
from anvilsong.core.plan.consequences import consequences
from anvilsong.core.plan.planner import make_plan
from anvilsong.core.plan.situation import situation
from anvilsong.core.quantities import UnitSystem
from anvilsong.core.settings import Settings
from anvilsong.store import book
from anvilsong.web.drawings.section import section_drawing
from anvilsong.web.drawings.wave import wave_drawing
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

    With ``"show"`` naming any of panel, margins, section, wave, the same values also come as those faces.
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
    wanted = given.get("show") or []
    if wanted:
        answer |= _faces(job, settings, machine, wanted, units(request))
    return JSONResponse(answer)


def _faces(job: Job, settings: Settings, machine: Machine, wanted: list[str], system: UnitSystem) -> dict[str, Any]:
    at, seen = situation(job), consequences(job, settings, machine)
    faces: dict[str, Any] = {}
    if "margins" in wanted:
        faces["margins"] = [margin.model_dump() for margin in margins(at, settings, seen, machine)]
    if "panel" in wanted:
        panel = show_on_panel(settings, machine)
        faces["panel"] = panel.model_dump()
    if "section" in wanted:
        faces["section"] = section_drawing(job, settings, seen, system)
    if "wave" in wanted:
        faces["wave"] = wave_drawing(settings)
    return faces


def _machine(request: Request, job: Job) -> Machine:
    with request.app.state.sessions() as session:
        return book.find_machine(session, job.machine)
