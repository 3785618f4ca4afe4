"""What a machine's coupons say: nominal and fitted, with what range, and which coupons count."""

from __future__ import annotations

from dataclasses import dataclass

from fastapi import Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy import select
from sqlalchemy.orm import Session

from anvilsong.core.bead import (
    Calibration,
    Fitted,
    Looks,
    Month,
    Readings,
    Shot,
    TipFit,
    as_run,
    border_over_share,
    hand_by_month,
    width_over_amps,
)
from anvilsong.core.coefficients import coefficient_rows
from anvilsong.core.said import Words
from anvilsong.core.shown import percent
from anvilsong.core.units import UnitSystem
from anvilsong.store.calibrated import members_of
from anvilsong.store.calibrations import coupons_of, leave_out, refit, shots_of
from anvilsong.store.looks import looks_of
from anvilsong.store.models import CalibrationRow, CouponRow, MachineRow
from anvilsong.store.reading import readable
from anvilsong.web.drawings.trend import Axis, trend_drawing
from anvilsong.web.frame import part, render, see_other, units
from anvilsong.web.once import page_router
from anvilsong.web.requests import Fields, RowId, found

router = page_router()

NEAR_SHARE = 0.005  # a coefficient that moved less has not moved


@dataclass(frozen=True)
class Line:
    """One coefficient in words: what it is, what the coupons say, and the range."""

    words: str
    said: str
    within: str


@dataclass(frozen=True)
class Run:
    """One coupon as the page shows it: how far it lies from the fitted model, in scatters."""

    coupon: CouponRow
    readings: Looks | None
    width: float | None
    border: float | None
    odd: bool

    @property
    def is_whole(self) -> bool:
        """Whether it was measured whole; what was only looked at calibrates nothing."""
        return isinstance(self.readings, Readings)


@dataclass(frozen=True)
class Pair:
    """The machine with one kit."""

    row: CalibrationRow
    made: Calibration
    lines: list[Line]
    runs: list[Run]
    charts: list[tuple[str, Words]]
    months: tuple[Month, ...]


def _charts(
    session: Session, row: CalibrationRow, made: Calibration, system: UnitSystem
) -> list[tuple[str, Words]]:
    """The coupons that the row was made from, over what was set, in the order of its misses."""
    members = {number: place for place, number in enumerate(members_of(row))}
    run = [coupon for coupon in coupons_of(session, row.machine, row.kit) if coupon.id in members]
    shots = [
        Shot(shot.job, as_run(shot.settings, shot.readings), shot.readings)
        for _, shot in shots_of(run, row.machine)
    ]
    if not shots:
        return []

    def border() -> Words:
        share: Axis = ("AC balance, % EP", "share", percent)
        return trend_drawing(border_over_share(shots, made), "Border", share, system)

    def width() -> Words:
        amps: Axis = ("Amps", "current", lambda value: f"{value:.0f}")
        return trend_drawing(width_over_amps(shots, made), "Bead width", amps, system)

    return [
        ("Border over AC balance", part("chart", border)),
        ("Bead width over amps", part("chart", width)),
    ]


def _line(one: Fitted) -> Line:
    """A coefficient beside its nominal value, in per cent of it; a power as it is."""
    words = next(row.words for row in coefficient_rows() if row.key == one.key)
    if one.key == "width_frequency_power":
        value, low, high = (f"{each:.2f}".replace("-", "−") for each in (one.value, one.low, one.high))
    else:
        value, low, high = (percent(each / one.nominal) for each in (one.value, one.low, one.high))
    moved = abs(one.value / one.nominal - 1) > NEAR_SHARE
    return Line(words, f"{value} {'' if moved else '(estimate)'}".strip(), f"{low} to {high}")


def _tip_line(tips: TipFit) -> Line:
    """The tungsten's limits, of the published ones."""
    words = next(row.words for row in coefficient_rows() if row.key == "tungsten_limit")
    said = f"{percent(tips.limit)}, from {tips.tips} {'tip' if tips.tips == 1 else 'tips'}"
    return Line(words, said, f"{percent(tips.low)} to {percent(tips.high)}")


def _pair(session: Session, row: CalibrationRow, system: UnitSystem) -> Pair | None:
    made = readable(Calibration, row.document)
    if made is None:
        return None
    lines = [_line(one) for one in made.fitted]
    if made.tips is not None:
        lines.append(_tip_line(made.tips))
    places = {number: place for place, number in enumerate(members_of(row))}
    runs = []
    for coupon in reversed(coupons_of(session, row.machine, row.kit)):
        place = places.get(coupon.id)
        miss = made.misses[place] if place is not None and place < len(made.misses) else None
        readings = looks_of(coupon)
        runs.append(
            Run(
                coupon,
                readings,
                miss.width if miss else None,
                miss.border if miss else None,
                miss.left_out if miss else False,
            )
        )
    by_id = {run.coupon.id: run.coupon.made_at for run in runs}
    when = [by_id[number] for number in places if number in by_id]
    months = hand_by_month(when, made) if len(when) == len(made.misses) else ()
    return Pair(row, made, lines, runs, _charts(session, row, made, system), months)


@router.get("/shop/machines/{machine_id}/coupons", response_class=HTMLResponse)
def show_calibration(request: Request, machine_id: RowId) -> HTMLResponse:
    with request.app.state.sessions() as session:
        machine = found(session.get(MachineRow, machine_id))
        rows = session.scalars(
            select(CalibrationRow).where(CalibrationRow.machine == machine.name).order_by(CalibrationRow.kit)
        )
        pairs = [pair for row in rows if (pair := _pair(session, row, units(request)))]
        return render(request, "calibration.html", machine=machine, pairs=pairs, here="shop")


@router.post("/shop/machines/{machine_id}/coupons")
def switch_calibration(request: Request, machine_id: RowId, form: Fields) -> Response:
    """Use what the coupons of a kit say for new plans, or go back to nominal."""
    with request.app.state.sessions.begin() as session:
        machine = found(session.get(MachineRow, machine_id))
        kit = form.get("kit", "")
        row = found(
            session.scalar(
                select(CalibrationRow).where(
                    CalibrationRow.machine == machine.name, CalibrationRow.kit == kit
                )
            )
        )
        row.is_on = form.get("is_on") == "1"
        refit(session, machine.name, kit)
    return see_other(f"/shop/machines/{machine_id}/coupons")


@router.post("/shop/machines/{machine_id}/coupons/{coupon_id}")
def count_coupon(request: Request, machine_id: RowId, coupon_id: RowId, form: Fields) -> Response:
    """Leave a coupon out, or count it again."""
    with request.app.state.sessions.begin() as session:
        machine = found(session.get(MachineRow, machine_id))
        coupon = session.get(CouponRow, coupon_id)
        found(coupon if coupon is not None and coupon.machine == machine.name else None)
        leave_out(session, coupon, form.get("left_out") == "1")
    return see_other(f"/shop/machines/{machine_id}/coupons")
