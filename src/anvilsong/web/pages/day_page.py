"""The day's check: the same standard run each day, by one figure and three taps at least, on control charts,
and what to look at before any setting.
"""

from __future__ import annotations

from collections.abc import Sequence

from fastapi import Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from anvilsong.core import say
from anvilsong.core.bead import (
    CHECKS,
    FIRST,
    LEAST_RUNS,
    SCALES,
    Chart,
    Looks,
    Usual,
    control_chart,
    usual_place,
)
from anvilsong.core.errors import BadInput
from anvilsong.core.said import Words
from anvilsong.core.units import UnitSystem
from anvilsong.core.words import sentence
from anvilsong.store import coupons
from anvilsong.store.looks import looks_of
from anvilsong.web.coupon_scales import PICKS
from anvilsong.web.drawings.control import control_drawing
from anvilsong.web.forms import field_of
from anvilsong.web.frame import part, render, see_other, units
from anvilsong.web.job_view import JobView, job_view, opened_view
from anvilsong.web.once import page_router
from anvilsong.web.pages.coupon_page import (
    MEASURED,
    looks_from_form,
    scale_drawings,
    starts,
    steps_of,
    typed_words,
)
from anvilsong.web.requests import Fields, RowId

router = page_router()

MOST_RUNS = 200
RULER_MM = 0.1  # what a coupon is measured to
FIGURES = ("bead_width_mm", "border_left_mm", "border_right_mm")
ASKED = tuple(one for one in FIRST if one.key in ("bright", "specks", "even"))
LEAST_TAPS = 3


def _seen(session: Session, view: JobView) -> list[Looks]:
    """The coupons run with the settings that stand now, as the same standard run of each day."""
    return [
        looks
        for coupon in coupons.find_coupons(session, view.row.id, MOST_RUNS)
        if coupon.plan_id == view.plan_row.id and (looks := looks_of(coupon)) is not None
    ]


def _charts(seen: Sequence[Looks], system: UnitSystem) -> list[tuple[str, Chart, Words]]:
    charts = {
        "Border": control_chart([each.border_mm for each in seen if each.border_mm is not None], RULER_MM),
        "Bead width": control_chart(
            [each.bead_width_mm for each in seen if each.bead_width_mm is not None], RULER_MM
        ),
    }
    return [
        (words, chart, part("curve", lambda w=words, c=chart: control_drawing(c, w, system)))  # type: ignore[misc]
        for words, chart in charts.items()
        if chart is not None
    ]


def _by_sight(seen: Sequence[Looks]) -> list[tuple[str, Usual]]:
    """What the newest run was judged, where it was, beside what is usual."""
    found = []
    for key, scale in SCALES.items():
        places = [each.judged[key] for each in seen if key in each.judged]
        usual = usual_place(places)
        if usual is not None and key in seen[-1].judged:
            found.append((scale.words, usual))
    return found


def _page(
    request: Request, session: Session, view: JobView, form: dict[str, str], trouble: BadInput | None = None
) -> HTMLResponse:
    system = units(request)
    seen = _seen(session, view)
    drawn, by_sight = _charts(seen, system), _by_sight(seen)
    places = {scale.words: scale.places for scale in SCALES.values()}
    return render(
        request,
        "day.html",
        422 if trouble else 200,
        view=view,
        here="read",
        runs=len(seen),
        least=LEAST_RUNS,
        drawn=drawn,
        seen_usually=[
            (words, places[words][usual.usual], places[words][usual.newest], usual.is_out)
            for words, usual in by_sight
        ],
        out=[say.within(words) for words, chart, _ in drawn if chart.is_out]
        + [say.within(words) for words, usual in by_sight if usual.is_out],
        back=[say.within(words) for words, chart, _ in drawn if chart.is_back],
        checks=CHECKS,
        form=form,
        trouble=trouble,
        problems={field_of(problem): problem for problem in trouble.problems} if trouble else {},
        measured={name: MEASURED[name] for name in FIGURES},
        steps_of=steps_of(system),
        starts=starts(view, system),
        given=[],
        scales=ASKED,
        drawn_scales=scale_drawings(),
        overall=PICKS["overall"],
    )


@router.get("/jobs/{job_id}/day", response_class=HTMLResponse)
def show_day(request: Request, job_id: RowId) -> HTMLResponse:
    """The charts of the standard run, and today's piece."""
    with request.app.state.sessions() as session:
        view = job_view(session, job_id, units(request))
        return _page(request, session, view, {"revision": str(view.plan_row.revision)})


@router.post("/jobs/{job_id}/day")
def record_day(request: Request, job_id: RowId, form: Fields) -> Response:
    """Today's piece as a coupon: at least one figure and three taps."""
    make, system = request.app.state.sessions, units(request)

    def record(session: Session) -> None:
        view = opened_view(session, job_id, form.get("revision"))
        looks = looks_from_form(form, system)
        _asked(looks)
        coupons.add_coupon(session, view.row, view.plan_row, looks, typed_words(form, system))

    try:
        make.write(record)
    except BadInput as trouble:
        with make() as session:
            newest = job_view(session, job_id, system)
            if any(problem.field == "revision" for problem in trouble.problems):
                form = form | {"revision": str(newest.plan_row.revision)}
            return _page(request, session, newest, form, trouble)
    return see_other(f"/jobs/{job_id}/day")


def _asked(looks: Looks) -> None:
    """That there is as much as a day is compared by.

    Raises
    ------
    BadInput : no figure, or fewer than three taps
    """
    if all(getattr(looks, name) is None for name in FIGURES):
        raise BadInput.one(FIGURES[0], "nothing", sentence("web.day_wants_one_figure"))
    tapped = len(looks.judged) + (looks.overall is not None)
    if tapped < LEAST_TAPS:
        raise BadInput.one("judged", f"{tapped}", sentence("web.day_wants_three_taps", tapped=tapped))
