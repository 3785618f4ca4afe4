"""Progress: what a welder practised, skill by skill over the weeks, the next twenty minutes at the bench, and
all of it as a file.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence
from typing import Any

from fastapi import Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from anvilsong.core.machine import show_on_panel
from anvilsong.core.practice.at_the_bench import coupons_for
from anvilsong.core.practice.progress import COUNTED, Step, by_week, next_at_the_bench, standing
from anvilsong.core.registry import BY_KEY, get_value
from anvilsong.store import practice, shop
from anvilsong.web.asgi import VISIT
from anvilsong.web.drawings.progress import progress_drawing
from anvilsong.web.frame import part, render, spoken_json
from anvilsong.web.once import page_router
from anvilsong.web.practice_choice import chosen_job
from anvilsong.web.requests import PageNumber, typed_query

router = page_router()

MOST_SHOWN, MOST_COUPONS, A_PAGE = 20_000, 300, 50
SET_AT_THE_BENCH = (
    "amps_set", "ep_share", "ep_trim", "ep_amps", "frequency_hz", "shape_en", "pulse_rate_hz", "down_slope_s",
    "post_flow_s",
)  # fmt: skip
COLUMNS = ("made_at", "welder", "skill", "item", "score", "on", "machine", "seconds")


def _who(request: Request, session: Session) -> tuple[str, list[str]]:
    """Whose practice is asked for, and whose there is."""
    visit = request.scope.get(VISIT)
    known = {*practice.welders_practised(session), *(row.name for row in shop.welders(session))}
    names = sorted(known - {""})
    usual = visit.who if visit and visit.who in names else ""
    return typed_query(request).get("welder", usual)[:60], names


@router.get("/practice/progress", response_class=HTMLResponse)
def show_progress(request: Request) -> HTMLResponse:
    """What somebody practised."""
    with request.app.state.sessions() as session:
        welder, names = _who(request, session)
        practised = practice.scores(session, welder, MOST_SHOWN)
        done = [*practised, *practice.coupon_scores(session, welder, MOST_COUPONS)]
        steps = next_at_the_bench(done) if practised else []
        tables = _at_the_bench(session, welder, steps, len(done))
    weeks = by_week(done)
    return render(
        request,
        "progress.html",
        here="practice",
        welder=welder,
        welders=names,
        practised=bool(practised),
        skills=COUNTED,
        standing=standing(done),
        counts={skill: sum(week.times for week in of) for skill, of in weeks.items()},
        drawing=part("progress", lambda: progress_drawing(weeks)) if weeks else "",
        steps=list(zip(steps, tables, strict=True)),
    )


def _at_the_bench(
    session: Session, welder: str, steps: Sequence[Step], seed: int
) -> list[dict[str, Any] | None]:
    """What to set for the coupons of each step on the machine of the welder's own last job, else of the last
    one; nothing where there is no job.
    """
    view = chosen_job(
        session, {}, fits=lambda one: one.row.welder is not None and one.row.welder.name == welder
    )
    if view is None:
        return [None for _ in steps]
    bench, found = shop.bench_of(session, view.job), list[dict[str, Any] | None]()
    for step in steps:
        coupons = coupons_for(step.skill, view.job, view.settings, bench, seed)
        panels = [show_on_panel(each.settings, bench.machine).lines for each in coupons]
        rows = [
            {
                "label": lines[0].label,
                "shown": [f"{line.shown} {line.unit}".strip() for line in lines],
                "turned": any(lines[0].setting in each.turned for each in coupons),
            }
            for lines in zip(*panels, strict=True)
            if lines[0].setting in SET_AT_THE_BENCH
        ]
        # What no panel sets: travel, and under a pedal the amps that the pool wants.
        by_hand = ["travel_mm_s", *(["amps_run"] if view.job.control == "pedal" else [])]
        hand = [
            (BY_KEY[key], values, len(set(values)) > 1)
            for key in by_hand
            for values in [[get_value(each.settings, key) for each in coupons]]
        ]
        found.append({"view": view, "rows": rows, "hand": hand, "coupons": len(coupons)})
    return found


@router.get("/api/practice")
def give_practice(request: Request, page: PageNumber = 1) -> Response:
    """What somebody practised, as JSON, the newest first, so many a page."""
    with request.app.state.sessions() as session:
        welder, _ = _who(request, session)
        count = practice.count(session, welder)
        kept = practice.practised(session, welder, limit=A_PAGE, skip=(page - 1) * A_PAGE)
    rows = [
        {
            "uid": row.uid,
            "made_at": row.made_at.isoformat(),
            "welder": row.welder,
            **one.model_dump(mode="json"),
        }
        for row, one in kept
    ]
    pages = max(1, -(-count // A_PAGE))
    return spoken_json(request, {"welder": welder, "count": count, "pages": pages, "practice": rows})


@router.get("/practice/progress.csv")
def give_table(request: Request) -> Response:
    """The same as a table: a line an exercise."""
    out = io.StringIO()
    table = csv.writer(out)
    table.writerow(COLUMNS)
    with request.app.state.sessions() as session:
        welder, _ = _who(request, session)
        for row, one in practice.every_practised(session, welder):
            values = (row.welder, one.skill, one.item, one.score, one.on, one.machine or "", one.seconds)
            table.writerow([row.made_at.isoformat(), *(_plain(each) for each in values)])
    headers = {"content-disposition": 'attachment; filename="practice.csv"'}
    return Response(out.getvalue(), media_type="text/csv; charset=utf-8", headers=headers)


def _plain(value: str | float) -> str | float:
    """A value that no spreadsheet takes for a formula."""
    return f"'{value}" if isinstance(value, str) and value[:1] in ("=", "+", "-", "@", "\t", "\r") else value
