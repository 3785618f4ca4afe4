"""Test series: chosen and predicted before they are run, typed in from one sheet, told and kept."""

from __future__ import annotations

from typing import Any

from fastapi import Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from anvilsong.core.bead import FIRST, HandScatter, Looks
from anvilsong.core.errors import BadInput
from anvilsong.core.model import situation
from anvilsong.core.registry import BY_KEY, get_value
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.trials import (
    MOST_BEADS,
    MOST_VALUES,
    Expected,
    Pointed,
    Series,
    expected,
    make_series,
    pointed_to,
    ready_made,
    spread,
    told,
)
from anvilsong.core.units import UnitSystem
from anvilsong.core.words import sentence
from anvilsong.store import bench_trials, book
from anvilsong.store.calibrations import hand_of
from anvilsong.store.models import BenchTrialRow
from anvilsong.web import measuring
from anvilsong.web.coupon_scales import PICKS
from anvilsong.web.drawings.series import series_drawing
from anvilsong.web.forms import field_of
from anvilsong.web.frame import part, render, see_other, units
from anvilsong.web.job_view import JobView, job_view, opened_view
from anvilsong.web.once import page_router
from anvilsong.web.requests import Fields, RowId, found, typed_query, whole
from anvilsong.web.series_form import layout_from, run_said, steppable, value_said
from anvilsong.web.series_rows import COUPON, ran_rows
from anvilsong.web.series_words import findings, must_show, pointed_said, row

router = page_router()

MEASURES = ("seconds", "bead_width_mm", "border_left_mm", "border_right_mm")
TAPPED = FIRST[:2]


@router.get("/jobs/{job_id}/series", response_class=HTMLResponse)
def choose_series(request: Request, job_id: RowId) -> HTMLResponse:
    """The series of a job, the ready-made ones, and what a chosen one is expected to give."""
    with request.app.state.sessions() as session:
        view = job_view(session, job_id, units(request))
        form = typed_query(request)
        return _chosen(request, session, view, form)


def _chosen(
    request: Request, session: Session, view: JobView, form: dict[str, str], trouble: BadInput | None = None
) -> HTMLResponse:
    series: Series | None = None
    if not view.plan.refused and trouble is None:
        try:
            series = _laid_out(view, form, units(request))
        except BadInput as problem:
            trouble = problem
    listed = bench_trials.trials_of(session, view.row.id, "series")
    keys = [] if view.plan.refused else steppable(view.machine, view.settings)
    return render(
        request,
        "series.html",
        422 if trouble else 200,
        view=view,
        here="coupon",
        form=form,
        trouble=trouble,
        problems={field_of(problem): problem for problem in trouble.problems} if trouble else {},
        listed=[(row, one) for row in listed if (one := bench_trials.series_of(row)) is not None],
        ready=[] if view.plan.refused else ready_made(view.job, view.settings, view.machine),
        steppable=[(key, BY_KEY[key].words) for key in keys],
        most_values=MOST_VALUES,
        most_beads=MOST_BEADS,
        now={key: value_said(key, _now(view.settings, key)) for key in keys},
        series=series,
        **(_foreseen(session, view, series) if series else {}),
    )


def _now(settings: Settings, key: str) -> float | str:
    value = get_value(settings, key)
    return "off" if value is None else value


def _laid_out(view: JobView, form: dict[str, str], system: UnitSystem) -> Series | None:
    layout = layout_from(view, form, system)
    return make_series(layout, view.job, view.settings, view.machine, view.c) if layout else None


def _foreseen(session: Session, view: JobView, series: Series) -> dict[str, Any]:
    """What a series is expected to give, run by run, and what it must show."""
    what = expected(series, view.job, view.machine, view.c)
    hand = hand_of(session, view.job.machine, view.job.kit)
    return {
        "runs": [row(series, place, view, one) for place, one in enumerate(what)],
        "must_show": must_show(what, hand, series.beads),
        "wanted_beads": spread(what, hand).beads or MOST_BEADS,
        "aim": situation(view.job).aim,
    }


@router.post("/jobs/{job_id}/series")
def save_series(request: Request, job_id: RowId, form: Fields) -> Response:
    """The chosen series, to be run."""
    make, system = request.app.state.sessions, units(request)

    def save(session: Session) -> int:
        view = opened_view(session, job_id, form.get("revision"))
        series = None if view.plan.refused else _laid_out(view, form, system)
        if series is None:
            raise BadInput.one("first", "nothing", sentence("web.choose_series_of_list"))
        return bench_trials.add_trial(session, view.row, series).id

    try:
        trial = make.write(save)
    except BadInput as trouble:
        with make() as session:
            return _chosen(request, session, job_view(session, job_id, system), form, trouble)
    return see_other(f"/jobs/{job_id}/series/{trial}")


@router.get("/jobs/{job_id}/series/{trial_id}", response_class=HTMLResponse)
def show_series(request: Request, job_id: RowId, trial_id: RowId) -> HTMLResponse:
    """One series: its sheet, what came out, and what that says."""
    with request.app.state.sessions() as session:
        return _sheet(request, session, job_id, trial_id, {})


def _sheet(
    request: Request,
    session: Session,
    job_id: int,
    trial_id: int,
    form: dict[str, str],
    trouble: BadInput | None = None,
) -> HTMLResponse:
    system = units(request)
    series, trial = _series(session, job_id, trial_id)
    view = job_view(session, job_id, system, series.revision)
    what = expected(series, view.job, view.machine, view.c)
    hand = hand_of(session, view.job.machine, view.job.kit)
    came = bench_trials.coupons_of_runs(session, job_id, series)
    runs = [[looks for _, looks in run] for run in came]
    pointed = _pointed(series, runs, view)
    rows = [
        row(series, place, view, one) | {"came": came[place], "open": _blanks(series, came, place)}
        for place, one in enumerate(what)
    ]
    return render(
        request,
        "series_sheet.html",
        422 if trouble else 200,
        view=view,
        here="coupon",
        trial=trial,
        series=series,
        rows=rows,
        must_show=must_show(what, hand, series.beads),
        aim=situation(view.job).aim,
        form=form,
        trouble=trouble,
        problems={field_of(problem): problem for problem in trouble.problems} if trouble else {},
        measures=MEASURES,
        scales=TAPPED,
        overall=PICKS["overall"][1],
        coupon_words=COUPON[system],
        pictures=measuring.choices(session, job_id, system),
        findings=findings(series, runs, what, hand),
        pointed=pointed,
        pointed_words="" if pointed is None else pointed_said(series, pointed),
        drawings=_drawings(series, runs, what, hand, view, system),
        overall_words=dict(PICKS["overall"][1]),
    )


def _series(session: Session, job_id: int, trial_id: int) -> tuple[Series, BenchTrialRow]:
    trial: BenchTrialRow = found(bench_trials.find_trial(session, job_id, trial_id))
    return found(bench_trials.series_of(trial)), trial


def _blanks(series: Series, came: list[Any], place: int) -> list[int]:
    """Numbers of the coupons that a run still wants, one line at least to add another."""
    ran = len(came[place])
    return list(range(ran + 1, max(series.beads, ran + 1) + 1))


def _pointed(series: Series, runs: list[list[Looks]], view: JobView) -> Pointed | None:
    return pointed_to(series, runs, view.job, view.machine, view.c)


def _drawings(
    series: Series,
    runs: list[list[Looks]],
    what: tuple[Expected, ...],
    hand: HandScatter,
    view: JobView,
    system: UnitSystem,
) -> list[tuple[str, Words]]:
    """Border and bead by run, beside what was expected."""
    aim = situation(view.job).aim
    names = [run_said(series, place) for place in range(len(series.runs))]
    pairs = (("Border", "border", (aim.low_mm, aim.high_mm)), ("Bead width", "bead", None))
    return [
        (
            words,
            part(
                "chart",
                lambda f=figure, b=band, w=words: series_drawing(  # type: ignore[misc]
                    w, told(f, runs, what, hand), [getattr(one, f"{f}_mm") for one in what], names, b, system
                ),
            ),
        )
        for words, figure, band in pairs
    ]


@router.post("/jobs/{job_id}/series/{trial_id}")
def record_sheet(request: Request, job_id: RowId, trial_id: RowId, form: Fields) -> Response:
    """Every row that says something becomes a coupon of its run, in one transaction or not at all."""
    make, system = request.app.state.sessions, units(request)

    def record(session: Session) -> None:
        series, trial = _series(session, job_id, trial_id)
        row = job_view(session, job_id, system).row
        rows = ran_rows(session, job_id, series, form, system)
        bench_trials.record_runs(session, row, trial, rows)

    try:
        make.write(record)
    except BadInput as trouble:
        with make() as session:
            return _sheet(request, session, job_id, trial_id, form, trouble)
    return see_other(f"/jobs/{job_id}/series/{trial_id}")


@router.post("/jobs/{job_id}/series/{trial_id}/keep")
def keep_run(request: Request, job_id: RowId, trial_id: RowId, form: Fields) -> Response:
    """The settings of a run, or those that the series points to, become the job's newest version."""
    make, system = request.app.state.sessions, units(request)

    def keep(session: Session) -> None:
        series, _ = _series(session, job_id, trial_id)
        view = job_view(session, job_id, system, series.revision)
        bench_trials.check_same_job(session, view.row, series)
        run = whole(form.get("run"))
        if run is not None and 1 <= run <= len(series.runs):
            settings = series.runs[run - 1].settings
            words = sentence("web.kept_of_series", title=series.title, said=run_said(series, run - 1))
        else:
            runs = [
                [looks for _, looks in one] for one in bench_trials.coupons_of_runs(session, job_id, series)
            ]
            pointed: Pointed = found(_pointed(series, runs, view))
            settings = pointed.settings
            said = value_said(series.axes[0].key, pointed.value)
            words = sentence("web.kept_of_series", title=series.title, said=said)
        book.add_plan(session, view.row, view.job, "rung", words, settings)

    try:
        make.write(keep)
    except BadInput as trouble:
        with make() as session:
            return _sheet(request, session, job_id, trial_id, {}, trouble)
    return see_other(f"/jobs/{job_id}/tune", sentence("web.series_was_kept"))
