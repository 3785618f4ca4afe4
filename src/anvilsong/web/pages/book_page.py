"""Book: every job of the shop, found by words."""

from __future__ import annotations

from contextlib import suppress
from datetime import datetime
from urllib.parse import urlencode

from fastapi import Request
from fastapi.responses import HTMLResponse, RedirectResponse
from sqlalchemy.orm import Session

from anvilsong.core.bead import signs_named
from anvilsong.core.errors import BadInput
from anvilsong.core.glossary import terms
from anvilsong.core.joint import joints
from anvilsong.core.metal.alloys import find_alloy
from anvilsong.core.quantities import parse
from anvilsong.core.words import sentence
from anvilsong.store import book, finding, shop
from anvilsong.store.lines import JOB_STATES, Narrowed, book_page
from anvilsong.store.models import JobRow, MachineRow
from anvilsong.web.frame import UNITS_COOKIE, YEAR_S, render, see_other, units
from anvilsong.web.once import page_router
from anvilsong.web.pages.help_page import help_pictures
from anvilsong.web.requests import Fields, PageNumber, RowId, found, own_address, typed_query, whole

router = page_router()

MOST_LETTERS, MOST_NAMED = 200, 6  # of a search; words of the trade that it shows
ASKED = ("q", "away", "machine", "joint", "alloy", "welder", "since", "thinnest", "thickest", "state")


@router.get("/book", response_class=HTMLResponse)
def show_book(request: Request, q: str = "", away: bool = False, page: PageNumber = 1) -> HTMLResponse:
    """Jobs, newest change first, or those whose words fit; ``away``: those that were put away."""
    asked = {name: text[:MOST_LETTERS].strip() for name, text in typed_query(request).items()}
    with request.app.state.sessions() as session:
        narrowed = Narrowed(
            asked.get("machine", ""),
            asked.get("joint", ""),
            asked.get("alloy", ""),
            whole(asked.get("welder")),
            _day(asked.get("since", "")),
            (_length_mm(request, asked, "thinnest"), _length_mm(request, asked, "thickest")),
            next((state for state in JOB_STATES if state == asked.get("state")), None),
        )
        lines = book_page(session, q[:MOST_LETTERS], away, page, narrowed)
        put_away = book.count_put_away(session)
        return render(
            request,
            "book.html",
            page=lines,
            query=q[:MOST_LETTERS],
            away=away,
            put_away=put_away,
            found_signs=signs_named(q[:MOST_LETTERS]),
            found_else=_elsewhere(session, q[:MOST_LETTERS].strip()),
            asked=asked,
            is_narrowed=narrowed != Narrowed(),
            machine_pairs=[(row.name, row.name) for row in shop.names(session, MachineRow)],
            kept_query="".join(f"{urlencode({name: asked[name]})}&" for name in ASKED if asked.get(name)),
            welder_pairs=[(row.id, row.name) for row in shop.welders(session)],
            state_pairs=list(JOB_STATES.items()),
            joint_pairs=[(joint.key, joint.words) for joint in joints()],
            welcome=None
            if lines.lines or q or away or narrowed != Narrowed()
            else help_pictures(units(request))["section"],
        )


def _length_mm(request: Request, asked: dict[str, str], name: str) -> float | None:
    """A thickness as it was typed, in the reader's units or with its own; None for anything else."""
    with suppress(BadInput):
        return parse(asked[name], "length", name, units(request)) if asked.get(name) else None
    return None


def _day(text: str) -> datetime | None:
    """A day as a date field gives it; None for anything else."""
    try:
        return datetime.strptime(text, "%Y-%m-%d")
    except ValueError:
        return None


def _elsewhere(session: Session, query: str) -> list[tuple[str, str, str]]:
    """What else has such a name: what it is, its address and its name."""
    if len(query) < 2:
        return []
    found = [("recipe", f"/recipes/{number}", name) for number, name in finding.named_recipes(session, query)]
    found += [
        ("machine", f"/shop/machines/{number}", name)
        for number, name in finding.named_machines(session, query)
    ]
    with suppress(BadInput):
        metal = find_alloy(query)
        found.append(("metal", f"/metals/{metal.name}", metal.name))
    small = query.lower()
    named = [term for term in terms() if small in term.words.lower()][:MOST_NAMED]
    return found + [("word", f"/help#{term.key}", term.words) for term in named]


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
