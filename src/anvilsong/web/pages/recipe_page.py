"""Recipes: keep a revision by name, and start a job from one."""

from __future__ import annotations

from fastapi import Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from anvilsong.core.errors import BadInput
from anvilsong.core.job import Job
from anvilsong.core.machine import Machine, PanelLine, show_on_panel
from anvilsong.core.metal.surfaces import find_surface
from anvilsong.core.settings import Settings
from anvilsong.core.shop import STATE_WORDS, nearest, proof_of
from anvilsong.core.words import sentence
from anvilsong.store import attachments, memories, near_recipes, recipe_marks, recipes, shop
from anvilsong.store.database import Sessions
from anvilsong.store.models import JobRow, PlanRow
from anvilsong.store.reading import digest, readable
from anvilsong.store.recipe_proof import evidence_of
from anvilsong.web.forms import field_of
from anvilsong.web.frame import fragment, render, see_other, spoken_json, units
from anvilsong.web.job_form import job_from_form
from anvilsong.web.job_view import job_view, opened_view
from anvilsong.web.once import page_router
from anvilsong.web.requests import Fields, Revision, RowId, found, typed_query, whole

router = page_router()

MOST_TAGS, A_PAGE = 60, 40  # letters of what is asked for; recipes a page
DIFFERS = {
    "metal": "the metal",
    "joint": "the joint",
    "thickness": "the thickness",
    "machine": "the machine",
    "kit": "the kit",
    "surface": "the surface",
    "position": "the position",
    "control": "pedal or switch",
    "gas": "the gas",
    "size": "its size or warmth",
    "details": "details of the joint",
    "way": "the way of working",
}


def _list(
    request: Request, session: Session, form: dict[str, str], trouble: BadInput | None = None
) -> HTMLResponse:
    wanted, asked = form.get("tag", ""), form.get("q", "").lower()
    marks = recipe_marks.marks_of(session)
    tagged = {name: recipe_marks.tags_of(mark) for name, mark in marks.items()}
    favourite = {name for name, mark in marks.items() if mark.favourite}
    keys = [
        key for key in recipes.keys(session) if asked in key and (not wanted or wanted in tagged.get(key, ()))
    ]
    keys = [key for key in keys if key in favourite] + [key for key in keys if key not in favourite]
    pages = max(1, -(-len(keys) // A_PAGE))
    number = min(max(whole(form.get("page")) or 1, 1), pages)
    heads = recipes.heads_of(session, keys[(number - 1) * A_PAGE : number * A_PAGE])
    chosen = recipes.recipes(session, heads, marks)
    return render(
        request,
        "recipes.html",
        422 if trouble else 200,
        here="book",
        recipes=[one for one in chosen if not one.retired],
        retired=[one for one in chosen if one.retired],
        tags=sorted({tag for tags in tagged.values() for tag in tags}),
        tag=wanted,
        asked=form.get("q", ""),
        count=len(keys),
        page=number,
        pages=pages,
        state_words=STATE_WORDS,
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
        others=[head.name for head in recipes.heads(session) if head.name != view.plan_row.recipe],
        trouble=trouble,
        problems={field_of(problem): problem for problem in trouble.problems} if trouble else {},
    )


@router.get("/recipes", response_class=HTMLResponse)
def show_recipes(request: Request) -> HTMLResponse:
    """Every recipe of the shop."""
    with request.app.state.sessions() as session:
        asked = typed_query(request)
        return _list(
            request, session, {name: asked.get(name, "")[:MOST_TAGS] for name in ("tag", "q", "page")}
        )


@router.get("/recipes/{plan_id}", response_class=HTMLResponse)
def show_recipe(request: Request, plan_id: RowId) -> HTMLResponse:
    """One recipe: what is behind it, its versions, where it is stored."""
    with request.app.state.sessions() as session:
        return _one(request, session, plan_id)


def _one(
    request: Request,
    session: Session,
    plan_id: int,
    form: dict[str, str] | None = None,
    trouble: BadInput | None = None,
) -> HTMLResponse:
    plan = found(recipes.find_recipe(session, plan_id))
    recipe = recipes.recipes(session, [found(recipes.head_of(session, plan.recipe))])[0]
    behind = recipes.coupons_behind(session, plan)
    said = recipe_marks.said_of(recipe_marks.marks_of(session).get(plan.recipe.lower()))
    machine = recipe.job.machine if recipe.job else None
    return render(
        request,
        "recipe.html",
        422 if trouble else 200,
        here="book",
        plan=plan,
        recipe=recipe,
        job=readable(Job, plan.job_document),
        panel=_panel(plan),
        find_surface=find_surface,
        welder=plan.job.welder.name if plan.job.welder else "",
        versions=recipes.versions_of(session, plan.recipe),
        proof=proof_of(evidence_of(session, [plan.id])[plan.id]),
        state_words=STATE_WORDS,
        behind=[
            (coupon, str(coupon.readings[-1].change.get("kind", ""))) for coupon in behind if coupon.readings
        ],
        pictures=attachments.of_coupons(session, [coupon.id for coupon in behind]),
        stored=[row for row in memories.of_job(session, plan.job_id) if row.revision == plan.revision],
        machine_id=shop.machine_id(session, machine) if machine else None,
        form=(form or {"tags": ", ".join(recipe.tags)}) | {"seen": digest(said)},
        trouble=trouble,
        problems={field_of(problem): problem for problem in trouble.problems} if trouble else {},
    )


def _panel(plan: PlanRow) -> list[PanelLine]:
    """How its machine's panel stood for it."""
    machine, settings = readable(Machine, plan.machine_document), readable(Settings, plan.settings or {})
    if machine is None or settings is None:
        return []
    return [line for line in show_on_panel(settings, machine).lines if line.shown != "off"]


@router.post("/recipes/{plan_id}/mark")
def mark(request: Request, plan_id: RowId, form: Fields) -> Response:
    """Tags, favourite and retired of a recipe."""
    make: Sessions = request.app.state.sessions

    def write(session: Session) -> None:
        plan = found(recipes.find_recipe(session, plan_id))
        marks = bool(form.get("favourite")), bool(form.get("retired"))
        seen = form.get("seen") or None
        recipe_marks.mark_recipe(session, plan.recipe, form.get("tags", ""), *marks, seen=seen)

    try:
        make.write(write)
    except BadInput as trouble:
        with make() as session:
            return _one(request, session, plan_id, form, trouble)
    return see_other(f"/recipes/{plan_id}", sentence("web.recipe_marked"))


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
        recipes.drop_recipe(session, recipe)
    return see_other("/recipes", sentence("web.no_recipe_any_more", name=name))


@router.post("/api/recipes/nearest")
def show_nearest(request: Request, form: Fields) -> Response:
    """The recipes nearest to a job as it is typed, and what their settings are there; nothing stored."""
    system = units(request)
    try:
        job = job_from_form(form, system)
    except BadInput:
        return spoken_json(request, {"nearest": ""})
    try:
        with request.app.state.sessions() as session:
            found_near = nearest(job, shop.bench_of(session, job), near_recipes.kept_for(session, job))
    except BadInput:  # a machine or a kit that is not of the workshop
        return spoken_json(request, {"nearest": ""})
    fragment_of = fragment(request, "nearest.html", nearest=found_near, words_of=DIFFERS)
    return spoken_json(request, {"nearest": fragment_of})


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
            recipes.keep_recipe(
                session,
                view.plan_row,
                form.get("recipe", ""),
                form.get("seen") or None,
                form.get("why", ""),
                form.get("version_of", ""),
            )
    except BadInput as trouble:
        with make() as session:
            gone = any(problem.field == "revision" for problem in trouble.problems)
            form = form | {"revision": ""} if gone else form
            return _keep_form(request, session, job_id, form, trouble)
    return see_other("/recipes", f"“{view.plan_row.recipe}” is a recipe now.")
