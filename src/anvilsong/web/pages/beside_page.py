"""Two ladders side by side: the same weld in two hands, or on two machines."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse
from sqlalchemy import select
from sqlalchemy.orm import Session

from anvilsong.store import coupons
from anvilsong.store.models import CouponRow, JobRow
from anvilsong.web.frame import render, units
from anvilsong.web.job_view import JobView, UnreadableJob, job_view
from anvilsong.web.requests import Revision, RowId
from anvilsong.web.rung_words import nearest
from anvilsong.web.rungs import rung_of

router = APIRouter(include_in_schema=False)

MOST_RUNGS, MOST_JOBS = 12, 100


def _others(session: Session, job_id: int) -> list[tuple[int, str]]:
    """Other jobs with coupons, the newest changed first."""
    with_coupons = select(CouponRow.job_id).distinct()
    rows = (
        select(JobRow)
        .where(JobRow.id.in_(with_coupons), JobRow.id != job_id, JobRow.put_away_at.is_(None))
        .order_by(JobRow.changed_at.desc(), JobRow.id.desc())
        .limit(MOST_JOBS)
    )
    return [
        (row.id, f"{row.title}, {row.welder.name}" if row.welder else row.title)
        for row in session.scalars(rows)
    ]


def _ladder(session: Session, view: JobView) -> dict[str, Any]:
    run = coupons.find_coupons(session, view.row.id, MOST_RUNGS)
    rungs = [
        rung_of(coupon, run[place - 1] if place else None, view.job.control)
        for place, coupon in enumerate(run)
    ]
    best = nearest([rung["verdict"] for rung in rungs])
    return {"view": view, "rungs": rungs, "best": None if best is None else rungs[best]["coupon"].number}


@router.get("/jobs/{job_id}/beside", response_class=HTMLResponse)
def show_beside(request: Request, job_id: RowId, other: Revision = None) -> HTMLResponse:
    """This job's newest rungs, and another's."""
    system = units(request)
    with request.app.state.sessions() as session:
        view = job_view(session, job_id, system)
        others = _others(session, job_id)
        chosen = other if other in dict(others) else (others[0][0] if others else None)
        ladders = [_ladder(session, view)]
        unreadable = False
        if chosen is not None:
            try:
                ladders.append(_ladder(session, job_view(session, chosen, system)))
            except UnreadableJob:
                unreadable = True
        return render(
            request,
            "beside.html",
            view=view,
            here="read",
            others=others,
            chosen=chosen,
            ladders=ladders,
            unreadable=unreadable,
        )
