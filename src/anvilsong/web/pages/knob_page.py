"""Knobs without figures: each place of one, and what it means, measured by its owner."""

from __future__ import annotations

from fastapi import HTTPException, Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from anvilsong.core.complaints import validated
from anvilsong.core.errors import BadInput
from anvilsong.core.machine import Control, Knob, KnobPoint, Machine, calibrate
from anvilsong.core.registry import BY_KEY
from anvilsong.core.words import sentence
from anvilsong.store import shop
from anvilsong.store.models import MachineRow
from anvilsong.store.reading import digest
from anvilsong.web.drawings.knob import knob_drawing
from anvilsong.web.frame import part, render, see_other
from anvilsong.web.once import page_router
from anvilsong.web.pages.machine_page import stored_machine
from anvilsong.web.requests import Fields, RowId
from anvilsong.web.scale_text import clock_place, clock_words, counting, plain_number

router = page_router()


def _knob_points(text: str, control: Control) -> list[KnobPoint]:
    """Lines of ``position = value ± spread``; clock positions past twelve go on counting, shares are per
    cent.
    """
    count, points = counting(control.setting, control.basis), list[KnobPoint]()
    for line in text.replace("−", "-").splitlines():
        if not line.strip():
            continue
        place, equals, rest = line.partition("=")
        value, _, spread = rest.partition("±")
        if not equals:
            raise BadInput.one("points", line, sentence("web.write_each_position_value"))
        position = clock_place(place, "points")
        # A knob runs from seven through twelve to five: hours before the stop are after noon.
        position += 12 if control.scale.shown_as == "clock" and position < 6 else 0
        spread_value = abs(plain_number(spread, "points")) * count.factor if spread.strip() else 0.0
        points.append(
            KnobPoint(position=position, value=count.inside(plain_number(value, "points")), sd=spread_value)
        )
    return points


def _knob_page(
    request: Request, row: MachineRow, control: Control, text: str, trouble: BadInput | None = None
) -> HTMLResponse:
    knob: Knob | None = None
    try:
        knob = calibrate(_knob_points(text, control))
    except BadInput as problem:
        trouble = trouble or problem
    count = counting(control.setting, control.basis)
    drawing = (
        part(
            "curve", lambda: knob_drawing(knob, control.scale.shown_as, count, BY_KEY[control.setting].words)
        )
        if knob
        else ""
    )
    return render(
        request,
        "knob.html",
        422 if trouble else 200,
        row=row,
        control=control,
        entry=BY_KEY[control.setting],
        text=text,
        trouble=trouble,
        drawing=drawing,
        seen=digest(row.document),
        here="shop",
    )


def _knob(session: Session, machine_id: int, setting: str) -> tuple[MachineRow, Machine, Control]:
    row, machine = stored_machine(session, machine_id)
    control = machine.control(setting)
    if control is None or control.scale.names:
        raise HTTPException(404)
    return row, machine, control


@router.get("/shop/machines/{machine_id}/knob/{setting}", response_class=HTMLResponse)
def show_knob(request: Request, machine_id: RowId, setting: str) -> HTMLResponse:
    with request.app.state.sessions() as session:
        row, _, control = _knob(session, machine_id, setting)
    count = counting(control.setting, control.basis)
    shown = [
        (clock_words(panel) if control.scale.shown_as == "clock" else f"{panel:g}", count.figure(meaning))
        for panel, meaning in control.scale.points
    ]
    return _knob_page(
        request, row, control, "\n".join(f"{place} = {meaning:.4g}" for place, meaning in shown)
    )


@router.post("/shop/machines/{machine_id}/knob/{setting}")
def save_knob(request: Request, machine_id: RowId, setting: str, form: Fields) -> Response:
    make = request.app.state.sessions
    text = form.get("points", "")
    try:
        with make.begin() as session:
            row, machine, control = _knob(session, machine_id, setting)
            knob = calibrate(_knob_points(text, control))
            scale = control.scale.model_copy(
                update={"points": tuple((point.position, point.value) for point in knob.points)}
            )
            controls = tuple(
                other.model_copy(update={"scale": scale}) if other.setting == setting else other
                for other in machine.controls
            )
            shop.change_machine(
                session,
                row,
                validated(Machine, machine.model_copy(update={"controls": controls}).model_dump()),
                form.get("seen") or None,
            )
    except BadInput as problem:
        with make() as session:
            row, _, control = _knob(session, machine_id, setting)
        return _knob_page(request, row, control, text, problem)
    return see_other(f"/shop/machines/{machine_id}/knob/{setting}")
