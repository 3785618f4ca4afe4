"""Coupon and Read: run it, type in what came out, read the verdict, take the one next change."""

from __future__ import annotations

import json
from collections.abc import Mapping
from contextlib import suppress
from functools import cache
from typing import Any

from fastapi import Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from anvilsong.core.bead import FIRST, MORE, Looks, measured_whole
from anvilsong.core.complaints import validated
from anvilsong.core.errors import BadInput
from anvilsong.core.model import situation
from anvilsong.core.quantities import parse
from anvilsong.core.said import Words, in_units
from anvilsong.core.settings import Settings
from anvilsong.core.shown import figure, unit_words
from anvilsong.core.units import Dimension, UnitSystem
from anvilsong.core.words import sentence
from anvilsong.store import attachments, book, coupons, shop
from anvilsong.store.models import CouponRow, ReadingRow
from anvilsong.store.reading import digest
from anvilsong.web import measuring
from anvilsong.web.coupon_scales import PICKS
from anvilsong.web.drawings.scales import scale_drawing
from anvilsong.web.forms import field_of, given_from
from anvilsong.web.frame import render, see_other, units
from anvilsong.web.job_view import JobView, job_view, opened_plan, opened_view
from anvilsong.web.known import known_words
from anvilsong.web.once import page_router
from anvilsong.web.requests import Fields, Revision, RowId, found, whole
from anvilsong.web.who import was_by

router = page_router()

MEASURED: dict[str, tuple[Words, Dimension, bool]] = {
    "bead_width_mm": ("Bead width", "length", True),
    "border_left_mm": ("Border, left", "length", True),
    "border_right_mm": ("Border, right", "length", True),
    "length_mm": ("Length of the run", "length", True),
    "seconds": ("Seconds it took", "time", True),
    "bead_height_mm": ("Bead height", "length", False),
    "ripple_pitch_mm": ("Ripple spacing", "length", False),
    "border_stray_mm": (in_units(sentence("web.how_far_border_s")), "length", False),
    "ball_mm": ("Ball at the tip", "length", False),
}
# What a press of a stepper changes, millimetres or inches and seconds.
STEPS: dict[UnitSystem, dict[str, float]] = {
    "mm": {"length_mm": 10, "seconds": 1},
    "inch": {"length_mm": 0.5, "seconds": 1},
}
USUAL_STEP: dict[UnitSystem, float] = {"mm": 0.1, "inch": 0.005}
# What the button “As last time” brings back: what seldom changes, and never what this coupon is about.
AS_LAST = ("length_mm", "bead_height_mm", "ripple_pitch_mm", *(name for name in PICKS if name != "tip"))


def looks_from_form(form: Mapping[str, str], system: UnitSystem) -> Looks:
    """What was typed and tapped; every field that cannot be read is named at once."""
    looks = validated(Looks, given_from(Looks, form), system)
    return measured_whole(looks) or looks


def _sound_at(session: Session, view: JobView) -> str:
    """Where the sound of this job's machine is recorded; empty for a machine that is none of the shop's."""
    machine_id = shop.machine_id(session, view.machine.name)
    return f"/shop/machines/{machine_id}/sound?job={view.row.id}" if machine_id else ""


def _coupon_form(
    request: Request,
    session: Session,
    view: JobView,
    form: dict[str, str],
    trouble: BadInput | None = None,
    correcting: int | None = None,
) -> HTMLResponse:
    problems = {field_of(problem): problem for problem in trouble.problems} if trouble else {}
    system = units(request)
    if correcting is not None:  # after a clash the form starts from what stands now
        stands = coupons.newest_readings(_coupon(session, view, correcting))
        form = form | {"seen": digest(stands)}
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
        coupon_mm=101.6 if system == "inch" else 100.0,
        picks=PICKS,
        scales={"first": FIRST, "more": MORE},
        drawn_scales=scale_drawings(),
        more_judged=any(form.get(f"judged_{one.key}") for one in MORE),
        steps_of=steps_of(system),
        starts=starts(view, system),
        last=_last_time(session, view, system) if correcting is None else {},
        known=None if view.plan.refused else known_words(session, view),
        correcting=correcting,
        aim=situation(view.job).aim,
        steps=[step for step in view.plan.run_sheet if step.station == "coupon"],
        photographs=[] if correcting is not None else measuring.waiting(session, view.row.id),
        given=form.get("given", "").split(),
        sound_at=_sound_at(session, view),
    )


def steps_of(system: UnitSystem) -> dict[str, float]:
    """What a press of a stepper changes, by measure."""
    return {name: STEPS[system].get(name, USUAL_STEP[system]) for name in MEASURED}


@cache
def scale_drawings() -> dict[str, list[Words]]:
    """Every place of every scale as a little drawing."""
    return {
        one.key: [scale_drawing(one.key, place, words) for place, words in enumerate(one.places)]
        for one in (*FIRST, *MORE)
    }


def starts(view: JobView, system: UnitSystem) -> dict[str, str]:
    """Where an empty field begins when it is stepped: at what the plan expects."""
    seen = view.plan.consequences
    if seen is None:
        return {}
    coupon_mm = 101.6 if system == "inch" else 100.0
    expected = {
        "bead_width_mm": seen.pool_width_mm,
        "border_left_mm": seen.border_mm,
        "border_right_mm": seen.border_mm,
        "length_mm": coupon_mm,
        "bead_height_mm": 1.5,
        "ripple_pitch_mm": seen.ripple_mm,
        "border_stray_mm": 0.1,
        "ball_mm": view.settings.tungsten.diameter_mm if view.settings.tungsten else 2.4,
    }
    found = {name: figure(value, "length", system) for name, value in expected.items()}
    return found | {"seconds": f"{coupon_mm / view.settings.travel_mm_s:.0f}"}


def _last_time(session: Session, view: JobView, system: UnitSystem) -> dict[str, str]:
    run = coupons.find_coupons(session, view.row.id, 1)
    form = _form_from(run[0], system) if run else {}
    return {
        name: said for name, said in form.items() if said and (name in AS_LAST or name.startswith("judged_"))
    }


@router.get("/jobs/{job_id}/coupon", response_class=HTMLResponse)
def show_coupon(
    request: Request,
    job_id: RowId,
    correct: Revision = None,
    photograph: Revision = None,
    revision: Revision = None,
) -> HTMLResponse:
    """A new coupon of a version, the newest unless told, or one to correct; with what was measured on a
    photograph.
    """
    with request.app.state.sessions() as session:
        view = job_view(session, job_id, units(request), revision)
        form = {"length_mm": "100 mm" if units(request) == "mm" else "4 in"}
        if correct is not None:
            form = _form_from(_coupon(session, view, correct), units(request))
        if photograph is not None:
            picture = found(attachments.find_attachment(session, job_id, photograph))
            read = measuring.typed_from(picture)
            form |= {name: as_typed(value, "length", units(request)) for name, value in read.items()}
            form |= {"photograph": str(photograph), "given": " ".join(read)}
        return _coupon_form(
            request, session, view, form | {"revision": str(view.plan_row.revision)}, correcting=correct
        )


def _form_from(coupon: CouponRow, system: UnitSystem) -> dict[str, str]:
    """A coupon's newest readings as the form shows them, judgements too; what is damaged is left empty."""
    if not coupon.readings:
        return {}
    newest = coupon.readings[-1]
    last = newest.document
    form = {
        name: _in_words(name, dimension, newest, system) for name, (_, dimension, _needed) in MEASURED.items()
    }
    form |= {name: str(last.get(name) or "") for name in (*PICKS, "note")}
    judged = last.get("judged")
    return form | (
        {f"judged_{word}": str(value) for word, value in judged.items()} if isinstance(judged, dict) else {}
    )


def typed_words(form: dict[str, str], system: UnitSystem) -> dict[str, str]:
    """The measures as they were typed, and the units that a bare number meant there."""
    words = {name: form[name].strip()[:60] for name in MEASURED if form.get(name, "").strip()}
    return words | {"units": system}


def _in_words(name: str, dimension: Dimension, reading: ReadingRow, system: UnitSystem) -> str:
    """A measure as it was typed; where the page is in other units now, with the unit it meant."""
    words = (reading.typed or {}).get(name)
    value = reading.document.get(name)
    if not isinstance(words, str) or not isinstance(value, int | float):
        return as_typed(value, dimension, system)
    meant: UnitSystem = "inch" if (reading.typed or {}).get("units") == "inch" else "mm"
    with suppress(BadInput):
        if abs(parse(words, dimension, name, system) - value) < 1e-6:
            return words
        return f"{words} {unit_words(dimension, meant)}"
    return as_typed(value, dimension, system)


def as_typed(value: Any, dimension: Dimension, system: UnitSystem) -> str:
    """A measure as a person would type it, with its unit; empty where there is none."""
    if not isinstance(value, int | float):
        return ""
    return (
        f"{value / 25.4:.6g} in"
        if dimension == "length" and system == "inch"
        else f"{value:.10g} {'mm' if dimension == 'length' else 's'}"
    )


def _coupon(session: Session, view: JobView, number: int) -> CouponRow:
    coupon: CouponRow = found(coupons.find_coupon(session, view.row.id, number))
    return coupon


@router.post("/jobs/{job_id}/coupon")
def record_coupon(request: Request, job_id: RowId, form: Fields, correct: Revision = None) -> Response:
    """Record a coupon, run with the revision that the form was opened on."""
    make, system = request.app.state.sessions, units(request)

    def record(session: Session) -> None:
        was_by(session, form.get("recorded_by", ""))
        row, plan_row, made = opened_plan(session, job_id, form.get("revision"))
        readings = looks_from_form(form, system)
        if form.get("board_settings") and correct is None and not made.plan.refused:
            ran, said = _board_settings(form["board_settings"]), sentence("web.tuned_was_run")
            plan_row = book.add_plan(session, row, made.plan.job, "tuned", said, ran)
        if correct is not None:
            coupons.correct_coupon(
                session,
                found(coupons.find_coupon(session, job_id, correct)),
                readings,
                typed_words(form, system),
                form.get("seen") or None,
            )
        else:
            coupon = coupons.add_coupon(session, row, plan_row, readings, typed_words(form, system))
            _give_photograph(session, coupon, whole(form.get("photograph")))

    try:
        make.write(record)
    except BadInput as trouble:
        with make() as session:
            gone = any(problem.field == "revision" for problem in trouble.problems)
            view = opened_view(session, job_id, None if gone else form.get("revision"), system)
            form = form | {"revision": str(view.plan_row.revision)}
            return _coupon_form(request, session, view, form, trouble, correct)
    return see_other(f"/jobs/{job_id}/read")


def _give_photograph(session: Session, coupon: CouponRow, photograph: int | None) -> None:
    """The picture that the figures were read from goes with the coupon."""
    row = attachments.find_attachment(session, coupon.job_id, photograph) if photograph else None
    if row is not None:
        attachments.give_to(session, row, coupon)


def _board_settings(sent: str) -> Settings:
    """The board that somebody left without keeping it, and ran all the same."""
    try:
        return validated(Settings, json.loads(sent))
    except (ValueError, RecursionError):
        raise BadInput.one(
            "settings", sentence("web.board_you_left"), sentence("web.open_tune_save_there")
        ) from None
