"""Schools: how a welder likes to work, kept per welder; and two ways side by side for a job."""

from __future__ import annotations

from typing import Any

from fastapi import Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from anvilsong.core.complaints import validated
from anvilsong.core.errors import BadInput
from anvilsong.core.job import School
from anvilsong.core.plan import make_plan
from anvilsong.core.registry import SETTINGS
from anvilsong.core.shop import school_choices
from anvilsong.core.value import Name, Note, Value
from anvilsong.store import shop
from anvilsong.store.models import WelderRow
from anvilsong.store.reading import digest, readable
from anvilsong.web.drawings.wave import wave_drawing
from anvilsong.web.figures import setting_words
from anvilsong.web.frame import part, render, see_other, units
from anvilsong.web.job_view import job_view, kit_of
from anvilsong.web.once import page_router
from anvilsong.web.requests import Fields, RowId, found, typed_query, whole

router = page_router()


class WelderForm(Value):
    """What the welder's page sends."""

    name: Name
    note: Note = ""


def _welder_page(
    request: Request, session: Session, form: dict[str, str], trouble: BadInput | None = None
) -> HTMLResponse:
    number = whole(form.get("welder_id"))
    row = session.get(WelderRow, number) if number else None
    return render(
        request,
        "welder.html",
        422 if trouble else 200,
        # After a clash the form carries what stands there now: saving it again is then meant.
        form=form | {"seen": digest(shop.welder_document(row)) if row else ""},
        trouble=trouble,
        choices=school_choices(),
        here="shop",
    )


@router.get("/shop/welders/new", response_class=HTMLResponse)
def new_welder(request: Request) -> HTMLResponse:
    with request.app.state.sessions() as session:
        return _welder_page(request, session, School().model_dump())


@router.get("/shop/welders/{welder_id}", response_class=HTMLResponse)
def show_welder(request: Request, welder_id: RowId) -> HTMLResponse:
    with request.app.state.sessions() as session:
        row = found(session.get(WelderRow, welder_id))
        school = readable(School, row.school) or School()
        return _welder_page(
            request,
            session,
            {**school.model_dump(), "name": row.name, "note": row.note, "welder_id": str(row.id)},
        )


@router.post("/shop/welders")
def save_welder(request: Request, form: Fields) -> Response:
    make = request.app.state.sessions
    try:
        typed = validated(WelderForm, {"name": form.get("name", ""), "note": form.get("note", "").strip()})
        school = validated(
            School, {question: form[question] for question in school_choices() if form.get(question)}
        )
        with make.begin() as session:
            row = (
                found(session.get(WelderRow, whole(form["welder_id"])))
                if whole(form.get("welder_id"))
                else None
            )
            kept = shop.save_welder(session, row, typed.name, school, typed.note, form.get("seen") or None).id
    except BadInput as trouble:
        with make() as session:
            return _welder_page(request, session, School().model_dump() | form, trouble)
    return see_other(f"/shop/welders/{kept}")


@router.get("/jobs/{job_id}/schools", response_class=HTMLResponse)
def show_schools(request: Request, job_id: RowId) -> HTMLResponse:
    """Two schools for one job: what each sets, and what it does."""
    query = typed_query(request)
    with request.app.state.sessions() as session:
        view = job_view(session, job_id, units(request))
        if view.plan.refused:
            return render(request, "schools.html", view=view, here="tune")
        kit, choices = kit_of(session, view), school_choices()
        likes = [
            school.model_dump()
            for welder in shop.welders(session)
            if (school := readable(School, welder.school))
        ]
        others = [school for school in likes if school != view.job.school.model_dump()]
        defaults = {
            "a": view.job.school.model_dump(),
            "b": others[0] if others else School(pedal="hot", frequency="tight").model_dump(),
        }
        sides: dict[str, Any] = {}
        for side, default in defaults.items():
            school = validated(
                School, {question: query.get(f"{side}_{question}", default[question]) for question in choices}
            )
            plan = make_plan(view.job.model_copy(update={"school": school}), view.machine, kit)
            sides[side] = {"school": school.model_dump(), "plan": plan}
        rows = []
        for entry in SETTINGS:
            a, b = (setting_words(sides[side]["plan"].settings, entry.key) for side in ("a", "b"))
            if a != "off" or b != "off":
                rows.append((entry.words, a, b))
        waves = part(
            "wave",
            lambda: wave_drawing(sides["a"]["plan"].settings, sides["b"]["plan"].settings, handles=False),
        )
        return render(
            request,
            "schools.html",
            view=view,
            here="tune",
            sides=sides,
            choices=choices,
            rows=rows,
            wave=waves,
        )
