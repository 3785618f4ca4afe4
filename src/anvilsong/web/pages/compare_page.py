"""Any two coupons of a job: what was set and what came out differently, and whether that is the hand."""

from __future__ import annotations

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse

from anvilsong.core.bead import Looks, compare
from anvilsong.core.said import Words
from anvilsong.store import coupons
from anvilsong.store.calibrations import hand_of
from anvilsong.store.looks import looks_of
from anvilsong.web.drawings.coupon import coupon_drawing
from anvilsong.web.frame import part, render, units
from anvilsong.web.job_view import job_view
from anvilsong.web.requests import Revision, RowId
from anvilsong.web.rung_words import changed_by_hand, set_apart

router = APIRouter(include_in_schema=False)

MOST_CHOICES = 200


def _drawn(looks: Looks, number: int, beside: list[Looks]) -> Words:
    """A coupon as far as it can be drawn; nothing of one whose bead was not measured."""
    if looks.bead_width_mm is None:
        return ""
    return part("coupon", lambda: coupon_drawing(looks, f"Coupon {number}", beside))


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
        seen = [looks for coupon in pair if coupon and (looks := looks_of(coupon)) is not None]
        found, drawings, apart = None, [], list[tuple[str, Words, Words]]()
        if len(seen) == 2 and pair[0] is not None and pair[1] is not None:
            found = compare(seen[0], seen[1], hand_of(session, view.job.machine, view.job.kit))
            apart = set_apart(pair[0], pair[1])
            drawings = [_drawn(looks, number, seen) for looks, number in zip(seen, chosen, strict=True)]
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
