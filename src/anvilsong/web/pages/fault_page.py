"""What went wrong: signs to tap, their likely causes with reasons, one thing to try, and what helped here."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated
from urllib.parse import urlencode

from fastapi import Query, Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from anvilsong.core.bead import (
    Likely,
    effect_words,
    find_sign,
    likely_causes,
    measured_against,
    signs,
    spoken_against,
)
from anvilsong.core.model import consequences
from anvilsong.core.said import Words
from anvilsong.core.words import sentence
from anvilsong.store import book, fault_trials
from anvilsong.web.drawings.signs import sign_drawing
from anvilsong.web.fault_case import bead_meant, choices
from anvilsong.web.frame import render, see_other, units
from anvilsong.web.job_view import job_view
from anvilsong.web.once import page_router
from anvilsong.web.requests import Fields, RowId, whole

router = page_router()

Keys = Annotated[Sequence[str], Query(max_length=30)]
Number = Annotated[int | None, Query(ge=0, le=10**9)]


@router.get("/jobs/{job_id}/faults", response_class=HTMLResponse)
def show_faults(
    request: Request, job_id: RowId, sign: Keys = (), out: Keys = (), coupon: Number = None
) -> HTMLResponse:
    with request.app.state.sessions() as session:
        view = job_view(session, job_id, units(request))
        known = {each.key for each in signs()}
        seen = [key for key in dict.fromkeys(sign) if key in known]
        likely: list[Likely] = []
        effects, against, not_there = list[Words](), dict[str, list[Words]](), list[str]()
        bead = None
        if not view.plan.refused:
            bead = bead_meant(session, view, coupon)
        if seen and bead is not None:
            case = bead.case
            against, not_there = spoken_against(seen, case), measured_against(seen, case)
            there = [key for key in seen if key not in not_there]
            likely = likely_causes(there, case, fault_trials.trials(session, there), out) if there else []
            if likely and likely[0].change:
                was = consequences(case.job, case.settings, case.machine, case.c)
                effects = effect_words(likely[0].change, was)
        return render(
            request,
            "faults.html",
            view=view,
            here="wrong",
            signs=[(each, sign_drawing(each.key, each.words)) for each in signs()],
            seen=seen,
            out=[key for key in dict.fromkeys(out) if len(key) <= 40],
            likely=likely,
            bead=bead,
            beads=choices(session, view, bead) if bead else [],
            effects=effects,
            against=against,
            not_there=not_there,
        )


@router.post("/jobs/{job_id}/faults")
def record_trial(request: Request, job_id: RowId, form: Fields) -> Response:
    """It helped, or it did not: counted for this shop; what did not help gives way to the next cause."""
    seen, out = form.get("signs", "").split(), form.get("ruled_out", "").split()
    sign, cause, helped = form.get("sign", ""), form.get("cause", ""), form.get("helped") == "1"
    with request.app.state.sessions.begin() as session:
        job_view(session, job_id)
        for key in seen:
            find_sign(key)
        fault_trials.add_trial(session, sign, cause, helped)
    if helped:
        return see_other(f"/jobs/{job_id}/read")
    meant = [("coupon", form["coupon"])] if form.get("coupon", "").isdecimal() else []
    tried = [("out", key) for key in [*out[:20], cause]]
    query = urlencode([*(("sign", key) for key in seen), *tried, *meant])
    return see_other(f"/jobs/{job_id}/faults?{query}#causes")


@router.post("/jobs/{job_id}/faults/take")
def take_cause(request: Request, job_id: RowId, form: Fields) -> Response:
    """The change of a cause becomes the next revision."""

    def take(session: Session) -> str:
        view = job_view(session, job_id)
        if view.plan.refused:
            return "job"
        bead = bead_meant(session, view, whole(form.get("coupon")))
        sign = form.get("sign", "")
        if not bead.is_settable or measured_against([sign], bead.case):
            return "faults"
        chosen = likely_causes([sign], bead.case)
        change = next((each.change for each in chosen if each.key == form.get("cause")), None)
        if change is not None:
            said = change.said
            if bead.number and bead.case.settings != view.settings:
                said = sentence("web.change_of_coupon", said=change.said, number=bead.number)
            book.add_plan(session, view.row, view.job, "rung", said, change.settings)
        return "tune"

    to = request.app.state.sessions.write(take)
    said = sentence("web.nothing_set_from_coupon") if to == "faults" else ""
    return see_other(f"/jobs/{job_id}/{to}", said)
