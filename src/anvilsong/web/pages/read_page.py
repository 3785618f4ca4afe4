"""Read: the verdict on the newest coupon, the ladder, and the one next change."""

from __future__ import annotations

from contextlib import suppress
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from anvilsong.core.bead import NextChange, Readings, Verdict, as_run, effect_words
from anvilsong.core.errors import BadInput
from anvilsong.core.model import consequences
from anvilsong.store import attachments, book, coupons
from anvilsong.store.models import CouponRow
from anvilsong.store.reading import readable
from anvilsong.web.drawings.coupon import coupon_drawing
from anvilsong.web.drawings.score import score_drawing
from anvilsong.web.frame import part, render, see_other, units
from anvilsong.web.job_view import job_view
from anvilsong.web.known import known_words
from anvilsong.web.requests import PageNumber, RowId, found
from anvilsong.web.rung_words import changed_by_hand, nearest, set_apart, several_said

router = APIRouter(include_in_schema=False)

RUNGS_A_PAGE = 20  # drawn on one page, the newest first


def _rung(coupon: CouponRow, before: CouponRow | None, control: str = "pedal") -> dict[str, Any]:
    """One coupon as a rung: its drawing, its words, and what was changed since the one before.

    A verdict that cannot be read is given anew; a rung whose readings cannot be read says so.
    """
    changed = (
        coupon.plan.words if before is None or coupon.plan_id != before.plan_id else "The same settings again"
    )
    rung: dict[str, Any] = {
        "coupon": coupon,
        "changed": changed,
        "several": several_said(changed_by_hand(set_apart(before, coupon), control)) if before else "",
        "corrected": len(coupon.readings) > 1,
        "readings": None,
        "verdict": None,
        "change": None,
    }
    reading = coupon.readings[-1] if coupon.readings else None
    readings = readable(Readings, reading.document) if reading else None
    if reading is None or readings is None:
        return rung
    verdict, change = readable(Verdict, reading.verdict), readable(NextChange, reading.change)
    if verdict is None or change is None:
        with suppress(BadInput):
            verdict, change = coupons.judge(coupon.plan, readings)
    if verdict is None or change is None:
        return rung
    drawing = part("coupon", lambda: coupon_drawing(readings, f"Coupon {coupon.number}: {verdict.headline}"))
    expected = part("coupon", lambda: coupon_drawing(_expected(readings, verdict), "As expected", [readings]))
    return rung | {
        "readings": readings,
        "verdict": verdict,
        "change": change,
        "drawing": drawing,
        "expected": expected,
    }


def _expected(readings: Readings, verdict: Verdict) -> Readings:
    """The coupon that the model expected, at the speed the hand really went."""
    border = verdict.expected_border_mm
    numbers: dict[str, Any] = {
        "bead_width_mm": verdict.expected_width_mm, "border_left_mm": border, "border_right_mm": border,
        "ripple_pitch_mm": None, "border_stray_mm": None, "judged": {}, "crater": None,
    }  # fmt: skip
    return readings.model_copy(update=numbers)


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
        rungs = [
            _rung(coupon, run[place - 1] if place else None, control) for place, coupon in enumerate(run)
        ]
        rungs = rungs[-RUNGS_A_PAGE:]
        judged = [(rung["coupon"].number, rung["verdict"]) for rung in rungs if rung["verdict"]]
        best = nearest([rung["verdict"] for rung in rungs])
        newest = rungs[-1] if page == 1 and rungs else _newest_rung(session, job_id)
        effects: list[str] = []
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
            rungs=rungs,
            best=rungs[best]["coupon"].number if best is not None and len(judged) > 1 else None,
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
    with request.app.state.sessions.begin() as session:
        view = job_view(session, job_id)
        coupon: CouponRow = found(coupons.find_coupon(session, job_id, number))
        made = book.read_plan(coupon.plan)
        settings = found(made.plan.settings if made is not None else None)
        if coupon.plan_id != view.plan_row.id and not view.plan.refused:
            words = f"Back to the settings of coupon {number}"
            book.add_plan(session, view.row, view.job, "rung", words, settings)
    return see_other(f"/jobs/{job_id}/coupon")


def _newest_rung(session: Session, job_id: int) -> dict[str, Any] | None:
    run = coupons.find_coupons(session, job_id, 1)
    return _rung(run[0], None) if run else None


@router.post("/jobs/{job_id}/read/take")
def take_change(request: Request, job_id: RowId) -> Response:
    """The changed settings become the next rung."""
    with request.app.state.sessions.begin() as session:
        view = job_view(session, job_id)
        newest: dict[str, Any] = found(_newest_rung(session, job_id))
        coupon, change = newest["coupon"], newest["change"]
        if change is not None and change.kind == "setting" and view.plan_row.id == coupon.plan_id:
            book.add_plan(session, view.row, view.job, "rung", change.said, change.settings)
    return see_other(f"/jobs/{job_id}/tune")
