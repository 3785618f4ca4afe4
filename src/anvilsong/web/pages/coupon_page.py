"""Coupon and Read: run it, type in what came out, read the verdict, take the one next change."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, HTTPException, Request
from fastapi.responses import HTMLResponse, Response

from anvilsong.core.bead.coupon import Readings
from anvilsong.core.bead.next_change import NextChange, effect_words
from anvilsong.core.bead.verdict import Verdict, as_run
from anvilsong.core.errors import BadInput
from anvilsong.core.job import Job, validated
from anvilsong.core.machine.model import Machine
from anvilsong.core.plan.consequences import consequences
from anvilsong.core.plan.situation import situation
from anvilsong.core.quantities import Dimension, UnitSystem, parse
from anvilsong.core.settings import Settings
from anvilsong.store import book
from anvilsong.store.models import CouponRow
from anvilsong.web.drawings.coupon import coupon_drawing
from anvilsong.web.frame import JobView, job_view, render, see_other, units

router = APIRouter(include_in_schema=False)

MEASURED: dict[str, tuple[str, Dimension, bool]] = {
    "bead_width_mm": ("Bead width", "length", True),
    "border_left_mm": ("Border, left", "length", True),
    "border_right_mm": ("Border, right", "length", True),
    "length_mm": ("Length of the run", "length", True),
    "seconds": ("Seconds it took", "time", True),
    "bead_height_mm": ("Bead height", "length", False),
    "ripple_pitch_mm": ("Ripple spacing", "length", False),
}
CHOSEN = {"back_side": ("none", "partial", "full", "sagging"), "crater": ("filled", "hollow", "cracked"), "overall": ("keep", "nearly", "no")}


def readings_from_form(form: dict[str, str], system: UnitSystem) -> Readings:
    """What was typed, as readings; every field that cannot be read is named at once."""
    given: dict[str, Any] = {"note": form.get("note", "").strip()}
    trouble: list[Any] = []
    for name, (words, dimension, needed) in MEASURED.items():
        typed = form.get(name, "").strip()
        try:
            if typed:
                given[name] = parse(typed, dimension, name, system)
            elif needed:
                raise BadInput.one(name, "", f"type what you measured for {words.lower()}")
        except BadInput as problem:
            trouble.extend(problem.problems)
    if trouble:
        raise BadInput(*trouble)
    given |= {name: form[name] for name in CHOSEN if form.get(name)}
    given["judged"] = {name.removeprefix("judged_"): int(value) for name, value in form.items() if name.startswith("judged_") and value.isdigit()}
    return validated(Readings, given)


def _coupon_form(request: Request, view: JobView, form: dict[str, str], trouble: BadInput | None = None, correcting: int | None = None) -> HTMLResponse:
    problems = {problem.field: problem for problem in trouble.problems} if trouble else {}
    return render(
        request,
        "coupon.html",
        422 if trouble else 200,
        view=view,
        here="coupon",
        form=form,
        problems=problems,
        trouble=trouble,
        measured=MEASURED,
        chosen=CHOSEN,
        correcting=correcting,
        aim=situation(view.job).aim,
        steps=[step for step in view.plan.run_sheet if step.station == "coupon"],
    )


@router.get("/jobs/{job_id}/coupon", response_class=HTMLResponse)
def show_coupon(request: Request, job_id: int, correct: int | None = None) -> HTMLResponse:
    with request.app.state.sessions() as session:
        view = job_view(session, job_id, units(request))
        form = {"length_mm": "100 mm" if units(request) == "mm" else "4 in"}
        if correct is not None:
            last = _coupon(view, correct).readings[-1].document
            form = {name: _as_typed(last.get(name), dimension, units(request)) for name, (_, dimension, _n) in MEASURED.items()}
            form |= {name: last.get(name) or "" for name in (*CHOSEN, "note")}
        return _coupon_form(request, view, form, correcting=correct)


def _as_typed(value: float | None, dimension: Dimension, system: UnitSystem) -> str:
    if value is None:
        return ""
    return f"{value / 25.4:.4g} in" if dimension == "length" and system == "inch" else f"{value:g} {'mm' if dimension == 'length' else 's'}"


def _coupon(view: JobView, number: int) -> CouponRow:
    found = next((coupon for coupon in view.row.coupons if coupon.number == number), None)
    if found is None:
        raise HTTPException(404)
    return found


@router.post("/jobs/{job_id}/coupon")
async def record_coupon(request: Request, job_id: int, correct: int | None = None) -> Response:
    form = {key: str(value) for key, value in (await request.form()).items()}
    make, system = request.app.state.sessions, units(request)
    try:
        with make.begin() as session:
            view = job_view(session, job_id)
            readings = readings_from_form(form, system)
            if correct is not None:
                book.correct_coupon(session, _coupon(view, correct), readings)
            else:
                book.add_coupon(session, view.row, view.plan_row, readings)
    except BadInput as trouble:
        with make() as session:
            return _coupon_form(request, job_view(session, job_id, system), form, trouble, correct)
    return see_other(f"/jobs/{job_id}/read")


def _rung(coupon: CouponRow, before: CouponRow | None) -> dict[str, Any]:
    """One coupon as a rung: its drawing, its words, and what was changed since the one before."""
    reading = coupon.readings[-1]
    readings, verdict, change = Readings.model_validate(reading.document), Verdict.model_validate(reading.verdict), NextChange.model_validate(reading.change)
    changed = coupon.plan.words if before is None or coupon.plan_id != before.plan_id else "The same settings again"
    words = f"Coupon {coupon.number}: {verdict.headline}"
    return {
        "coupon": coupon,
        "readings": readings,
        "verdict": verdict,
        "change": change,
        "drawing": coupon_drawing(readings, words),
        "changed": changed,
        "corrected": len(coupon.readings) > 1,
    }


@router.get("/jobs/{job_id}/read", response_class=HTMLResponse)
def show_read(request: Request, job_id: int) -> HTMLResponse:
    with request.app.state.sessions() as session:
        view = job_view(session, job_id, units(request))
        coupons = view.row.coupons
        rungs = [_rung(coupon, coupons[place - 1] if place else None) for place, coupon in enumerate(coupons)]
        effects, taken = [], False
        if rungs:
            newest = rungs[-1]
            plan = newest["coupon"].plan
            settings, machine = Settings.model_validate(plan.settings), Machine.model_validate(plan.machine_document)
            was = consequences(Job.model_validate(plan.job_document), as_run(settings, newest["readings"]), machine)
            effects = effect_words(newest["change"], was)
            taken = view.plan_row.id != plan.id
        return render(request, "read.html", view=view, here="read", rungs=rungs, effects=effects, taken=taken)


@router.post("/jobs/{job_id}/read/take")
def take_change(request: Request, job_id: int) -> Response:
    """The changed settings become the next rung."""
    with request.app.state.sessions.begin() as session:
        view = job_view(session, job_id)
        if not view.row.coupons:
            raise HTTPException(404)
        coupon = view.row.coupons[-1]
        change = NextChange.model_validate(coupon.readings[-1].change)
        if change.kind == "setting" and view.plan_row.id == coupon.plan_id:
            book.add_plan(session, view.row, Job.model_validate(coupon.plan.job_document), "rung", change.said, change.settings)
    return see_other(f"/jobs/{job_id}/tune")
