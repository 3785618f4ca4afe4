"""Tune: the board, the wave, and keeping what was set."""

from __future__ import annotations

from dataclasses import dataclass, field

from fastapi import Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from anvilsong.core import say
from anvilsong.core.board import ties
from anvilsong.core.checks import outcome
from anvilsong.core.errors import BadInput
from anvilsong.core.model import situation
from anvilsong.core.plan import pulse_advice
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.units import UnitSystem
from anvilsong.store import book
from anvilsong.store.models import PlanRow
from anvilsong.store.reading import readable
from anvilsong.web.board_form import own_fields, typed_settings, wrong_lanes
from anvilsong.web.drawings.panel import panel_drawing
from anvilsong.web.drawings.pedal import pedal_drawing
from anvilsong.web.drawings.section import section_drawing
from anvilsong.web.drawings.trade import trade_drawing, warmth_words
from anvilsong.web.drawings.wave import overview_drawing, wave_drawing
from anvilsong.web.figures import difference_words, wave_figures
from anvilsong.web.frame import part, render, see_other, units
from anvilsong.web.job_view import JobView, job_view, opened_view
from anvilsong.web.known import known_words
from anvilsong.web.lane_rows import LANE_TERMS, lane_groups
from anvilsong.web.on_part import on_part
from anvilsong.web.once import page_router
from anvilsong.web.requests import Fields, Revision, RowId
from anvilsong.web.saving import merged_settings, said_version

router = page_router()


def _ghost(session: Session, view: JobView, compare: int | None) -> tuple[PlanRow | None, Settings | None]:
    """The revision to compare with, and its settings."""
    row = book.find_plan(session, view.row.id, compare) if compare else None
    return row, readable(Settings, row.settings) if row is not None and row.settings else None


@dataclass(frozen=True)
class Opened:
    """How the board was opened: with the wave large, beside another revision, an older one on purpose, or
    with a form back.
    """

    large: bool = False
    compare: int | None = None
    as_it_was: bool = False
    trouble: BadInput | None = None
    typed: dict[str, str] = field(default_factory=dict)


def _page(request: Request, session: Session, view: JobView, opened: Opened) -> HTMLResponse:
    trouble, large = opened.trouble, opened.large
    system = units(request)
    if view.plan.refused or view.plan.consequences is None:
        return render(request, "tune.html", view=view, here="tune")
    seen, settings = view.plan.consequences, view.settings
    ghost_row, ghost = _ghost(session, view, opened.compare)
    changed = frozenset(item.key for item in view.set_line if item.changed)
    state = {
        "job": view.job.model_dump(mode="json", by_alias=True),
        "settings": settings.model_dump(mode="json", by_alias=True),
        "planned": (view.planned or settings).model_dump(mode="json", by_alias=True),
        "ghost": ghost.model_dump(mode="json", by_alias=True) if ghost else None,
        "large": large,
        "ripple_mm": seen.ripple_mm,
        "foot": view.plan.best.get("amps_run"),
        "coefficients": view.c.model_dump(),
        "job_id": view.row.id,
        "revision": view.plan_row.revision,
        "trouble": trouble is not None,
        "as_it_was": opened.as_it_was,
    }
    return render(
        request,
        "tune.html",
        422 if trouble else 200,
        lane_terms=LANE_TERMS,
        on_board=True,
        view=view,
        here="tune",
        groups=lane_groups(view, system),
        trouble=trouble,
        typed=opened.typed,
        wrong=wrong_lanes(trouble),
        large=large,
        as_it_was=opened.as_it_was,
        section=part("section", lambda: section_drawing(view.job, settings, seen, system)),
        wave=part("wave", lambda: wave_drawing(settings, ghost, large)),
        overview=part("pulse", lambda: overview_drawing(settings)),
        pedal=part("pedal", lambda: pedal_drawing(view.job, settings, view.plan.best.get("amps_run"))),
        on_part=on_part(session, view),
        trade=part("curve", lambda: trade_drawing(view.plan, view.machine)),
        warmth=warmth_words(view.plan),
        figures=wave_figures(settings, seen),
        known=known_words(session, view),
        panel=part("panel", lambda: panel_drawing(view.plan.panel, view.machine, changed)),
        ties=ties(settings, seen, view.machine),
        ghost_row=ghost_row,
        differences=difference_words(ghost, outcome(view.job, settings, view.machine, c=view.c))
        if ghost
        else [],
        pulse_advice=pulse_advice(situation(view.job)),
        state=state,
    )


@router.get("/jobs/{job_id}/tune", response_class=HTMLResponse)
def show_tune(
    request: Request, job_id: RowId, revision: Revision = None, compare: Revision = None
) -> HTMLResponse:
    with request.app.state.sessions() as session:
        view = job_view(session, job_id, units(request), revision)
        return _page(request, session, view, Opened(compare=compare, as_it_was=revision is not None))


@router.get("/jobs/{job_id}/wave", response_class=HTMLResponse)
def show_wave(request: Request, job_id: RowId, compare: Revision = None) -> HTMLResponse:
    """The wave drawn large, with the board under it."""
    with request.app.state.sessions() as session:
        view = job_view(session, job_id, units(request))
        return _page(request, session, view, Opened(large=True, compare=compare))


@router.post("/jobs/{job_id}/tune")
def keep_settings(request: Request, job_id: RowId, form: Fields) -> Response:
    """Keep the board's settings as a new revision, on top of what somebody else kept since the board was
    opened.
    """
    system = units(request)
    make = request.app.state.sessions
    own: dict[str, str] = {}

    def keep(session: Session) -> None:
        nonlocal own
        newest = job_view(session, job_id, system)
        opened = opened_view(session, job_id, form.get("from_revision"), system)
        if newest.plan.refused or opened.plan.refused:
            return
        settings, words = typed_settings(opened, form, system)
        own = own_fields(opened, form, system)
        as_it_was = bool(form.get("as_it_was"))
        settings, words = _on_top(newest, opened, settings, words, system, as_it_was=as_it_was)
        if words:
            said = say.joined("Tuned: ", say.joined(*words, by=", "))
            book.add_plan(session, newest.row, newest.job, "tuned", said, settings)

    try:
        make.write(keep)
    except BadInput as trouble:
        with make() as session:
            view = job_view(session, job_id, system)
            return _page(request, session, view, Opened(trouble=trouble, typed=own or form))
    return see_other(f"/jobs/{job_id}/{'wave' if form.get('from') == 'wave' else 'tune'}")


def _on_top(
    newest: JobView,
    opened: JobView,
    settings: Settings,
    words: list[Words],
    system: UnitSystem,
    as_it_was: bool,
) -> tuple[Settings, list[Words]]:
    """The typed settings where the book stands now. An older revision that was opened on purpose comes back
    as it was.
    """
    if newest.plan_row.id == opened.plan_row.id:
        return settings, words
    if as_it_was:
        return settings, [f"as version {opened.plan_row.revision}", *words]
    by = said_version(newest.plan_row)
    merged = merged_settings(opened.settings, settings, newest.settings, system, by)
    return merged, words if merged != newest.settings else []
