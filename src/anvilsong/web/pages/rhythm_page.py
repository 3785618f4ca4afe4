"""Rhythm: dabs in time with a mark that blinks, judged as the bead they would lay."""

from __future__ import annotations

import json
from typing import Any

from fastapi import Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from anvilsong.core.errors import BadInput
from anvilsong.core.model import situation
from anvilsong.core.practice import Practised, beats_of, judge_taps, rhythm_of
from anvilsong.core.practice.rhythm import LONGEST_S, MOST_TAPS, Bead
from anvilsong.core.words import sentence
from anvilsong.store import practice, shop
from anvilsong.store.reading import digest
from anvilsong.web.drawings.rhythm import rhythm_drawing
from anvilsong.web.frame import part, render, see_other
from anvilsong.web.once import page_router
from anvilsong.web.practice_choice import (
    address_after,
    check_same,
    choosable_jobs,
    chosen_job,
    chosen_welder,
)
from anvilsong.web.practice_words import rhythm_lines
from anvilsong.web.requests import Fields, typed_query, whole

router = page_router()

BEADS: dict[Bead, str] = {"straight": "One bead", "stopped": "Bead with a stop"}


def _page(
    request: Request, session: Session, asked: dict[str, str], trouble: BadInput | None = None
) -> HTMLResponse:
    view = chosen_job(session, asked)
    if view is None:
        return render(request, "rhythm.html", 422 if trouble else 200, here="practice", view_of=None)
    rate, pitch = rhythm_of(situation(view.job), view.settings)
    bead: Bead = "stopped" if asked.get("bead") == "stopped" else "straight"
    done = practice.find_practised(session, whole(asked.get("done")) or 0)
    if done is not None and done[1].rhythm is None:
        done = None
    before = practice.before(session, done[0]) if done else None
    return render(
        request,
        "rhythm.html",
        422 if trouble else 200,
        here="practice",
        view_of=view,
        jobs=choosable_jobs(session, view),
        welders=[row.name for row in shop.welders(session)],
        welder=chosen_welder(session, request, asked, view),
        bead=bead,
        shown=digest([bead, rate, pitch]),
        beads=BEADS,
        rate=rate,
        pitch=pitch,
        beats=[beat.at_s for beat in beats_of(bead, rate, pitch)],
        done=done[1] if done else None,
        before=before[1] if before else None,
        lines=rhythm_lines(done[1].rhythm) if done and done[1].rhythm else [],
        drawing=_drawn(done[1]) if done else "",
        trouble=trouble,
    )


def _drawn(done: Practised) -> Any:
    result = done.rhythm
    assert result is not None
    return part("bead", lambda: rhythm_drawing(result))


@router.get("/practice/rhythm", response_class=HTMLResponse)
def show_rhythm(request: Request) -> HTMLResponse:
    """Tap in time; what the last taps came to."""
    with request.app.state.sessions() as session:
        return _page(request, session, typed_query(request))


@router.post("/practice/rhythm")
def keep_rhythm(request: Request, form: Fields) -> Response:
    """Taps that were made, judged and stored."""
    make = request.app.state.sessions
    try:
        taps = taps_from(form.get("taps", ""))
        with make.begin() as session:
            view = chosen_job(session, form, strictly=True)
            if view is None:
                raise BadInput.one("job", form.get("job", ""), sentence("web.run_no_job"))
            rate, pitch = rhythm_of(situation(view.job), view.settings)
            bead: Bead = "stopped" if form.get("bead") == "stopped" else "straight"
            check_same(form, [bead, rate, pitch])
            score, result = judge_taps(bead, rate, pitch, taps)
            welder = chosen_welder(session, request, form, view)
            done = Practised(
                skill="rhythm",
                item=bead,
                score=score,
                on=view.row.title,
                machine=view.job.machine,
                seconds=round(max(taps), 1),
                rhythm=result,
            )
            row = practice.add_practised(session, welder, done)
            address = address_after("/practice/rhythm", view, welder, bead=bead, done=row.id)
    except BadInput as trouble:
        with make() as session:
            return _page(request, session, form, trouble)
    return see_other(address)


def taps_from(text: str) -> tuple[float, ...]:
    """Seconds of taps as a page sends them, from the first beat.

    Raises
    ------
    BadInput : no list of seconds, none at all, or more than anybody taps
    """
    said = sentence("web.taps_wanted", most=MOST_TAPS)
    try:
        given = json.loads(text) if len(text) < 20 * MOST_TAPS else None
        taps = sorted(float(each) for each in given) if isinstance(given, list) else []
    except (ValueError, TypeError, RecursionError, OverflowError):
        taps = []
    if not 0 < len(taps) <= MOST_TAPS or not all(-5 <= tap <= LONGEST_S for tap in taps) or taps[-1] < 0:
        raise BadInput.one("taps", text[:60] or None, said)
    return tuple(round(tap, 4) for tap in taps)
