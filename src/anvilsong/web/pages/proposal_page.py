"""What a panel proposes by itself: typed once as a table, and held against the plan of a job."""

from __future__ import annotations

from typing import Any

from fastapi import Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from anvilsong.core.errors import BadInput
from anvilsong.core.joint import find_joint, joints
from anvilsong.core.registry import BY_KEY
from anvilsong.core.trials import (
    MOST_PROPOSALS,
    Compared,
    Difference,
    Found,
    Proposals,
    as_proposed,
    held_against,
    proposal_for,
)
from anvilsong.core.words import sentence
from anvilsong.store import bench_trials, book, shop
from anvilsong.web.forms import field_of
from anvilsong.web.frame import render, see_other, units
from anvilsong.web.job_view import JobView, job_view, opened_view
from anvilsong.web.once import page_router
from anvilsong.web.pages.as_set_page import REVISION_WORDS
from anvilsong.web.pages.machine_page import stored_machine
from anvilsong.web.proposal_form import columns, form_of, table_of
from anvilsong.web.requests import Fields, RowId, found, typed_query, whole
from anvilsong.web.saving import merged_settings, said_version
from anvilsong.web.series_form import value_said

router = page_router()

BLANK_ROWS = 4
POSITIONS = ("flat", "horizontal", "vertical", "overhead")


@router.get("/shop/machines/{machine_id}/proposals", response_class=HTMLResponse)
def show_proposals(request: Request, machine_id: RowId) -> HTMLResponse:
    """The table, to be typed in or changed."""
    with request.app.state.sessions() as session:
        row, machine = stored_machine(session, machine_id)
        table = bench_trials.proposals_of(session, row.name)
        return _table_page(request, session, machine_id, form_of(table, machine, units(request)))


def _table_page(
    request: Request, session: Session, machine_id: int, form: dict[str, str], trouble: BadInput | None = None
) -> HTMLResponse:
    row, machine = stored_machine(session, machine_id)
    filled = [n for n in range(1, MOST_PROPOSALS + 1) if form.get(f"r{n}_thickness_mm")]
    return render(
        request,
        "proposals.html",
        422 if trouble else 200,
        here="shop",
        row=row,
        machine=machine,
        columns=columns(machine),
        rows=range(1, min(max(filled, default=0) + BLANK_ROWS, MOST_PROPOSALS) + 1),
        joint_pairs=[(joint.key, joint.words) for joint in joints()],
        position_pairs=[(each, each) for each in POSITIONS],
        blanks=BLANK_ROWS,
        form=form,
        trouble=trouble,
        problems={field_of(problem): problem for problem in trouble.problems} if trouble else {},
    )


@router.post("/shop/machines/{machine_id}/proposals")
def save_proposals(request: Request, machine_id: RowId, form: Fields) -> Response:
    """The table as it was typed takes the place of the one before."""
    make, system = request.app.state.sessions, units(request)

    def save(session: Session) -> int:
        row, machine = stored_machine(session, machine_id)
        table = table_of(form, machine, system)
        bench_trials.add_machine_trial(session, row.name, table)
        return len(table.rows)

    try:
        count = make.write(save)
    except BadInput as trouble:
        with make() as session:
            return _table_page(request, session, machine_id, form, trouble)
    return see_other(f"/shop/machines/{machine_id}/proposals", sentence("web.proposals_saved", rows=count))


def _chosen(table: Proposals, view: JobView, asked: int | None) -> Found | None:
    """The row for the job, or the one that was asked for by its place, as it stands."""
    if asked is not None and 0 < asked <= len(table.rows):
        row = table.rows[asked - 1]
        return Found(row, row.thickness_mm, (row.thickness_mm, row.thickness_mm), False)
    return proposal_for(table, view.job, view.machine)


@router.get("/jobs/{job_id}/proposal", response_class=HTMLResponse)
def show_proposal(request: Request, job_id: RowId) -> HTMLResponse:
    """What the panel proposes for a job, beside the plan, and what each difference does."""
    with request.app.state.sessions() as session:
        view = job_view(session, job_id, units(request))
        return _job_page(request, session, view, whole(typed_query(request).get("row")))


def _job_page(
    request: Request, session: Session, view: JobView, asked: int | None, trouble: BadInput | None = None
) -> HTMLResponse:
    table = bench_trials.proposals_of(session, view.machine.name)
    chosen = None if view.plan.refused else _chosen(table, view, asked)
    compared: Compared | None = None
    if chosen is not None:
        try:
            proposed = as_proposed(chosen.row, view.job, view.machine, view.settings)
            compared = held_against(view.settings, proposed, view.job, view.machine, view.c)
        except BadInput as problem:
            trouble = problem
    return render(
        request,
        "proposal.html",
        422 if trouble else 200,
        view=view,
        here="coupon",
        machine_id=shop.machine_id(session, view.machine.name),
        table=table,
        asked=asked,
        chosen=chosen,
        compared=compared,
        find_joint=find_joint,
        lines=[_line(one) for one in compared.differences] if compared else [],
        trouble=trouble,
    )


def _line(one: Difference) -> dict[str, Any]:
    """A difference as its row shows it."""
    ends = ("off" if end is None else value_said(one.key, end) for end in (one.planned, one.proposed))
    moves = {
        "bead": _moves(one.bead_mm, 0.05),
        "border": _moves(one.border_mm, 0.05),
        "load": _moves(one.load, 0.005),
        "pedal": _moves(one.pedal, 0.005),
    }
    return {"words": BY_KEY[one.key].words, "ends": list(ends), "does": one, "moves": moves}


def _moves(ends: tuple[float, float], by: float) -> bool:
    """Whether a figure changes by what its page would show."""
    return abs(ends[1] - ends[0]) >= by


@router.post("/jobs/{job_id}/proposal")
def take_proposal(request: Request, job_id: RowId, form: Fields) -> Response:
    """The proposal becomes the settings of the next coupon."""
    make, system, asked = request.app.state.sessions, units(request), whole(form.get("row"))

    def take(session: Session) -> None:
        newest = job_view(session, job_id, system)
        view = opened_view(session, job_id, form.get("from_revision"), system)
        if view.plan.refused or newest.plan.refused:
            raise BadInput.one("revision", view.plan_row.revision, sentence("web.job_refused_has_no"))
        chosen: Found = found(_chosen(bench_trials.proposals_of(session, view.machine.name), view, asked))
        settings = as_proposed(chosen.row, view.job, view.machine, view.settings)
        if view.plan_row.id != newest.plan_row.id:
            by = said_version(newest.plan_row)
            settings = merged_settings(view.settings, settings, newest.settings, system, by)
        if settings != newest.settings:
            book.add_plan(session, newest.row, newest.job, "rung", REVISION_WORDS["panel"], settings)

    try:
        make.write(take)
    except BadInput as trouble:
        with make() as session:
            return _job_page(request, session, job_view(session, job_id, system), asked, trouble)
    return see_other(f"/jobs/{job_id}/coupon")
