"""Schools: how a welder likes to work, kept per welder; and two ways side by side for a job."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, HTTPException, Request
from fastapi.responses import HTMLResponse, Response

from anvilsong.core.errors import BadInput
from anvilsong.core.job import School, validated
from anvilsong.core.plan.planner import make_plan
from anvilsong.core.plan.schools import school_choices
from anvilsong.core.registry import SETTINGS
from anvilsong.store import book
from anvilsong.store.models import WelderRow
from anvilsong.web.drawings.wave import wave_drawing
from anvilsong.web.figures import setting_words
from anvilsong.web.frame import job_view, render, see_other, units

router = APIRouter(include_in_schema=False)


@router.get("/shop/welders/{welder_id}", response_class=HTMLResponse)
def show_welder(request: Request, welder_id: int) -> HTMLResponse:
    with request.app.state.sessions() as session:
        row = session.get(WelderRow, welder_id)
        if row is None:
            raise HTTPException(404)
        return render(request, "welder.html", welder=row, choices=school_choices(), here="shop")


@router.post("/shop/welders")
async def save_welder(request: Request) -> Response:
    form = {key: str(value) for key, value in (await request.form()).items()}
    name = form.get("name", "").strip()
    if not 1 <= len(name) <= 60:
        raise BadInput.one("name", name, "give a name of 1 to 60 letters")
    school = validated(School, {question: form[question] for question in school_choices() if form.get(question)})
    with request.app.state.sessions.begin() as session:
        welder_id = form.get("welder_id", "")
        row = session.get(WelderRow, int(welder_id)) if welder_id.isdigit() else None
        if any(other.name == name and other is not row for other in book.welders(session)):
            raise BadInput.one("name", name, "this welder is here already")
        if row is None:
            row = WelderRow(name=name, school={}, note="")
            session.add(row)
        row.name, row.school, row.note = name, school.model_dump(), form.get("note", "").strip()[:400]
        session.flush()
        kept = row.id
    return see_other(f"/shop/welders/{kept}")


@router.get("/jobs/{job_id}/schools", response_class=HTMLResponse)
def show_schools(request: Request, job_id: int) -> HTMLResponse:
    """Two schools for one job: what each sets, and what it does."""
    query: dict[str, str] = dict(request.query_params)
    with request.app.state.sessions() as session:
        view = job_view(session, job_id, units(request))
        if view.plan.refused:
            return render(request, "schools.html", view=view, here="tune")
        kit, choices = book.find_kit(session, view.job.kit), school_choices()
        others = [welder.school for welder in book.welders(session) if welder.school != view.job.school.model_dump()]
        defaults = {"a": view.job.school.model_dump(), "b": others[0] if others else School(pedal="hot", frequency="tight").model_dump()}
        sides: dict[str, Any] = {}
        for side, default in defaults.items():
            school = validated(School, {question: query.get(f"{side}_{question}", default[question]) for question in choices})
            plan = make_plan(view.job.model_copy(update={"school": school}), view.machine, kit)
            sides[side] = {"school": school.model_dump(), "plan": plan}
        rows = []
        for entry in SETTINGS:
            a, b = (setting_words(sides[side]["plan"].settings, entry.key) for side in ("a", "b"))
            if a != "off" or b != "off":
                rows.append((entry.words, a, b))
        waves = wave_drawing(sides["a"]["plan"].settings, sides["b"]["plan"].settings, handles=False)
        return render(request, "schools.html", view=view, here="tune", sides=sides, choices=choices, rows=rows, wave=waves)
