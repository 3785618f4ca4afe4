"""The sound of a machine's arc: recorded in the page or sent as a file, and what is heard in it."""

from __future__ import annotations

from typing import Any

from fastapi import HTTPException, Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from anvilsong.core.complaints import validated
from anvilsong.core.errors import AnvilsongError, BadInput
from anvilsong.core.flow import sounds_otherwise, with_points, with_scale
from anvilsong.core.machine import Control, Machine, show_on_panel
from anvilsong.core.model import situation
from anvilsong.core.prep import rod_use
from anvilsong.core.said import Words
from anvilsong.core.trials import SoundTest, heard_point, sound_beside
from anvilsong.core.words import sentence
from anvilsong.instruments.limits import SOUND_BYTES
from anvilsong.store import bench_trials, shop
from anvilsong.store.models import BenchTrialRow, MachineRow
from anvilsong.store.reading import digest, readable
from anvilsong.web import sound_words, trace_words
from anvilsong.web.drawings.sound import loudness_drawing
from anvilsong.web.forms import field_of
from anvilsong.web.frame import part, render, see_other, units
from anvilsong.web.heavy import done_now
from anvilsong.web.job_view import JobView, job_view
from anvilsong.web.once import page_router
from anvilsong.web.pages.machine_page import stored_machine
from anvilsong.web.panel_fields import flowing_controls, panel_texts, typed_panel
from anvilsong.web.requests import Fields, RowId, Uploads, file_label, found, whole
from anvilsong.web.scale_text import clock_words
from anvilsong.work import PICTURES, Ended, tasks

router = page_router()

MOST_TOLD = 12  # recordings that stand on the page, and that tell how the machine usually sounds
Kept = tuple[BenchTrialRow, SoundTest]


def _page(
    request: Request,
    session: Session,
    machine_id: int,
    form: dict[str, str],
    chosen: int | None = None,
    trouble: AnvilsongError | None = None,
) -> HTMLResponse:
    row, machine = stored_machine(session, machine_id)
    rows = bench_trials.newest_sounds(session, row.name, MOST_TOLD)
    if chosen is not None and chosen not in {trial.id for trial, _ in rows}:
        rows.append(_sound(session, row, chosen))
    one = next((each for each in rows if each[0].id == chosen), rows[0] if rows and not trouble else None)
    problems = {field_of(problem): problem for problem in getattr(trouble, "problems", ())}
    job_id = whole(form.get("job") or request.query_params.get("job"))
    view = job_view(session, job_id, units(request)) if job_id else None
    typed = dict(form)
    if view is not None and not form and not view.plan.refused and view.machine.name == row.name:
        typed = {line.setting: line.shown for line in show_on_panel(view.settings, machine).lines}
    return render(
        request,
        "sound.html",
        422 if trouble else 200,
        row=row,
        machine=machine,
        here="shop",
        controls=flowing_controls(machine),
        form=typed or (panel_texts(one[1].panel, machine) if one else {}),
        view=view,
        dabs=_against_job(view, one[1]) if view is not None and one is not None else [],
        trouble=trouble,
        problems=problems,
        sounds=rows,
        one=None if one is None else _told(one, rows, machine),
        seen=digest(row.document),
    )


def _told(one: Kept, rows: list[Kept], machine: Machine) -> dict[str, Any]:
    """Everything the page says of one recording."""
    trial, test = one
    before = [other.reading for row, other in rows if row.id != trial.id and other.counts]
    told = trace_words.rows_beside(test, sound_beside(test, machine), machine)
    for row in told:
        point, control = heard_point(test, machine, row["setting"]), machine.control(row["setting"])
        if point is not None and control is not None:
            clock = control.scale.shown_as == "clock"
            row["point"] = {
                "place": clock_words(point.position) if clock else f"{point.position:g}",
                "label": control.label,
                "means": trace_words.place_words(row["setting"], point.value, machine),
            }
    return {
        "trial": trial,
        "test": test,
        "figures": sound_words.heard_figures(test.reading),
        "rows": told,
        "along": part("along", lambda: loudness_drawing(test.reading)),
        "usual": sound_words.otherwise_words(sounds_otherwise(test.reading, before))
        if test.reading.frequency_hz is not None
        else [],
    }


def _against_job(view: JobView, test: SoundTest) -> list[Words]:
    """The dabs that were heard against those that the job's plan wants; empty without either."""
    seen, heard = view.plan.consequences, test.reading.dabs
    if view.plan.refused or seen is None or heard is None:
        return []
    rod = rod_use(situation(view.job), view.settings, seen, view.c, view.plan.passes)
    if rod is None:
        return []
    return sound_words.dabs_against(heard, rod.dabs_per_s, view.settings.travel_mm_s)


def _sound(session: Session, row: MachineRow, trial_id: int) -> Kept:
    """A recording of this machine by its number."""
    trial: BenchTrialRow = found(session.get(BenchTrialRow, trial_id))
    test = readable(SoundTest, trial.document) if trial.kind == "sound" else None
    if trial.machine != row.name or test is None:
        raise HTTPException(404)
    return trial, test


@router.get("/shop/machines/{machine_id}/sound", response_class=HTMLResponse)
def show_sounds(request: Request, machine_id: RowId) -> HTMLResponse:
    """The form, and the newest recording."""
    with request.app.state.sessions() as session:
        return _page(request, session, machine_id, {})


@router.get("/shop/machines/{machine_id}/sound/{trial_id}", response_class=HTMLResponse)
def show_sound(request: Request, machine_id: RowId, trial_id: RowId) -> HTMLResponse:
    """One recording of the machine."""
    with request.app.state.sessions() as session:
        return _page(request, session, machine_id, {}, trial_id)


@router.post("/shop/machines/{machine_id}/sound")
def read_recording(request: Request, machine_id: RowId, uploads: Uploads, form: Fields) -> Response:
    """What is heard in a recording, with what the panel showed; the recording itself is not stored."""
    make = request.app.state.sessions
    with make() as session:
        _, machine = stored_machine(session, machine_id)
    try:
        panel = typed_panel(form, machine)
        upload = uploads.get("file")
        if upload is None or not upload.filename:
            raise BadInput.one("file", "no file", sentence("web.sound_choose"))
        data = upload.file.read(SOUND_BYTES + 1)
        try:
            reading = done_now(PICTURES, tasks.read_recording, data)
        except Ended as ended:
            raise BadInput.one("file", upload.filename, sentence("web.one_can_opened", ended=ended)) from None
        given = {"panel": panel, "reading": reading, "file": file_label(upload.filename)}
        test = validated(SoundTest, given)
    except AnvilsongError as trouble:
        with make() as session:
            return _page(request, session, machine_id, form, None, trouble)

    def keep(session: Session) -> int:
        row, _ = stored_machine(session, machine_id)
        return bench_trials.add_machine_trial(session, row.name, test).id

    job = whole(form.get("job"))
    return see_other(
        f"/shop/machines/{machine_id}/sound/{make.write(keep)}{f'?job={job}' if job else ''}#told"
    )


@router.post("/shop/machines/{machine_id}/sound/{trial_id}/point")
def put_heard_point(request: Request, machine_id: RowId, trial_id: RowId, form: Fields) -> Response:
    """Where the frequency's control stood, and what was heard there, becomes a place of its scale."""

    def put(session: Session) -> Control:
        row, machine = stored_machine(session, machine_id)
        _, test = _sound(session, row, trial_id)
        control: Control = found(machine.control("frequency_hz"))
        point = heard_point(test, machine, control.setting)
        if point is None:
            raise BadInput.one("setting", control.label, sentence("web.sound_no_point"))
        changed = with_scale(machine, control.setting, with_points(control.scale, [point]))
        shop.change_machine(session, row, validated(Machine, changed.model_dump()), form.get("seen") or None)
        return control

    return _done(request, machine_id, trial_id, put, form)


@router.post("/shop/machines/{machine_id}/sound/{trial_id}/counts")
def leave_out_sound(request: Request, machine_id: RowId, trial_id: RowId, form: Fields) -> Response:
    """Whether a recording counts for how the machine usually sounds."""

    def change(session: Session) -> None:
        row, _ = stored_machine(session, machine_id)
        trial, test = _sound(session, row, trial_id)
        counts = form.get("counts") == "yes"
        bench_trials.keep_reading(session, trial, test.model_copy(update={"counts": counts}))

    return _done(request, machine_id, trial_id, change, form)


def _done(request: Request, machine_id: int, trial_id: int, change: Any, form: dict[str, str]) -> Response:
    """A change written, and back to the recording; a refusal stands on it."""
    make = request.app.state.sessions
    try:
        control = make.write(change)
    except BadInput as trouble:
        with make() as session:
            return _page(request, session, machine_id, {}, trial_id, trouble)
    said = (
        sentence("web.trace_point_put", label=control.label)
        if isinstance(control, Control)
        else sentence("web.trace_saved")
    )
    job = whole(form.get("job"))
    return see_other(f"/shop/machines/{machine_id}/sound/{trial_id}{f'?job={job}' if job else ''}", said)
