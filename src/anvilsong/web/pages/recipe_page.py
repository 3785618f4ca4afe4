"""Recipes: keep a revision by name, and start a job from one."""

from __future__ import annotations

from fastapi import Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from anvilsong.core.errors import BadInput
from anvilsong.core.words import sentence
from anvilsong.store import recipes, shop
from anvilsong.store.database import Sessions
from anvilsong.store.models import JobRow
from anvilsong.store.reading import digest
from anvilsong.web.forms import field_of
from anvilsong.web.frame import render, see_other, units
from anvilsong.web.job_view import job_view, opened_view
from anvilsong.web.once import page_router
from anvilsong.web.requests import Fields, Revision, RowId, found, whole

router = page_router()


def _list(
    request: Request, session: Session, form: dict[str, str], trouble: BadInput | None = None
) -> HTMLResponse:
    return render(
        request,
        "recipes.html",
        422 if trouble else 200,
        here="book",
        recipes=recipes.recipes(session),
        welder_pairs=[(row.id, row.name) for row in shop.welders(session)],
        form=form,
        trouble=trouble,
        problems={field_of(problem): problem for problem in trouble.problems} if trouble else {},
    )


def _keep_form(
    request: Request, session: Session, job_id: int, form: dict[str, str], trouble: BadInput | None = None
) -> HTMLResponse:
    view = job_view(session, job_id, units(request), whole(form.get("revision")))
    return render(
        request,
        "keep_recipe.html",
        422 if trouble else 200,
        view=view,
        here="card",
        form={"recipe": view.plan_row.recipe or view.row.title[:60]}
        | form
        | {"seen": digest(view.plan_row.recipe)},
        trouble=trouble,
        problems={field_of(problem): problem for problem in trouble.problems} if trouble else {},
    )


@router.get("/recipes", response_class=HTMLResponse)
def show_recipes(request: Request) -> HTMLResponse:
    """Every recipe of the shop."""
    with request.app.state.sessions() as session:
        return _list(request, session, {})


@router.post("/recipes/{plan_id}/use")
def use_recipe(request: Request, plan_id: RowId, form: Fields) -> Response:
    """A new job as the recipe's, with its settings."""
    make: Sessions = request.app.state.sessions

    def start(session: Session) -> int:
        recipe = found(recipes.find_recipe(session, plan_id))
        return recipes.start_from(session, recipe, form.get("title", ""), whole(form.get("welder"))).id

    try:
        job_id = make.write(start)
    except BadInput as trouble:
        with make() as session:
            return _list(request, session, form | {"recipe": str(plan_id)}, trouble)
    return see_other(f"/jobs/{job_id}/tune")


@router.post("/recipes/{plan_id}/drop")
def drop(request: Request, plan_id: RowId) -> Response:
    """No longer a recipe; its revision stays where it is."""
    with request.app.state.sessions.begin() as session:
        recipe = found(recipes.find_recipe(session, plan_id))
        name = recipe.recipe
        recipes.drop_recipe(recipe)
    return see_other("/recipes", sentence("web.no_recipe_any_more", name=name))


@router.get("/jobs/{job_id}/recipe", response_class=HTMLResponse)
def show_keep(request: Request, job_id: RowId, revision: Revision = None) -> HTMLResponse:
    """Name the revision that is to be kept."""
    with request.app.state.sessions() as session:
        return _keep_form(request, session, job_id, {"revision": str(revision)} if revision else {})


@router.post("/jobs/{job_id}/recipe")
def keep(request: Request, job_id: RowId, form: Fields) -> Response:
    """Keep a revision by name."""
    make = request.app.state.sessions
    try:
        with make.begin() as session:
            found(session.get(JobRow, job_id))
            view = opened_view(session, job_id, form.get("revision"), units(request))
            recipes.keep_recipe(session, view.plan_row, form.get("recipe", ""), form.get("seen") or None)
    except BadInput as trouble:
        with make() as session:
            gone = any(problem.field == "revision" for problem in trouble.problems)
            form = form | {"revision": ""} if gone else form
            return _keep_form(request, session, job_id, form, trouble)
    return see_other("/recipes", f"“{view.plan_row.recipe}” is a recipe now.")
