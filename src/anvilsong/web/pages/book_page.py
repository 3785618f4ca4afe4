"""Book: every job of the shop, found by words."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, RedirectResponse

from anvilsong.core.job import Job
from anvilsong.core.metal.joints import find_joint
from anvilsong.store import book
from anvilsong.store.models import JobRow
from anvilsong.web.frame import UNITS_COOKIE, YEAR_S, render, see_other

router = APIRouter(include_in_schema=False)


@router.get("/", response_class=RedirectResponse)
def root() -> RedirectResponse:
    return see_other("/book")


@router.get("/book", response_class=HTMLResponse)
def show_book(request: Request, q: str = "") -> HTMLResponse:
    """Jobs, newest change first, or those whose words fit."""
    with request.app.state.sessions() as session:
        rows = book.find_jobs(session, q)
        return render(request, "book.html", lines=[_line(row) for row in rows], query=q)


def _line(row: JobRow) -> dict[str, Any]:
    job = Job.model_validate(row.plans[-1].job_document)
    last = row.coupons[-1].readings[-1] if row.coupons else None
    return {"row": row, "plan": row.plans[-1], "job": job, "joint": find_joint(job.joint).words, "last": last}


@router.post("/units")
async def switch_units(request: Request) -> RedirectResponse:
    """The other unit system, remembered, and back to the same page."""
    form = await request.form()
    back = str(form.get("back", "/book"))
    answer = see_other(back if back.startswith("/") and not back.startswith("//") else "/book")
    answer.set_cookie(UNITS_COOKIE, "inch" if form.get("to") == "inch" else "mm", max_age=YEAR_S, samesite="lax")
    return answer
