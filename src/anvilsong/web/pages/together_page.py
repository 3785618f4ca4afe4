"""One setting of a machine for several jobs: what the pedal makes of it at each, and who compromises."""

from __future__ import annotations

from fastapi import Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from anvilsong.core.errors import BadInput
from anvilsong.core.job import Job
from anvilsong.core.machine import PanelLine, show_on_panel
from anvilsong.core.shop import OneJob, Shared, shared_setting
from anvilsong.core.words import sentence
from anvilsong.store import book, shop
from anvilsong.web.frame import render, see_other, units
from anvilsong.web.job_view import JobView, job_view
from anvilsong.web.once import page_router
from anvilsong.web.requests import Fields, whole

router = page_router()

MOST_LISTED, MOST_TICKED = 100, 8
COMPROMISES = 1.0  # tolerances of the border
SHOWN = ("amps_set", "ep_share", "frequency_hz", "shape_en", "ep_trim", "flow_l_min", "post_flow_s")


def _numbers(texts: list[str]) -> list[int]:
    """The numbers of jobs, each once."""
    return list(dict.fromkeys(number for text in texts if (number := whole(text)) is not None))


def _views(session: Session, request: Request, ids: list[int]) -> list[JobView]:
    """The jobs by their numbers, as far as there are such."""
    known = {row.id for row in book.find_jobs(session, "", MOST_LISTED)}
    return [job_view(session, each, units(request)) for each in ids if each in known]


def _worked_out(session: Session, views: list[JobView]) -> Shared:
    """The setting for some jobs.

    Raises
    ------
    BadInput : they are not two or more under a pedal on one machine and kit, or one is refused by itself
    """
    benches = {(view.job.machine, view.job.kit) for view in views}
    nameless = any(view.job.machine is None for view in views)
    by_pedal = all(view.job.control == "pedal" and not view.plan.refused for view in views)
    if not 2 <= len(views) <= MOST_TICKED or len(benches) != 1 or nameless or not by_pedal:
        raise BadInput.one("job", f"{len(views)} jobs", sentence("web.together_two_jobs"))
    found = shared_setting([view.job for view in views], *shop.bench_of(session, views[0].job))
    if found is None:
        raise BadInput.one("job", f"{len(views)} jobs", sentence("web.together_refused"))
    return found


def _panel(one: OneJob) -> list[PanelLine]:
    """The common settings in the words of the machine's panel."""
    return [line for line in show_on_panel(one.settings, one.seen.machine).lines if line.setting in SHOWN]


@router.get("/together", response_class=HTMLResponse)
def show_together(request: Request) -> HTMLResponse:
    """Jobs to tick; with two or more ticked, the setting for them."""
    ids = _numbers(request.query_params.getlist("job"))
    with request.app.state.sessions() as session:
        return _page(request, session, ids[:MOST_TICKED])


def _page(
    request: Request, session: Session, ids: list[int], trouble: BadInput | None = None
) -> HTMLResponse:
    views = _views(session, request, ids)
    found: Shared | None = None
    if len(views) > 1 and trouble is None:
        try:
            found = _worked_out(session, views)
        except BadInput as problem:
            trouble = problem
    machine = views[0].job.machine if views else None
    return render(
        request,
        "together.html",
        422 if trouble else 200,
        here="",
        jobs=_listed(session, machine),
        ticked=set(ids),
        machine=machine,
        trouble=trouble,
        found=found,
        rows=list(zip(views, found.jobs, strict=True)) if found else [],
        panel=_panel(found.jobs[0]) if found else [],
        compromises=COMPROMISES,
    )


def _listed(session: Session, machine: str | None) -> list[tuple[int, str, Job]]:
    """Jobs under a pedal, newest first; of one machine where one is ticked already."""
    return [
        (number, title, job)
        for number, title, job in book.newest_jobs(session, MOST_LISTED)
        if job.machine is not None and job.control == "pedal" and machine in (None, job.machine)
    ]


@router.post("/together")
def save_together(request: Request, form: Fields) -> Response:
    """The setting becomes a version of each of the jobs."""
    ids = _numbers(form.get("jobs", "").split())

    def save(session: Session) -> None:
        views = _views(session, request, ids[:MOST_TICKED])
        found = _worked_out(session, views)
        words = sentence("web.together_words", jobs=len(views))
        for view, one in zip(views, found.jobs, strict=True):
            book.add_plan(session, view.row, view.job, "tuned", words, one.settings)

    try:
        request.app.state.sessions.write(save)
    except BadInput as trouble:
        with request.app.state.sessions() as session:
            return _page(request, session, ids[:MOST_TICKED], trouble)
    return see_other(f"/jobs/{ids[0]}/tune", sentence("web.together_saved", jobs=len(ids[:MOST_TICKED])))
