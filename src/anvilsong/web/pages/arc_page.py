"""A machine's arc tried on scrap: spots that find what a balance knob stands for, and how few amps light."""

from __future__ import annotations

from typing import Any

from fastapi import Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from anvilsong.core.complaints import validated
from anvilsong.core.errors import BadInput
from anvilsong.core.machine import Control, Knob, Machine, calibrate
from anvilsong.core.quantities import parse
from anvilsong.core.torch.tungsten import tungsten_sizes
from anvilsong.core.trials import (
    TRIES,
    SpotTest,
    StartTest,
    balls_from,
    counts_otherwise,
    least_start_a,
    shares_of,
    turned_round,
)
from anvilsong.core.units import UnitSystem
from anvilsong.core.words import sentence
from anvilsong.store import bench_trials, shop
from anvilsong.store.calibrations import refit_machine
from anvilsong.store.models import MachineRow
from anvilsong.web.drawings.knob import knob_drawing
from anvilsong.web.forms import field_of
from anvilsong.web.frame import part, render, see_other, units
from anvilsong.web.once import page_router
from anvilsong.web.pages.machine_page import stored_machine
from anvilsong.web.requests import Fields, RowId, found
from anvilsong.web.scale_text import clock_place, clock_words, counting

router = page_router()

PLACES, EACH = 5, 3
START_ROWS = 6


def _knob_control(machine: Machine) -> Control | None:
    """The balance control where it has places between two ends; named steps and fixed ones have none."""
    control = machine.control("ep_share")
    return None if control is None or control.scale.names or control.scale.is_fixed else control


def _place_words(control: Control, position: float) -> str:
    return clock_words(position) if control.scale.shown_as == "clock" else f"{position:g}"


def _page(
    request: Request, session: Session, machine_id: int, form: dict[str, str], trouble: BadInput | None = None
) -> HTMLResponse:
    row, machine = stored_machine(session, machine_id)
    control = _knob_control(machine)
    rows = range(1, PLACES * EACH + 1)
    if control is not None and not form:
        first, last = control.scale.points[0][0], control.scale.points[-1][0]
        for number in rows:
            position = first + (last - first) * ((number - 1) // EACH) / (PLACES - 1)
            form |= {f"s{number}_position": _place_words(control, round(position, 2))}
    return render(
        request,
        "arc.html",
        422 if trouble else 200,
        row=row,
        machine=machine,
        control=control,
        here="shop",
        form=form,
        trouble=trouble,
        problems={field_of(problem): problem for problem in trouble.problems} if trouble else {},
        rows=rows,
        start_rows=range(1, START_ROWS + 1),
        tries=TRIES,
        sizes=[size.diameter_mm for size in tungsten_sizes()],
        found=_found(session, row, machine, control),
    )


def _found(
    session: Session, row: MachineRow, machine: Machine, control: Control | None
) -> dict[str, Any] | None:
    """What the newest spots say of the knob; None before any, or where they say nothing."""
    trial = bench_trials.newest_of_machine(session, row.name, "spots")
    test = bench_trials.spots_of(trial)
    if control is None or test is None or trial is None:
        return None
    try:
        if counts_otherwise(test, control.scale):
            return {"otherwise": True}
        points = shares_of(test, control.scale)
        knob: Knob | None = calibrate(points)
    except BadInput:
        return None
    count = counting(control.setting, control.basis)
    return {
        "trial": trial,
        "places": [
            (_place_words(control, one.position), count.figure(one.value), 100 * one.sd, one.sd > 0)
            for one in points
        ],
        "drawing": part(
            "curve",
            lambda: knob_drawing(knob, control.scale.shown_as, count, "AC balance"),  # type: ignore[arg-type]
        ),
        "tungsten_mm": test.tungsten_mm,
        "balled": balls_from(test, points),
    }


@router.get("/shop/machines/{machine_id}/arc", response_class=HTMLResponse)
def show_arc(request: Request, machine_id: RowId) -> HTMLResponse:
    """Both tests, and what the newest spots found."""
    with request.app.state.sessions() as session:
        return _page(request, session, machine_id, {})


@router.post("/shop/machines/{machine_id}/arc/spots")
def record_spots(request: Request, machine_id: RowId, form: Fields) -> Response:
    """Spots as they were burned and measured."""
    make, system = request.app.state.sessions, units(request)

    def record(session: Session) -> None:
        row, machine = stored_machine(session, machine_id)
        control: Control = found(_knob_control(machine))
        test = _spots(form, control, system)
        if not counts_otherwise(test, control.scale):
            calibrate(shares_of(test, control.scale))  # says what is missing before anything is stored
        bench_trials.add_machine_trial(session, row.name, test)
        refit_machine(session, row.name)

    try:
        make.write(record)
    except BadInput as trouble:
        with make() as session:
            return _page(request, session, machine_id, form, trouble)
    return see_other(f"/shop/machines/{machine_id}/arc#found")


def _spots(form: dict[str, str], control: Control, system: UnitSystem) -> SpotTest:
    """The rows that say something, as spots; the mean of both diameters where both were measured."""
    spots = []
    for number in range(1, PLACES * EACH + 1):
        start = f"s{number}_"
        typed = {
            name: form.get(start + name, "").strip() for name in ("position", "seconds", "along", "across")
        }
        if not any(typed[name] for name in ("seconds", "along", "across")):
            continue
        wide = [typed[name] for name in ("along", "across") if typed[name]]
        if not typed["position"] or not typed["seconds"] or not wide:
            raise BadInput.one(f"{start}position", "half a row", sentence("web.type_position_seconds_disc"))
        measured = [parse(text, "length", f"{start}along", system) for text in wide]
        position = clock_place(typed["position"], f"{start}position")
        clocked = control.scale.shown_as == "clock" and position < control.scale.points[0][0] - 1e-9
        ball = form.get(f"{start}ball", "").strip()
        spots.append(
            {
                "position": position + 12 * clocked,
                "seconds": typed["seconds"],
                "cleaned_mm": sum(measured) / len(measured),
                "ball_mm": parse(ball, "length", f"{start}ball", system) if ball else None,
            }
        )
    given = {"amps": form.get("amps", "").strip() or None, "spots": spots}
    given["tungsten_mm"] = form.get("burned_with", "").strip() or None
    return validated(SpotTest, given, system)


@router.post("/shop/machines/{machine_id}/arc/use")
def use_spots(request: Request, machine_id: RowId, form: Fields) -> Response:
    """The places that the newest spots found become the knob's own."""

    def use(session: Session) -> None:
        row, machine = stored_machine(session, machine_id)
        control: Control = found(_knob_control(machine))
        trial = bench_trials.newest_of_machine(session, row.name, "spots")
        test: SpotTest = found(bench_trials.spots_of(trial))
        knob = calibrate(shares_of(test, control.scale))
        scale = control.scale.model_copy(
            update={"points": tuple((point.position, point.value) for point in knob.points)}
        )
        controls = tuple(
            other.model_copy(update={"scale": scale}) if other.setting == control.setting else other
            for other in machine.controls
        )
        changed = machine.model_copy(update={"controls": controls})
        shop.change_machine(session, row, validated(Machine, changed.model_dump()))

    request.app.state.sessions.write(use)
    return see_other(f"/shop/machines/{machine_id}/knob/ep_share", sentence("web.knob_took_places"))


@router.post("/shop/machines/{machine_id}/arc/turn")
def turn_round(request: Request, machine_id: RowId) -> Response:
    """The balance control counts the other half, as the discs say; the machine's ends of it go along."""

    def turn(session: Session) -> None:
        row, machine = stored_machine(session, machine_id)
        control: Control = found(_knob_control(machine))
        test = found(bench_trials.spots_of(bench_trials.newest_of_machine(session, row.name, "spots")))
        if not counts_otherwise(test, control.scale):
            raise BadInput.one("spots", control.label, sentence("web.nothing_to_turn"))
        scale = turned_round(control.scale)
        controls = tuple(
            other.model_copy(update={"scale": scale}) if other.setting == control.setting else other
            for other in machine.controls
        )
        means = [meaning for _, meaning in scale.points]
        ends = {"least_ep_share": min(means), "most_ep_share": max(means)}
        changed = machine.model_copy(update={"controls": controls} | ends)
        shop.change_machine(session, row, validated(Machine, changed.model_dump()))
        refit_machine(session, row.name)

    request.app.state.sessions.write(turn)
    return see_other(f"/shop/machines/{machine_id}/arc#found", sentence("web.counts_turned"))


@router.post("/shop/machines/{machine_id}/arc/starts")
def record_starts(request: Request, machine_id: RowId, form: Fields) -> Response:
    """Tries with one tungsten; from now on plans start at what lit ten of ten, at least."""
    make = request.app.state.sessions

    def record(session: Session) -> float | None:
        row, machine = stored_machine(session, machine_id)
        rows = [
            {"amps": amps, "lit": form.get(f"t{number}_lit", "").strip() or None}
            for number in range(1, START_ROWS + 1)
            if (amps := form.get(f"t{number}_amps", "").strip())
        ]
        given = {"tungsten_mm": form.get("tungsten_mm", "").strip() or None, "rows": rows}
        test = validated(StartTest, given)
        bench_trials.add_machine_trial(session, row.name, test)
        least = least_start_a(test)
        if least is not None:
            kept = [start for start in machine.starts if start.tungsten_mm != test.tungsten_mm]
            starts = [
                *(start.model_dump() for start in kept),
                {"tungsten_mm": test.tungsten_mm, "least_a": least},
            ]
            changed = machine.model_dump() | {"starts": starts}
            shop.change_machine(session, row, validated(Machine, changed))
        return least

    try:
        least = make.write(record)
    except BadInput as trouble:
        with make() as session:
            return _page(request, session, machine_id, form, trouble)
    said = sentence("web.starts_none") if least is None else sentence("web.starts_kept", least=least)
    return see_other(f"/shop/machines/{machine_id}/arc", said)
