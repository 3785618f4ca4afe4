"""Job: what is it. The joint is drawn as it is typed; saving makes a plan."""

from __future__ import annotations

from collections.abc import Collection
from typing import Any

from fastapi import Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from anvilsong.core.errors import BadInput, Problem
from anvilsong.core.job import Job, School
from anvilsong.core.joint import joints
from anvilsong.core.metal.alloys import alloys, unknown_names
from anvilsong.core.metal.fillers import PURPOSE_WORDS, fillers
from anvilsong.core.metal.surfaces import surfaces
from anvilsong.core.shop import answer_words
from anvilsong.core.words import sentence
from anvilsong.store import book, near_recipes, recipes, shop
from anvilsong.store.database import Sessions
from anvilsong.store.models import JobRow
from anvilsong.web.api.drawing_api import seen_so_far
from anvilsong.web.drawings.part_size import PART_SIZES, part_size_drawing
from anvilsong.web.drawings.section import joint_drawing
from anvilsong.web.drawings.tubes import tube_icon
from anvilsong.web.forms import field_of, units_of_fields
from anvilsong.web.frame import render, see_other, units
from anvilsong.web.job_form import SCHOOLS, form_from_job, job_from_form
from anvilsong.web.job_view import JobView, job_view, opened_view
from anvilsong.web.job_words import proposed_title
from anvilsong.web.once import page_router
from anvilsong.web.requests import Fields, RowId, typed_query, whole
from anvilsong.web.saving import merged_job, said_version

router = page_router()

JOINT_SAMPLE = {"alloy": "6061", "thickness": 3.0}


def _choices(session: Session) -> dict[str, Any]:
    icons = {
        joint.key: tube_icon(joint.key)
        if joint.key.startswith("tube")
        else joint_drawing(Job.model_validate({"a": JOINT_SAMPLE, "joint": joint.key}))
        for joint in joints()
    }
    return {
        "alloys": alloys(),
        "unknown": unknown_names(),
        "joints": joints(),
        "icons": icons,
        "purposes": PURPOSE_WORDS,
        "schools": SCHOOLS,
        "surface_pairs": [(surface.key, surface.words) for surface in surfaces()],
        "machine_pairs": [(one.name, one.name) for one in shop.machines(session)],
        "part_sizes": [(size, words, part_size_drawing(size)) for size, words in PART_SIZES.items()],
        "kit_pairs": [(one.name, one.name) for one in shop.kits(session)],
        "welder_schools": {row.id: row.school for row in shop.welders(session)},
        "welder_pairs": [(row.id, row.name) for row in shop.welders(session)],
        "filler_pairs": [("none", "No filler"), *((filler.name, filler.name) for filler in fillers())],
        "school_pairs": {
            name: [(value, answer_words(name, value)) for value in values] for name, values in SCHOOLS.items()
        },
    }


def _form_page(
    request: Request,
    session: Session,
    form: dict[str, Any],
    trouble: BadInput | None = None,
    view: JobView | None = None,
    given: Collection[str] = (),
) -> HTMLResponse:
    """``given`` names the fields that come from elsewhere, and go before what was typed here."""
    problems = {field_of(problem): problem for problem in trouble.problems} if trouble else {}
    if view:
        form = form | _as_it_stands(view, form)
    seen = seen_so_far(request, form)
    return render(
        request,
        "job.html",
        422 if trouble else 200,
        form=form,
        given=given,
        problems=problems,
        trouble=trouble,
        drawing=seen.get("drawing", ""),
        fillers=seen.get("fillers", ""),
        sample=seen.get("sample", False),
        proposed=seen.get("title", ""),
        assumed=seen.get("assumed", ""),
        view=view,
        here="job",
        unit_of=units_of_fields(Job, units(request)),
        **_choices(session),
    )


def _as_it_stands(view: JobView, form: dict[str, Any]) -> dict[str, str]:
    """What the form carries of the job as it is now. After a clash it starts from there: saving it again is
    then meant, and a name or a welder that was left alone here is shown as somebody else left it.
    """
    now = {"title": view.row.title, "welder": str(view.row.welder_id or "")}
    carried = {"from_revision": str(view.plan_row.revision)}
    for name, stands in now.items():
        carried[f"was_{name}"] = stands
        if str(form.get(name, "")) == str(form.get(f"was_{name}", stands)):
            carried[name] = stands
    return carried


@router.get("/jobs/new", response_class=HTMLResponse)
def new_job(request: Request) -> HTMLResponse:
    form = {"joint": "butt", "position": "flat", "surface": "brushed", "control": "pedal"}
    form |= {f"school_{name}": value for name, value in School().model_dump().items()}
    asked = typed_query(request).get("machine", "")
    with request.app.state.sessions() as session:
        own = [machine.name for machine in shop.machines(session)]
        chosen = asked if asked in own else own[0] if own else ""
        return _form_page(request, session, form | {"machine": chosen}, given={"machine"} if asked else ())


@router.post("/jobs/new")
def create_job(request: Request, form: Fields) -> Response:
    return _saved(request, form, None)


@router.get("/jobs/{job_id}/job", response_class=HTMLResponse)
def edit_job(request: Request, job_id: RowId) -> HTMLResponse:
    with request.app.state.sessions() as session:
        view = job_view(session, job_id, units(request))
        form = form_from_job(view.job, view.row.title, view.row.welder_id, units(request))
        return _form_page(request, session, form, view=view)


@router.post("/jobs/{job_id}/job")
def replan_job(request: Request, job_id: RowId, form: Fields) -> Response:
    return _saved(request, form, job_id)


def _saved(request: Request, form: dict[str, Any], job_id: int | None) -> Response:
    """Write the job, or show the form again with what was typed and what is wrong."""
    make: Sessions = request.app.state.sessions

    def store(session: Session) -> tuple[int, bool]:
        job = job_from_form(form, units(request))
        welder = whole(form.get("welder"))
        if job_id is None:
            title = form.get("title", "").strip() or proposed_title(job)
            row = book.add_job(session, title, job, welder)
            recipe = recipes.find_recipe(session, whole(form.get("from_recipe")) or 0)
            if recipe is not None:
                near_recipes.start_near(session, row, recipe)
        else:
            row = _replanned(session, form, job_id, job, welder)
        planned = book.find_plan(session, row.id)
        return row.id, planned is None or planned.settings is None

    try:
        row_id, refused = make.write(store)
    except BadInput as trouble:
        with make() as session:
            view = job_view(session, job_id, units(request)) if job_id else None
            return _form_page(request, session, form, trouble, view)
    return see_other(f"/jobs/{row_id}/{'job' if refused else 'tune'}")


def _replanned(session: Session, form: dict[str, Any], job_id: int, job: Job, welder: int | None) -> JobRow:
    """The job planned again, on top of what somebody else changed since the form was opened."""
    newest = job_view(session, job_id)
    opened = opened_view(session, job_id, form.get("from_revision"))
    if opened.plan_row.id != newest.plan_row.id:
        by = said_version(newest.plan_row)
        job = merged_job(opened.job, job, newest.job, by)
    row = newest.row
    title, chosen = form.get("title", "").strip(), shop.find_welder(session, welder)
    problems: list[Problem] = []
    # A name or a welder that was not touched here stays as somebody else may have left it.
    if title and _is_changed("title", title, row.title, row.title, form, problems):
        row.title = book.clean_title(title)
    theirs = row.welder.name if row.welder else "nobody"
    if _is_changed("welder", str(welder or ""), str(row.welder_id or ""), theirs, form, problems):
        row.welder = chosen
    if problems:
        raise BadInput(*problems)
    book.add_plan(session, row, job, "plan", "Planned again")
    return row


def _is_changed(
    name: str, mine: str, now: str, theirs: str, form: dict[str, Any], problems: list[Problem]
) -> bool:
    """Whether a field was changed on this form; a problem more where somebody else changed it otherwise."""
    was = str(form.get(f"was_{name}", now))
    if mine == was:
        return False
    if now not in (was, mine):
        problems.append(
            Problem(name, "what you chose here", sentence("web.somebody_saved_since_save", theirs=theirs))
        )
    return True
