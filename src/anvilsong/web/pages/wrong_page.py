"""Something wrong? The signs of trouble, one tap from every page: a sign leads to its usual causes and to
the jobs whose numbers weigh in.
"""

from __future__ import annotations

from fastapi import Request
from fastapi.responses import HTMLResponse

from anvilsong.core.bead import Case, Likely, find_sign, likely_causes, signs
from anvilsong.core.plan import make_plan
from anvilsong.store.lines import book_page
from anvilsong.web.drawings.signs import sign_drawing
from anvilsong.web.frame import render
from anvilsong.web.once import page_router
from anvilsong.web.plain_job import PLAIN_JOB

router = page_router()

MOST_JOBS = 8  # offered at first sight; the logbook has the others


@router.get("/wrong", response_class=HTMLResponse)
def show_wrong(request: Request, sign: str = "") -> HTMLResponse:
    """Every sign to tap; with one, what usually causes it and which job it was seen on."""
    chosen = find_sign(sign) if sign else None
    with request.app.state.sessions() as session:
        jobs = [line for line in book_page(session).lines if line.job and not line.refused][:MOST_JOBS]
    return render(
        request,
        "wrong.html",
        signs=[(each, sign_drawing(each.key, each.words)) for each in signs()],
        chosen=chosen,
        usual=_usual(sign) if chosen else [],
        jobs=jobs,
        here="wrong",
    )


def _usual(sign: str) -> list[Likely]:
    """The causes of a sign on a plain joint, where nothing is known of the job."""
    settings = make_plan(PLAIN_JOB).settings
    assert settings is not None
    return likely_causes([sign], Case(PLAIN_JOB, settings))
