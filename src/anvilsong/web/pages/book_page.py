"""Book: every job of the shop, found by words."""

from __future__ import annotations

from fastapi import Request
from fastapi.responses import HTMLResponse, RedirectResponse

from anvilsong.core.bead import signs_named
from anvilsong.core.words import sentence
from anvilsong.store import book, shop
from anvilsong.store.lines import book_page
from anvilsong.store.models import JobRow
from anvilsong.web.frame import UNITS_COOKIE, YEAR_S, render, see_other, units
from anvilsong.web.once import page_router
from anvilsong.web.pages.help_page import help_pictures
from anvilsong.web.requests import Fields, PageNumber, RowId, found, own_address

router = page_router()

MOST_LETTERS = 200  # of a search


@router.get("/", response_class=RedirectResponse)
def root() -> RedirectResponse:
    return see_other("/book")


@router.get("/book", response_class=HTMLResponse)
def show_book(request: Request, q: str = "", away: bool = False, page: PageNumber = 1) -> HTMLResponse:
    """Jobs, newest change first, or those whose words fit; ``away``: those that were put away."""
    with request.app.state.sessions() as session:
        lines = book_page(session, q[:MOST_LETTERS], away, page)
        put_away = book.count_put_away(session)
        return render(
            request,
            "book.html",
            page=lines,
            query=q[:MOST_LETTERS],
            away=away,
            put_away=put_away,
            found_signs=signs_named(q[:MOST_LETTERS]),
            welcome=None if lines.lines or q or away else help_pictures(units(request))["section"],
        )


@router.post("/jobs/{job_id}/put-away")
def put_away_job(request: Request, job_id: RowId) -> RedirectResponse:
    """Leave a job out of the book; it can be brought back."""
    with request.app.state.sessions.begin() as session:
        row = found(session.get(JobRow, job_id))
        shop.put_away(session, row)
        title = row.title
    return see_other("/book", f"“{title}” was archived.", f"/jobs/{job_id}/bring-back")


@router.post("/jobs/{job_id}/bring-back")
def bring_back_job(request: Request, job_id: RowId) -> RedirectResponse:
    """Undo: the job is in the book again."""
    with request.app.state.sessions.begin() as session:
        row = found(session.get(JobRow, job_id))
        shop.bring_back(session, row)
        title = row.title
    return see_other("/book", sentence("web.logbook_again", title=title))


@router.post("/units")
def switch_units(request: Request, form: Fields) -> RedirectResponse:
    """The other unit system, remembered, and back to the same page."""
    answer = see_other(own_address(form.get("back", ""), "/book"))
    answer.set_cookie(
        UNITS_COOKIE, "inch" if form.get("to") == "inch" else "mm", max_age=YEAR_S, samesite="lax"
    )
    return answer
