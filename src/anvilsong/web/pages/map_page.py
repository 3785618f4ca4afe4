"""Map: two settings against one another, all limits at once, and a point that sets the board."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from fastapi import Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from anvilsong.core import say
from anvilsong.core.board import (
    AXES,
    AxisKey,
    Lane,
    axes_of,
    axis_value,
    board,
    read_lane,
    settings_map,
    with_axis,
    working_reach,
)
from anvilsong.core.errors import BadInput, Problem
from anvilsong.core.machine import Machine
from anvilsong.core.model import Bench, situation
from anvilsong.core.quantities import parse
from anvilsong.core.registry import BY_KEY
from anvilsong.core.settings import Settings
from anvilsong.core.shown import figure, show, to_shown
from anvilsong.core.units import UnitSystem
from anvilsong.store import book
from anvilsong.store.calibrated import calibration_of, calibration_row
from anvilsong.web.drawings.map import Lines, MapLook, map_drawing
from anvilsong.web.drawings.panel import panel_drawing
from anvilsong.web.drawings.section import section_drawing
from anvilsong.web.frame import part, render, see_other, units
from anvilsong.web.job_view import JobView, job_view, kit_of, opened_view
from anvilsong.web.lane_rows import lane_owner
from anvilsong.web.once import page_router
from anvilsong.web.requests import Fields, RowId
from anvilsong.web.saving import merged_settings, said_version

router = page_router()

FIRST_AXES: tuple[AxisKey, AxisKey] = ("amps_run", "travel_mm_s")
# Nine times of ten, until coupons say more: amps between shops, travel of one hand, border through the share.
USUAL_SPREAD: dict[AxisKey, float] = {"amps_run": 0.12, "ep_amps": 0.12, "travel_mm_s": 0.10}


@dataclass(frozen=True)
class MapView:
    """How a map is looked at: which lines of equal, and whether along the whole of both axes."""

    lines: Lines
    whole: bool = False


@dataclass(frozen=True)
class Refused:
    """A form that could not be kept: what was typed in it, the revision that it counts from now, and why."""

    typed: dict[str, str]
    revision: int
    trouble: BadInput


def _axes(x: str, y: str, machine: Machine) -> tuple[AxisKey, AxisKey]:
    """Two different axes that the machine has, as asked or the usual ones."""
    known = axes_of(machine)
    one: Any = x if x in known else FIRST_AXES[0]
    other: Any = y if y in known else next(key for key in (*FIRST_AXES[::-1], *known) if key != one)
    if one == other or {one, other} == {"ep_amps", "ep_trim"}:
        other = next(key for key in FIRST_AXES if key != one)
    return one, other


@router.get("/jobs/{job_id}/map", response_class=HTMLResponse)
def show_map(
    request: Request, job_id: RowId, x: str = "", y: str = "", lines: Lines = "pool", whole: bool = False
) -> HTMLResponse:
    """The map of two axes round the newest settings: where they work, or the whole of both axes."""
    with request.app.state.sessions() as session:
        view = job_view(session, job_id, units(request))
        return _page(request, session, view, _axes(x, y, view.machine), MapView(lines, whole))


def _page(
    request: Request,
    session: Session,
    view: JobView,
    axes: tuple[AxisKey, AxisKey],
    shown: MapView,
    refused: Refused | None = None,
) -> HTMLResponse:
    """The map; after a refusal with what was typed."""
    typed = refused.typed if refused else {}
    if view.plan.refused or view.plan.consequences is None:
        return render(request, "map.html", view=view, here="tune")
    system, settings, seen = units(request), view.settings, view.plan.consequences
    bench = Bench(view.machine, kit_of(session, view), view.c)
    reach = None if shown.whole else working_reach(view.job, settings, bench, axes)
    found = settings_map(view.job, settings, bench, axes, reach=reach)
    lanes = {lane.key: lane for lane in board(view.plan, settings, view.machine)}
    marks = [
        tuple(lanes[lane].marks) if (lane := AXES[key].lane) in lanes and lane is not None else ()
        for key in axes
    ]
    look = MapLook(
        shown.lines, (_spread(session, view, axes[0]), _spread(session, view, axes[1])), marks[0], marks[1]
    )
    return render(
        request,
        "map.html",
        422 if refused else 200,
        view=view,
        here="tune",
        axes=axes_of(view.machine),
        x=axes[0],
        y=axes[1],
        lines=shown.lines,
        whole=shown.whole,
        from_revision=refused.revision if refused else view.plan_row.revision,
        trouble=refused.trouble if refused else None,
        drawing=part("map", lambda: map_drawing(found, look, system)),
        shown=[
            (
                key,
                AXES[key].words,
                typed.get(f"value_{key}", figure(value, AXES[key].dimension, system, AXES[key].decimals)),
            )
            for key, value in zip(axes, found.point, strict=True)
        ],
        section=part("section", lambda: section_drawing(view.job, settings, seen, system)),
        panel=part("panel", lambda: panel_drawing(view.plan.panel, view.machine)),
        state={
            "job": view.job.model_dump(mode="json", by_alias=True),
            "settings": settings.model_dump(mode="json", by_alias=True),
            "coefficients": view.c.model_dump(),
            "axes": [_axis_state(key, system, _reach(key, settings, lanes, view.machine)) for key in axes],
            "pedal": view.job.control == "pedal",
        },
    )


def _axis_state(key: AxisKey, system: UnitSystem, reach: tuple[float, float] | None) -> dict[str, Any]:
    """What the script needs of an axis: how far its value goes, and to write it, v·factor + offset."""
    axis = AXES[key]
    zero, one = (to_shown(value, axis.dimension, system) for value in (0.0, 1.0))
    sample = figure(1.0, axis.dimension, system, axis.decimals)
    decimals = len(sample.partition(".")[2])
    step = BY_KEY[key].step if key in BY_KEY else 1.0 if key == "ep_amps" else 0.1
    return {
        "key": key,
        "factor": one - zero,
        "offset": zero,
        "decimals": decimals,
        "step": step,
        "reach": reach,
    }


def _spread(session: Session, view: JobView, key: AxisKey) -> float:
    """How far a value may lie from what is set, by hand and by what coupons say."""
    share = USUAL_SPREAD.get(key, 0.0)
    if key in ("amps_run", "ep_amps"):
        made = calibration_of(calibration_row(session, view.job.machine, view.job.kit))
        if made is not None and made.used and made.coefficients == view.c:
            share = made.amps_share
    base = {
        "amps_run": view.settings.amps_run,
        "ep_amps": view.settings.amps_run,
        "travel_mm_s": view.settings.travel_mm_s,
    }
    return share * base.get(key, 0.0)


@router.post("/jobs/{job_id}/map")
def keep_point(request: Request, job_id: RowId, form: Fields) -> Response:
    """Keep the point as the board's settings.

    What cannot be read stays on the revision that it was typed on. Where somebody kept another value since,
    the page comes back on theirs with mine typed over it: kept again, mine holds.
    """
    make, system = request.app.state.sessions, units(request)
    typed, on = form, 0

    def axes_in(view: JobView) -> tuple[AxisKey, AxisKey]:
        return _axes(form.get("x", ""), form.get("y", ""), view.machine)

    def keep(session: Session) -> str:
        nonlocal typed, on
        newest = job_view(session, job_id, system)
        typed, on = form, newest.plan_row.revision
        opened = opened_view(session, job_id, form.get("from_revision"), system)
        if newest.plan.refused or opened.plan.refused:
            return "map"
        on = opened.plan_row.revision
        settings, moved = _moved(opened, axes_in(opened), form, system)
        typed, on = {f"value_{key}": text for key, text in moved.items()}, newest.plan_row.revision
        if newest.plan_row.id != opened.plan_row.id:  # on top of what somebody kept since
            by = said_version(newest.plan_row)
            settings = merged_settings(opened.settings, settings, newest.settings, system, by)
        if moved and settings != newest.settings:
            set_to = (say.joined(say.within(AXES[key].words), f" {text}") for key, text in moved.items())
            said = say.joined("From the map: ", say.joined(*set_to, by=", "))
            book.add_plan(session, newest.row, newest.job, "tuned", said, settings)
        return "tune"

    try:
        page = make.write(keep)
    except BadInput as trouble:
        with make() as session:
            lines: Lines = "border" if form.get("lines") == "border" else "pool"
            newest = job_view(session, job_id, system)
            return _page(
                request, session, newest, axes_in(newest), MapView(lines), Refused(typed, on, trouble)
            )
    return see_other(f"/jobs/{job_id}/{page}")


def _moved(
    view: JobView, axes: tuple[AxisKey, AxisKey], form: dict[str, str], system: Any
) -> tuple[Settings, dict[AxisKey, str]]:
    """The settings with what was really typed or dragged, and what that was by axis.

    What the page printed is rounded, and no change. An EP amps axis counts after the amps; as warm
    as the part is no preheat.
    """
    settings, at = view.settings, situation(view.job)
    lanes = {lane.key: lane for lane in board(view.plan, settings, view.machine)}
    moved: dict[AxisKey, str] = {}
    problems: list[Problem] = []
    for key in sorted(axes, key=lambda key: key == "ep_amps"):
        text, axis = form.get(f"value_{key}", "").strip(), AXES[key]
        was = figure(axis_value(key, at, view.settings), axis.dimension, system, axis.decimals)
        if not text or text.replace("-", "−") == was.replace("-", "−") or key == "thickness_mm":
            continue
        try:
            value: float | None = _read(key, text, settings, lanes, view.machine, system)
            if key == "preheat_c" and value is not None and value <= view.job.part_temperature_c:
                value = None
            changed = with_axis(settings, key, value, view.job.control)
        except BadInput as trouble:
            problems += trouble.problems
            continue
        if changed != settings:
            moved[key] = text
        settings = changed
    if problems:
        raise BadInput(*problems)
    return settings, moved


def _reach(
    key: AxisKey, settings: Settings, lanes: dict[str, Lane], machine: Machine
) -> tuple[float, float] | None:
    """How far a value may be set: as far as its lane on the board."""
    if key == "ep_amps":
        return settings.amps_run * (1 + machine.least_trim), settings.amps_run * (1 + machine.most_trim)
    lane = lanes.get("amps_set" if key == "amps_run" else key)
    return (lane.low, lane.high) if lane else None


def _read(
    key: AxisKey,
    text: str,
    settings: Settings,
    lanes: dict[str, Lane],
    machine: Machine,
    system: UnitSystem,
) -> float:
    """A field as its lane on the board would read it."""
    limits, axis = _reach(key, settings, lanes, machine), AXES[key]
    if key in BY_KEY:
        entry = BY_KEY[key]
        return read_lane(entry, text, system, limits, lane_owner(entry, machine))
    value = parse(text, axis.dimension, axis.words, system)
    if limits is not None and not limits[0] <= value <= limits[1]:
        low, high = (show(limit, axis.dimension, system, axis.decimals) for limit in limits)
        raise BadInput.one(axis.words, text, f"{machine.name} goes from {low} to {high}")
    return value
