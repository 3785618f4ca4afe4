"""A memory of one machine on another: shown as a swap, then a job there, which its checklist stores."""

from __future__ import annotations

from fastapi import Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from anvilsong.core.errors import BadInput
from anvilsong.core.machine import Machine
from anvilsong.store import book, memories, shop
from anvilsong.store.memories import Stored
from anvilsong.store.memory_copies import Copied, copy_to, on_other_machine
from anvilsong.store.models import JobRow, PlanRow
from anvilsong.web.frame import render, see_other
from anvilsong.web.once import page_router
from anvilsong.web.pages.machine_page import stored_machine
from anvilsong.web.requests import Fields, RowId, found, typed_query

router = page_router()


def _stored(session: Session, machine_id: int, slot: int) -> tuple[Machine, Stored, PlanRow]:
    """A machine, what lies in one of its memories, and that version."""
    _, machine = stored_machine(session, machine_id)
    stored = found(memories.memories_of(session, machine).get(slot))
    return machine, stored, found(book.find_plan(session, stored.row.job_id, stored.row.revision))


def _others(session: Session, machine: Machine) -> list[Machine]:
    """The other machines that have numbered memories."""
    return [one for one in shop.machines(session) if one.memory_slots and one.name != machine.name]


@router.get("/shop/machines/{machine_id}/memories/{slot}/copy", response_class=HTMLResponse)
def show_copy(request: Request, machine_id: RowId, slot: RowId) -> HTMLResponse:
    """How another machine would be set for what lies in a memory."""
    with request.app.state.sessions() as session:
        return _page(request, session, machine_id, slot, typed_query(request).get("machine", ""))


def _page(
    request: Request,
    session: Session,
    machine_id: int,
    slot: int,
    name: str,
    trouble: BadInput | None = None,
) -> HTMLResponse:
    machine, stored, plan = _stored(session, machine_id, slot)
    others = _others(session, machine)
    chosen = next((one for one in others if one.name == name), others[0] if others else None)
    copied: Copied | None = None
    try:
        copied = on_other_machine(session, plan, chosen) if chosen else None
    except BadInput as unreadable:
        trouble = unreadable
    return render(
        request,
        "memory_copy.html",
        422 if trouble else 200,
        here="shop",
        machine=machine,
        machine_id=machine_id,
        stored=stored,
        slot=slot,
        others=others,
        chosen=chosen,
        copied=copied,
        trouble=trouble,
    )


@router.post("/shop/machines/{machine_id}/memories/{slot}/copy")
def copy_memory(request: Request, machine_id: RowId, slot: RowId, form: Fields) -> Response:
    """Make it a job on the other machine; the next page is the checklist that stores it there."""
    make, name = request.app.state.sessions, form.get("machine", "")

    def write(session: Session) -> int:
        machine, stored, plan = _stored(session, machine_id, slot)
        other = found(next((one for one in _others(session, machine) if one.name == name), None))
        made = copy_to(session, session.get_one(JobRow, stored.row.job_id), plan, other)
        session.flush()
        return made.id

    try:
        job = make.write(write)
    except BadInput as trouble:
        with make() as session:
            return _page(request, session, machine_id, slot, name, trouble)
    return see_other(f"/jobs/{job}/store")
