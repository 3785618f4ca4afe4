"""What went wrong: signs to tap, their likely causes with reasons, one thing to try, and what helped here."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated
from urllib.parse import urlencode

from fastapi import Query, Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from anvilsong.core.bead import (
    Case,
    Likely,
    Readings,
    effect_words,
    find_sign,
    likely_causes,
    signs,
    spoken_against,
)
from anvilsong.core.model import consequences
from anvilsong.core.said import Words
from anvilsong.core.words import sentence
from anvilsong.store import book, coupons, trials
from anvilsong.store.reading import readable
from anvilsong.web.drawings.signs import sign_drawing
from anvilsong.web.frame import render, see_other, units
from anvilsong.web.job_view import JobView, job_view
from anvilsong.web.once import page_router
from anvilsong.web.requests import Fields, RowId

router = page_router()

Keys = Annotated[Sequence[str], Query(max_length=30)]


def _case(session: Session, view: JobView) -> tuple[Case, Words]:
    """The newest coupon where it was run with what is set now, else what is set; and which, in words."""
    run = coupons.find_coupons(session, view.row.id, 1)
    if run and run[0].plan_id == view.plan_row.id and run[0].readings:
        readings = readable(Readings, run[0].readings[-1].document)
        if readings is not None:
            case = Case(view.job, view.settings, view.machine, view.c, readings)
            return case, sentence(
                "web.judged_with_coupon_version", number=run[0].number, revision=view.plan_row.revision
            )
    case = Case(view.job, view.settings, view.machine, view.c)
    return case, sentence("web.judged_with_settings_version", revision=view.plan_row.revision)


@router.get("/jobs/{job_id}/faults", response_class=HTMLResponse)
def show_faults(request: Request, job_id: RowId, sign: Keys = (), out: Keys = ()) -> HTMLResponse:
    with request.app.state.sessions() as session:
        view = job_view(session, job_id, units(request))
        known = {each.key for each in signs()}
        seen = [key for key in dict.fromkeys(sign) if key in known]
        likely: list[Likely] = []
        basis: Words = ""
        effects, against = list[Words](), dict[str, list[Words]]()
        if seen and not view.plan.refused:
            case, basis = _case(session, view)
            against = spoken_against(seen, case)
            likely = likely_causes(seen, case, trials.trials(session, seen), out)
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
            basis=basis,
            effects=effects,
            against=against,
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
        trials.add_trial(session, sign, cause, helped)
    if helped:
        return see_other(f"/jobs/{job_id}/read")
    query = urlencode([*(("sign", key) for key in seen), *(("out", key) for key in [*out[:20], cause])])
    return see_other(f"/jobs/{job_id}/faults?{query}#causes")


@router.post("/jobs/{job_id}/faults/take")
def take_cause(request: Request, job_id: RowId, form: Fields) -> Response:
    """The change of a cause becomes the next revision."""

    def take(session: Session) -> str:
        view = job_view(session, job_id)
        if view.plan.refused:
            return "job"
        case, _ = _case(session, view)
        chosen = likely_causes([form.get("sign", "")], case)
        change = next((each.change for each in chosen if each.key == form.get("cause")), None)
        if change is not None:
            book.add_plan(session, view.row, view.job, "rung", change.said, change.settings)
        return "tune"

    return see_other(f"/jobs/{job_id}/{request.app.state.sessions.write(take)}")
