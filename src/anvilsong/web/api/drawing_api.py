"""Drawings of what is being typed."""

from __future__ import annotations

from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse

from anvilsong.core.errors import BadInput
from anvilsong.core.job import read_job
from anvilsong.core.metal.joints import find_joint
from anvilsong.core.plan.checks import refusals
from anvilsong.core.plan.situation import situation
from anvilsong.web.drawings.section import joint_drawing
from anvilsong.web.frame import units
from anvilsong.web.job_form import job_from_form

router = APIRouter(tags=["drawings"])


@router.post("/api/draw/joint")
async def draw_joint(request: Request) -> JSONResponse:
    """The joint form as it stands → the joint in section, and what is wrong with it so far."""
    form = dict(await request.form())
    try:
        job = read_job(job_from_form(form, units(request)))
    except BadInput as trouble:
        return JSONResponse({"problems": [{"field": problem.field.replace(".", "_"), "said": str(problem)} for problem in trouble.problems]})
    at = situation(job)
    best = at.filler.best
    facts = [f"Heat counts as {find_joint(job.joint).words.lower()} in {at.thickness_mm:.1f} mm."]
    if best and job.filler_wanted != "none":
        facts.append(f"Rod: {best.filler}, {best.good_for}.")
    return JSONResponse({"drawing": joint_drawing(job, units(request)), "stops": [stop.message for stop in refusals(at)], "facts": facts, "problems": []})
