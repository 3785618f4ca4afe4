"""Memories of a machine: what is stored where, what is out of date, and storing a version by a checklist."""

from __future__ import annotations

from fastapi import Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from anvilsong.core.errors import BadInput
from anvilsong.core.machine import Machine, show_on_panel
from anvilsong.store import book, memories, recipes, shop
from anvilsong.store.memories import MOST_LABEL
from anvilsong.web.forms import field_of
from anvilsong.web.frame import render, see_other, units
from anvilsong.web.job_view import JobView, job_view
from anvilsong.web.once import page_router
from anvilsong.web.pages.machine_page import stored_machine
from anvilsong.web.requests import Fields, Revision, RowId, found, whole

router = page_router()

LOOKED_AT = 60  # recipes, for those of a machine


@router.get("/shop/machines/{machine_id}/memories", response_class=HTMLResponse)
def show_memories(request: Request, machine_id: RowId) -> HTMLResponse:
    """Every memory of a machine: what lies in it, since when, and whether that still holds."""
    with request.app.state.sessions() as session:
        row, machine = stored_machine(session, machine_id)
        stored = memories.memories_of(session, machine)
        slots = [(slot, stored.get(slot)) for slot in range(1, machine.memory_slots + 1)]
        return render(
            request,
            "memories.html",
            here="shop",
            row=row,
            machine=machine,
            slots=slots,
            free=[slot for slot, one in slots if one is None],
            stale=[one for one in stored.values() if one.is_old],
            recipes=_of_machine(session, row.name),
        )


def _of_machine(session: Session, name: str) -> list[recipes.Recipe]:
    """The recipes kept last that were planned for a machine."""
    last = recipes.recipes(session, recipes.newest_heads(session, LOOKED_AT))
    return [one for one in last if one.job and one.job.machine == name]


@router.post("/shop/machines/{machine_id}/memories/{slot}/clear")
def clear_memory(request: Request, machine_id: RowId, slot: RowId) -> Response:
    """Nothing of ours is in that memory any more."""
    with request.app.state.sessions.begin() as session:
        row, _ = stored_machine(session, machine_id)
        memories.clear(session, row.name, slot)
    return see_other(f"/shop/machines/{machine_id}/memories")


@router.get("/jobs/{job_id}/store", response_class=HTMLResponse)
def show_store(request: Request, job_id: RowId, revision: Revision = None) -> HTMLResponse:
    """A version as a checklist in the words of its panel, and the memory it goes into."""
    with request.app.state.sessions() as session:
        view = job_view(session, job_id, units(request), revision)
        return _page(request, session, view, {})


def _page(
    request: Request, session: Session, view: JobView, form: dict[str, str], trouble: BadInput | None = None
) -> HTMLResponse:
    machine = _as_it_is(session, view)
    stored = memories.memories_of(session, machine) if not view.plan.refused else {}
    free = next((slot for slot in range(1, machine.memory_slots + 1) if slot not in stored), None)
    here = next((slot for slot, one in stored.items() if one.row.job_id == view.row.id), None)
    first = {"slot": str(here or free or ""), "label": (view.plan_row.recipe or view.row.title)[:MOST_LABEL]}
    panel = [] if view.plan.refused else show_on_panel(view.settings, machine).lines
    return render(
        request,
        "store.html",
        422 if trouble else 200,
        view=view,
        here="card",
        form=first | form,
        machine=machine,
        machine_id=shop.machine_id(session, machine.name),
        stored={slot: one.row.label or one.title for slot, one in stored.items()},
        lines=[line for line in panel if line.shown != "off"],
        differs=memories.otherwise(view.plan.panel.lines, panel) if panel else [],
        trouble=trouble,
        problems={field_of(problem): problem for problem in trouble.problems} if trouble else {},
    )


def _as_it_is(session: Session, view: JobView) -> Machine:
    """The machine of a job as the workshop has it now; as the version has it where it is gone from there."""
    try:
        return shop.find_machine(session, view.job.machine)
    except BadInput:
        return view.machine


@router.post("/jobs/{job_id}/store")
def store_version(request: Request, job_id: RowId, form: Fields) -> Response:
    """It is in the machine now."""
    make, system = request.app.state.sessions, units(request)

    def write(session: Session) -> tuple[Machine, int]:
        asked = form.get("revision", "")
        view = job_view(session, job_id, system, found(whole(asked)) if asked else None)
        plan = found(book.find_plan(session, job_id, view.plan_row.revision))
        machine = shop.find_machine(session, view.job.machine)
        row = memories.store_now(session, machine, plan, whole(form.get("slot")) or 0, form.get("label", ""))
        return machine, row.slot

    try:
        machine, slot = make.write(write)
    except BadInput as trouble:
        with make() as session:
            view = job_view(session, job_id, system, whole(form.get("revision")))
            return _page(request, session, view, form, trouble)
    with make() as session:
        number = shop.machine_id(session, machine.name)
    back = f"/shop/machines/{number}/memories" if number else f"/jobs/{job_id}/card"
    return see_other(back, f"In memory {slot} of {machine.name}.")
