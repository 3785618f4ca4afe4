"""A trace put to use: as a place of a control, as how the machine counts its amps, or as a remark."""

from __future__ import annotations

from typing import Any

from fastapi import Request
from fastapi.responses import Response
from sqlalchemy.orm import Session

from anvilsong.core import say
from anvilsong.core.complaints import validated
from anvilsong.core.errors import BadInput
from anvilsong.core.flow import turned_picture, turned_reading, with_basis, with_points, with_scale
from anvilsong.core.machine import BASES, Control, Machine
from anvilsong.core.said import in_units
from anvilsong.core.trials import amps_basis, counted_by, flowing_beside, measured_point
from anvilsong.core.words import sentence
from anvilsong.store import bench_trials, shop
from anvilsong.store.models import MachineRow
from anvilsong.store.reading import check_seen
from anvilsong.web import trace_words
from anvilsong.web.frame import see_other
from anvilsong.web.once import page_router
from anvilsong.web.pages.machine_page import stored_machine
from anvilsong.web.pages.trace_page import MOST_TOLD, trace_of_machine, trace_page
from anvilsong.web.requests import Fields, RowId, found, whole

router = page_router()


@router.post("/shop/machines/{machine_id}/trace/{trial_id}/point")
def put_point(request: Request, machine_id: RowId, trial_id: RowId, form: Fields) -> Response:
    """Where a control stood, and what flowed there, becomes a place of its scale."""

    def put(session: Session) -> Control:
        row, machine = stored_machine(session, machine_id)
        _, test = trace_of_machine(session, row, trial_id)
        control: Control = found(machine.control(form.get("setting", "")))
        point = measured_point(test, machine, control.setting)
        if point is None:
            raise BadInput.one("setting", control.label, sentence("web.trace_no_point"))
        if control.setting == "amps_set" and not _counts(session, row, machine):
            raise BadInput.one("setting", control.label, sentence("web.trace_count_first"))
        changed = with_scale(machine, control.setting, with_points(control.scale, [point]))
        shop.change_machine(session, row, validated(Machine, changed.model_dump()), form.get("seen") or None)
        return control

    return _done(request, machine_id, trial_id, put, form)


def _counts(session: Session, row: MachineRow, machine: Machine) -> bool:
    """Whether the traces say that the machine counts its amps as it is written down."""
    traces = bench_trials.newest_traces(session, row.name, MOST_TOLD)
    counted = counted_by([test for _, test in traces if test.counts], machine)
    return counted is not None and counted.told == amps_basis(machine)


@router.post("/shop/machines/{machine_id}/trace/{trial_id}/count")
def count_amps(request: Request, machine_id: RowId, trial_id: RowId, form: Fields) -> Response:
    """The machine's amps are counted as the traces found."""

    def count(session: Session) -> None:
        row, machine = stored_machine(session, machine_id)
        basis = form.get("basis", "")
        if basis not in BASES["amps_set"]:
            raise BadInput.one("basis", basis, ", ".join(BASES["amps_set"]))
        found(machine.control("amps_set"))
        changed = with_basis(machine, basis)
        shop.change_machine(session, row, validated(Machine, changed.model_dump()), form.get("seen") or None)

    return _done(request, machine_id, trial_id, count, form)


@router.post("/shop/machines/{machine_id}/trace/{trial_id}/remark")
def write_remark(request: Request, machine_id: RowId, trial_id: RowId, form: Fields) -> Response:
    """What flows otherwise than set, as a line of the machine's note."""

    def write(session: Session) -> None:
        row, machine = stored_machine(session, machine_id)
        trial, test = trace_of_machine(session, row, trial_id)
        rows = flowing_beside(test, machine)
        if not any(each.differs for each in rows):
            raise BadInput.one("remark", "nothing", sentence("web.trace_nothing_differs"))
        line = in_units(
            say.joined(
                f"{trial.made_at:%Y-%m-%d}, current trace: ", trace_words.remark_of(test, rows, machine)
            )
        )
        note = machine.note if line in machine.note else f"{machine.note}\n{line}".strip()
        changed = machine.model_dump() | {"note": note}
        shop.change_machine(session, row, validated(Machine, changed), form.get("seen") or None)

    return _done(request, machine_id, trial_id, write, form)


@router.post("/shop/machines/{machine_id}/trace/{trial_id}/counts")
def leave_out_trace(request: Request, machine_id: RowId, trial_id: RowId, form: Fields) -> Response:
    """Whether a trace counts for how the machine counts its amps."""

    def change(session: Session) -> None:
        row, _ = stored_machine(session, machine_id)
        trial, test = trace_of_machine(session, row, trial_id)
        bench_trials.keep_reading(
            session, trial, test.model_copy(update={"counts": form.get("counts") == "yes"})
        )

    return _done(request, machine_id, trial_id, change, form)


@router.post("/shop/machines/{machine_id}/trace/{trial_id}/turn")
def turn_clamp(request: Request, machine_id: RowId, trial_id: RowId, form: Fields) -> Response:
    """The clamp sat the other way round: the trace is told with its halves changed over."""

    def turn(session: Session) -> None:
        row, _ = stored_machine(session, machine_id)
        trial, test = trace_of_machine(session, row, trial_id)
        check_seen(form.get("trial_seen") or None, trial.document, "This trace")
        turned = {
            "reading": turned_reading(test.reading),
            "picture": turned_picture(test.picture, test.reading),
        }
        bench_trials.keep_reading(session, trial, test.model_copy(update=turned))

    return _done(request, machine_id, trial_id, turn, form)


def _done(request: Request, machine_id: int, trial_id: int, change: Any, form: dict[str, str]) -> Response:
    """A change written, and back to the trace; a refusal stands on it."""
    make = request.app.state.sessions
    try:
        control = make.write(change)
    except BadInput as trouble:
        with make() as session:
            return trace_page(request, session, machine_id, {}, trial_id, trouble)
    job = whole(form.get("job"))
    said = (
        sentence("web.trace_point_put", label=control.label)
        if isinstance(control, Control)
        else sentence("web.trace_saved")
    )
    return see_other(f"/shop/machines/{machine_id}/trace/{trial_id}{f'?job={job}' if job else ''}", said)
