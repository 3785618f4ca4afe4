"""Runs on the part: real welds logged in two taps, and the log of all of them."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from fastapi import Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from anvilsong.core.complaints import validated
from anvilsong.core.errors import BadInput
from anvilsong.core.model import situation
from anvilsong.core.prep import passes, rod_use
from anvilsong.core.shop import PartRun, account
from anvilsong.core.torch.cylinder import gas_account, gas_used_l
from anvilsong.core.torch.kit import Kit
from anvilsong.core.units import UnitSystem
from anvilsong.core.words import sentence
from anvilsong.instruments.limits import PICTURE_BYTES
from anvilsong.store import attachments, book, part_runs
from anvilsong.store.models import now
from anvilsong.web import measuring
from anvilsong.web.forms import field_of
from anvilsong.web.frame import render, see_other, units
from anvilsong.web.job_view import JobView, job_view, kit_of, opened_view
from anvilsong.web.once import page_router
from anvilsong.web.requests import Fields, Revision, RowId, Uploads, found

if TYPE_CHECKING:
    from anvilsong.instruments import Picture

router = page_router()

SHOWN, WEEKS, SAME_GAS = 50, 26, 0.08


def _planned(session: Session, view: JobView) -> dict[str, float]:
    """What one run takes as planned: arc seconds of all its passes, gas, filler rod, money where prices are
    known.
    """
    at, settings, kit = situation(view.job), view.settings, kit_of(session, view)
    every = passes(at, settings, view.c, view.machine.most_a)
    seconds = len(every) * view.job.weld_length_mm / settings.travel_mm_s
    gas = gas_used_l(seconds, len(every), settings.pre_flow_s, settings.post_flow_s, settings.gas.flow_l_min)
    planned = {"seconds": seconds, "gas_l": gas}
    seen = view.plan.consequences
    rod = rod_use(at, settings, seen, view.c, view.plan.passes) if seen is not None else None
    if rod is not None:
        planned["rod_mm"] = sum(each.length_mm for each in rod.take)
    metal = rod.mass_g / 1000 * kit.rod_price_kg if rod is not None else 0.0
    cost = metal + _gas_cost(kit, view, gas)
    return planned | ({"cost": round(cost, 2)} if cost > 0 else {})


def _gas_cost(kit: Kit, view: JobView, gas_l: float) -> float:
    """By the first cylinder of this gas."""
    for cylinder in kit.cylinders:
        if abs(cylinder.helium_share - view.job.helium_share) <= SAME_GAS:
            return gas_account(cylinder, cylinder.full_bar, gas_l, view.settings.gas.flow_l_min).cost
    return 0.0


def _next_serial(serial: str) -> str:
    """The serial after a serial that ends in figures: A-009 becomes A-010."""
    head = serial.rstrip("0123456789")
    tail = serial[len(head) :]
    return f"{head}{int(tail) + 1:0{len(tail)}d}" if tail and len(tail) < 12 else serial


def _page(
    request: Request,
    session: Session,
    view: JobView,
    form: dict[str, str],
    trouble: BadInput | None = None,
    again: bool = False,
) -> HTMLResponse:
    """The form and what was logged. ``again``: a photograph was chosen, which no page can fill in anew."""
    planned = {} if view.plan.refused else _planned(session, view)
    last = part_runs.last_run(session, view.row.id)
    first = {
        "part": last.part if last else "",
        "serial": _next_serial(last.serial) if last else "",
        "welder": (last.welder if last else None) or (view.row.welder.name if view.row.welder else ""),
        "seconds": f"{planned.get('seconds', 0):.0f}",
    }
    every = part_runs.runs(session, view.row.id)
    pictures = attachments.of_runs(session, [row.id for row, *_ in every[:SHOWN]])
    return render(
        request,
        "runs.html",
        422 if trouble else 200,
        view=view,
        here="book",
        form=first | form,
        planned=planned,
        runs=every[:SHOWN],
        pictures=pictures,
        whole=account(run for *_, run in every),
        trouble=trouble,
        again=again,
        problems={field_of(problem): problem for problem in trouble.problems} if trouble else {},
    )


@router.get("/jobs/{job_id}/runs", response_class=HTMLResponse)
def show_runs(request: Request, job_id: RowId, revision: Revision = None) -> HTMLResponse:
    """Log a weld on the part with a version, the newest unless told, and those that were."""
    with request.app.state.sessions() as session:
        return _page(request, session, job_view(session, job_id, units(request), revision), {})


@router.post("/jobs/{job_id}/runs")
def log_run(request: Request, job_id: RowId, form: Fields, uploads: Uploads) -> Response:
    """One more run of the version that the form was opened on; gas and rod as the seconds make them, unless
    typed. A photograph of it is kept with it.
    """
    make, system = request.app.state.sessions, units(request)
    picture: Picture | None = None

    def write(session: Session) -> None:
        view = opened_view(session, job_id, form.get("revision"), system)
        if view.plan.refused:
            raise BadInput.one("seconds", view.row.title, sentence("web.job_refused_has_no"))
        plan = found(book.find_plan(session, job_id, view.plan_row.revision))
        run = part_runs.add_run(session, view.row, plan, _run_of(session, view, form, system))
        if picture is not None:
            row = attachments.add_photograph(session, view.row, picture)
            row.part_run_id = run.id

    upload = uploads.get("file")
    try:
        if upload is not None and upload.filename:
            picture = measuring.taken_in(upload.file.read(PICTURE_BYTES + 1))
        make.write(write)
    except BadInput as trouble:
        with make() as session:
            gone = any(problem.field == "revision" for problem in trouble.problems)
            view = opened_view(session, job_id, None if gone else form.get("revision"), system)
            return _page(request, session, view, form, trouble, bool(upload and upload.filename))
    return see_other(f"/jobs/{job_id}/runs", sentence("web.run_logged"))


def _run_of(session: Session, view: JobView, form: dict[str, str], system: UnitSystem) -> PartRun:
    names = ("part", "serial", "welder", "seconds", "gas_l", "rod_mm", "remarks")
    typed = {name: text for name in names if (text := form.get(name, "").strip())}
    run = validated(PartRun, typed, system)
    planned = _planned(session, view)
    share = run.seconds / planned["seconds"]
    worked: dict[str, Any] = {
        name: round(planned[name] * share, 2)
        for name in ("gas_l", "rod_mm", "cost")
        if name in planned and getattr(run, name) is None
    }
    return run.model_copy(update=worked)


@router.get("/runs", response_class=HTMLResponse)
def show_log(request: Request) -> HTMLResponse:
    """Every run: by week, by job, and the newest of them."""
    with request.app.state.sessions() as session:
        weeks = part_runs.by_week(session, WEEKS)
        return render(
            request,
            "run_log.html",
            here="book",
            runs=part_runs.runs(session, limit=SHOWN),
            weeks=[(0, *week) for week in weeks],
            jobs=part_runs.by_job(session, SHOWN),
            whole=part_runs.whole(session),
            today=now(),
        )
