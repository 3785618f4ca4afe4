"""Any two coupons of a job: what was set and what came out differently, and whether that is the hand."""

from __future__ import annotations

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse

from anvilsong.core.bead import Readings, compare
from anvilsong.core.said import Words
from anvilsong.store import coupons
from anvilsong.store.calibrated import calibration_of, calibration_row
from anvilsong.store.models import CouponRow
from anvilsong.store.reading import readable
from anvilsong.web.drawings.coupon import coupon_drawing
from anvilsong.web.frame import part, render, units
from anvilsong.web.job_view import job_view
from anvilsong.web.requests import Revision, RowId
from anvilsong.web.rung_words import changed_by_hand, set_apart

router = APIRouter(include_in_schema=False)

MOST_CHOICES = 200


def _read(coupon: CouponRow | None) -> Readings | None:
    if coupon is None or not coupon.readings:
        return None
    return readable(Readings, coupon.readings[-1].document)


def _drawn(readings: Readings, number: int, beside: list[Readings]) -> Words:
    return part("coupon", lambda: coupon_drawing(readings, f"Coupon {number}", beside))


@router.get("/jobs/{job_id}/compare", response_class=HTMLResponse)
def show_comparison(
    request: Request, job_id: RowId, one: Revision = None, other: Revision = None
) -> HTMLResponse:
    """Two coupons by their numbers; the newest two when none are named."""
    with request.app.state.sessions() as session:
        view = job_view(session, job_id, units(request))
        run = coupons.find_coupons(session, job_id, MOST_CHOICES)
        numbers = [coupon.number for coupon in run]
        by_number = {coupon.number: coupon for coupon in run}
        chosen = (
            one if one in by_number else (numbers[-2:] or [0])[0],
            other if other in by_number else (numbers[-1:] or [0])[0],
        )
        pair = [by_number.get(number) for number in chosen]
        seen = [readings for coupon in pair if (readings := _read(coupon)) is not None]
        found, drawings, apart = None, [], list[tuple[str, Words, Words]]()
        if len(seen) == 2 and pair[0] is not None and pair[1] is not None:
            made = calibration_of(calibration_row(session, view.job.machine, view.job.kit))
            scatters = (made.width_scatter, made.border_scatter) if made is not None else ()
            found = compare(seen[0], seen[1], *scatters)
            apart = set_apart(pair[0], pair[1])
            drawings = [_drawn(readings, number, seen) for readings, number in zip(seen, chosen, strict=True)]
        return render(
            request,
            "compare.html",
            view=view,
            here="read",
            numbers=numbers,
            chosen=chosen,
            found=found,
            drawings=drawings,
            apart=apart,
            changed=changed_by_hand(apart, view.job.control),
        )
