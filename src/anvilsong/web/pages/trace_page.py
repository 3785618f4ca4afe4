"""A machine's current trace: read from a file, and set beside what its panel showed."""

from __future__ import annotations

from typing import Any

from fastapi import HTTPException, Request
from fastapi.responses import HTMLResponse, Response
from pydantic import BaseModel
from sqlalchemy.orm import Session

from anvilsong.core.complaints import validated
from anvilsong.core.errors import AnvilsongError, BadInput
from anvilsong.core.flow import LEAST_TRACES
from anvilsong.core.machine import Machine, show_on_panel
from anvilsong.core.said import Words
from anvilsong.core.trials import TraceTest, amps_basis, counted_by, flowing_beside, measured_point
from anvilsong.core.words import sentence
from anvilsong.instruments.limits import TRACE_BYTES
from anvilsong.store import bench_trials
from anvilsong.store.models import BenchTrialRow, MachineRow
from anvilsong.store.reading import digest
from anvilsong.web import trace_words
from anvilsong.web.drawings.trace import cycles_drawing
from anvilsong.web.forms import field_of
from anvilsong.web.frame import part, render, see_other, units
from anvilsong.web.heavy import done_now
from anvilsong.web.job_view import job_view
from anvilsong.web.once import page_router
from anvilsong.web.pages.machine_page import stored_machine
from anvilsong.web.panel_fields import flowing_controls, panel_texts, typed_panel
from anvilsong.web.requests import Fields, RowId, Uploads, file_label, found, whole
from anvilsong.web.scale_text import clock_words, plain_number
from anvilsong.work import PICTURES, Ended, tasks

router = page_router()

MOST_TOLD = 12  # traces that stand on the page, and that count for how amps are counted


def trace_page(
    request: Request,
    session: Session,
    machine_id: int,
    form: dict[str, str],
    chosen: int | None = None,
    trouble: AnvilsongError | None = None,
) -> HTMLResponse:
    """The page of a machine's traces with one of them open: the chosen one, or the newest."""
    row, machine = stored_machine(session, machine_id)
    rows = bench_trials.newest_traces(session, row.name, MOST_TOLD)
    if chosen is not None and chosen not in {trial.id for trial, _ in rows}:
        rows += [each for each in [trace_of_machine(session, row, chosen)] if each not in rows]
    open_one = next(
        (each for each in rows if each[0].id == chosen), rows[0] if rows and not trouble else None
    )
    counted = counted_by([test for _, test in rows if test.counts], machine)
    # A place on the amps control is measured only once it is known which amps that control counts.
    counts = counted is not None and counted.told == amps_basis(machine)
    problems = {field_of(problem): problem for problem in getattr(trouble, "problems", ())}
    return render(
        request,
        "trace.html",
        422 if trouble else 200,
        row=row,
        machine=machine,
        here="shop",
        controls=flowing_controls(machine),
        form=form or (panel_texts(open_one[1].panel, machine) if open_one else {}),
        job_id=whole(form.get("job") or request.query_params.get("job")),
        trouble=trouble,
        problems=problems,
        traces=rows,
        one=None if open_one is None else _told(open_one, machine, counts),
        counted=None if counted is None else trace_words.counted_words(counted, machine),
        least=LEAST_TRACES,
        seen=digest(row.document),
        energy=_energy(request, session, form, open_one),
    )


def _energy(
    request: Request,
    session: Session,
    form: dict[str, str],
    one: tuple[BenchTrialRow, TraceTest] | None,
) -> Words:
    """The arc energy that was measured, for the job whose trace it is, at its planned travel speed; empty
    without a voltage or a job.
    """
    job_id = whole(form.get("job") or request.query_params.get("job"))
    if one is None or not job_id or one[1].reading.power_w is None or one[1].reading.rms_a is None:
        return ""
    view = job_view(session, job_id, units(request))
    if view.plan.refused:
        return ""
    return trace_words.energy_words(one[1].reading, view.settings.travel_mm_s)


def _told(one: tuple[BenchTrialRow, TraceTest], machine: Machine, counts: bool) -> dict[str, Any]:
    """Everything the page says of one trace. ``counts``: how the machine counts its amps is known."""
    trial, test = one
    rows = flowing_beside(test, machine)
    told = trace_words.rows_beside(test, rows, machine)
    for row in told:
        point = measured_point(test, machine, row["setting"])
        control = machine.control(row["setting"])
        row["uncounted"] = point is not None and row["setting"] == "amps_set" and not counts
        if point is not None and control is not None and not row["uncounted"]:
            clock = control.scale.shown_as == "clock"
            row["point"] = {
                "place": clock_words(point.position) if clock else f"{point.position:g}",
                "label": control.label,
                "means": trace_words.place_words(row["setting"], point.value, machine),
            }
    picture = test.picture
    return {
        "trial": trial,
        "test": test,
        "seen": digest(trial.document),
        "figures": trace_words.figures_of(test.reading),
        "rows": told,
        "differs": any(row["differs"] for row in told),
        "cycles": part("cycles", lambda: cycles_drawing(test.reading, picture)) if picture.cycle else "",
        "state": {
            "seconds": picture.seconds,
            "lows": picture.lows,
            "highs": picture.highs,
            "unit": "A" if test.reading.is_scaled else "",
            "begins": picture.begins_s,
            "cycle": picture.cycle,
            "period": 1 / test.reading.frequency_hz.value if test.reading.frequency_hz else None,
        },
    }


def trace_of_machine(session: Session, row: MachineRow, trial_id: int) -> tuple[BenchTrialRow, TraceTest]:
    """A trace of this machine by its number."""
    trial: BenchTrialRow = found(session.get(BenchTrialRow, trial_id))
    test = bench_trials.trace_of(trial)
    if trial.machine != row.name or test is None:
        raise HTTPException(404)
    return trial, test


@router.get("/shop/machines/{machine_id}/trace", response_class=HTMLResponse)
def show_traces(request: Request, machine_id: RowId) -> HTMLResponse:
    """The form, and the newest trace. A job that is named fills in what its plan has the panel show."""
    job_id, form = whole(request.query_params.get("job")), dict[str, str]()
    with request.app.state.sessions() as session:
        row, machine = stored_machine(session, machine_id)
        if job_id:
            view = job_view(session, job_id, units(request))
            if not view.plan.refused and view.machine.name == row.name:
                lines = show_on_panel(view.settings, machine).lines
                form = {line.setting: line.shown for line in lines}
        return trace_page(request, session, machine_id, form)


@router.get("/shop/machines/{machine_id}/trace/{trial_id}", response_class=HTMLResponse)
def show_trace(request: Request, machine_id: RowId, trial_id: RowId) -> HTMLResponse:
    """One trace of the machine."""
    with request.app.state.sessions() as session:
        return trace_page(request, session, machine_id, {}, trial_id)


def _figure(form: dict[str, str], field: str) -> float | None:
    text = form.get(field, "").strip()
    return plain_number(text, field) if text else None


class _Typed(BaseModel):
    """What the form says beside the file."""

    amps_per_unit: float | None
    rate_hz: float | None
    zero: float | None
    panel: dict[str, float]


def _typed(form: dict[str, str], machine: Machine) -> _Typed:
    per_unit, rate = _figure(form, "amps_per_unit"), _figure(form, "rate_hz")
    if per_unit is not None and not 1e-6 <= per_unit <= 1e6:
        raise BadInput.one("amps_per_unit", per_unit, sentence("web.trace_amps_per_unit"))
    if rate is not None and not 10 <= rate <= 1e9:
        raise BadInput.one("rate_hz", rate, sentence("web.trace_rate"))
    panel = typed_panel(form, machine)
    return _Typed(amps_per_unit=per_unit, rate_hz=rate, zero=_figure(form, "zero"), panel=panel)


@router.post("/shop/machines/{machine_id}/trace")
def read_current(request: Request, machine_id: RowId, uploads: Uploads, form: Fields) -> Response:
    """A trace from a file of a scope or logger, with what the panel showed; kept with the machine."""
    make = request.app.state.sessions
    with make() as session:
        _, machine = stored_machine(session, machine_id)
    try:
        typed = _typed(form, machine)
        upload = uploads.get("file")
        if upload is None or not upload.filename:
            raise BadInput.one("file", "no file", sentence("web.trace_choose"))
        data = upload.file.read(TRACE_BYTES + 1)
        try:
            reading, picture = done_now(
                PICTURES, tasks.read_current, data, typed.amps_per_unit, typed.rate_hz, typed.zero
            )
        except Ended as ended:
            raise BadInput.one("file", upload.filename, sentence("web.one_can_opened", ended=ended)) from None
        given = {"panel": typed.panel, "reading": reading, "picture": picture}
        test = validated(TraceTest, given | {"file": file_label(upload.filename)})
    except AnvilsongError as trouble:
        with make() as session:
            return trace_page(request, session, machine_id, form, None, trouble)

    def keep(session: Session) -> int:
        row, _ = stored_machine(session, machine_id)
        return bench_trials.add_machine_trial(session, row.name, test).id

    trial_id = make.write(keep)
    job = whole(form.get("job"))
    return see_other(f"/shop/machines/{machine_id}/trace/{trial_id}{f'?job={job}' if job else ''}#told")
