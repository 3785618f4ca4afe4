"""Read: the verdict on the newest coupon, the ladder, and the one next change."""

from __future__ import annotations

from typing import Any

from fastapi import Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from anvilsong.core.bead import SCALES, Verdict, as_run, effect_words
from anvilsong.core.model import consequences
from anvilsong.core.said import Words
from anvilsong.core.words import sentence
from anvilsong.store import attachments, book, coupons
from anvilsong.store.models import CouponRow
from anvilsong.web.coupon_scales import PICKS
from anvilsong.web.drawings.score import score_drawing
from anvilsong.web.frame import part, render, see_other, units
from anvilsong.web.job_view import job_view
from anvilsong.web.known import known_words
from anvilsong.web.once import page_router
from anvilsong.web.requests import PageNumber, RowId, found
from anvilsong.web.rung_words import nearest
from anvilsong.web.rungs import rung_of

router = page_router()

RUNGS_A_PAGE = 12  # drawn on one page, the newest first


@router.get("/jobs/{job_id}/read", response_class=HTMLResponse)
def show_read(request: Request, job_id: RowId, page: PageNumber = 1) -> HTMLResponse:
    """The newest verdict, and the ladder, some rungs a page."""
    with request.app.state.sessions() as session:
        view = job_view(session, job_id, units(request))
        pages = max(1, -(-view.coupons // RUNGS_A_PAGE))
        page = min(page, pages)
        # One more, for what was changed since the one before the first.
        skip = (page - 1) * RUNGS_A_PAGE
        run = coupons.find_coupons(session, job_id, RUNGS_A_PAGE + 1, skip)
        control = view.job.control
        first = max(0, len(run) - RUNGS_A_PAGE)
        rungs = [
            rung_of(coupon, run[place - 1] if place else None, control)
            for place, coupon in enumerate(run)
            if place >= first
        ]
        judged = [
            (rung["coupon"].number, verdict)
            for rung in rungs
            if isinstance(verdict := rung["verdict"], Verdict)
        ]
        best = nearest([rung["verdict"] for rung in rungs])
        newest = rungs[-1] if page == 1 and rungs else _newest_rung(session, job_id)
        effects: list[Words] = []
        if newest and newest["change"]:
            made = book.read_plan(newest["coupon"].plan)
            if made is not None and made.plan.settings is not None:
                ran = as_run(made.plan.settings, newest["readings"])
                was = consequences(made.plan.job, ran, made.machine, made.plan.coefficients)
                effects = effect_words(newest["change"], was)
        taken = bool(newest and view.plan_row.id != newest["coupon"].plan_id)
        return render(
            request,
            "read.html",
            view=view,
            here="read",
            overall_words=dict(PICKS["overall"][1]),
            scales=SCALES,
            rungs=rungs,
            best=rungs[best]["coupon"].number if best is not None and len(rungs) > 1 else None,
            score=part("chart", lambda: score_drawing(judged)) if len(judged) > 1 else "",
            photographs=attachments.of_coupons(session, [coupon.id for coupon in run]),
            newest=newest,
            effects=effects,
            taken=taken,
            known=None if view.plan.refused else known_words(session, view),
            page=page,
            pages=pages,
        )


@router.post("/jobs/{job_id}/read/back/{number}")
def back_to(request: Request, job_id: RowId, number: RowId) -> Response:
    """The settings of an earlier coupon become the next rung."""

    def go_back(session: Session) -> None:
        view = job_view(session, job_id)
        coupon: CouponRow = found(coupons.find_coupon(session, job_id, number))
        made = book.read_plan(coupon.plan)
        settings = found(made.plan.settings if made is not None else None)
        if coupon.plan_id != view.plan_row.id and not view.plan.refused:
            words = sentence("web.back_settings_coupon", number=number)
            book.add_plan(session, view.row, view.job, "rung", words, settings)

    request.app.state.sessions.write(go_back)
    return see_other(f"/jobs/{job_id}/coupon")


def _newest_rung(session: Session, job_id: int) -> dict[str, Any] | None:
    run = coupons.find_coupons(session, job_id, 1)
    return rung_of(run[0], None) if run else None


@router.post("/jobs/{job_id}/read/take")
def take_change(request: Request, job_id: RowId) -> Response:
    """The changed settings become the next rung."""

    def take(session: Session) -> None:
        view = job_view(session, job_id)
        newest: dict[str, Any] = found(_newest_rung(session, job_id))
        coupon, change = newest["coupon"], newest["change"]
        if change is not None and change.kind == "setting" and view.plan_row.id == coupon.plan_id:
            book.add_plan(session, view.row, view.job, "rung", change.said, change.settings)

    request.app.state.sessions.write(take)
    return see_other(f"/jobs/{job_id}/tune")
