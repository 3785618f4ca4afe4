"""Progress: what a welder practised, skill by skill over the weeks, the next twenty minutes at the bench, and
all of it as a file.
"""

from __future__ import annotations

import csv
import io

from fastapi import Request
from fastapi.responses import HTMLResponse, Response

from anvilsong.core.practice.progress import SKILLS, by_week, next_at_the_bench, standing
from anvilsong.store import practice, shop
from anvilsong.store.practice import Kept
from anvilsong.web.asgi import VISIT
from anvilsong.web.drawings.progress import progress_drawing
from anvilsong.web.frame import part, render, spoken_json
from anvilsong.web.once import page_router
from anvilsong.web.requests import typed_query

router = page_router()

MOST_SHOWN = 5000
COLUMNS = ("made_at", "welder", "skill", "item", "score", "on", "machine", "seconds")


def _kept(request: Request, most: int | None = MOST_SHOWN) -> tuple[str, list[str], list[Kept]]:
    """Whose practice is asked for, whose there is, and what they did, the newest first."""
    visit = request.scope.get(VISIT)
    with request.app.state.sessions() as session:
        names = sorted(
            {*practice.welders_practised(session), *(row.name for row in shop.welders(session))} - {""}
        )
        usual = visit.who if visit and visit.who in names else ""
        welder = typed_query(request).get("welder", usual)[:60]
        return welder, names, practice.practised(session, welder, limit=most)


@router.get("/practice/progress", response_class=HTMLResponse)
def show_progress(request: Request) -> HTMLResponse:
    """What somebody practised."""
    welder, names, kept = _kept(request)
    done = [(row.made_at, one) for row, one in kept]
    weeks = by_week(done)
    return render(
        request,
        "progress.html",
        here="practice",
        welder=welder,
        welders=names,
        skills=SKILLS,
        standing=standing(done),
        counts={skill: sum(week.times for week in of) for skill, of in weeks.items()},
        drawing=part("progress", lambda: progress_drawing(weeks)) if weeks else "",
        bench=next_at_the_bench(done) if done else [],
    )


@router.get("/api/practice")
def give_practice(request: Request) -> Response:
    """All that somebody practised, as JSON."""
    welder, _, kept = _kept(request, None)
    rows = [
        {
            "uid": row.uid,
            "made_at": row.made_at.isoformat(),
            "welder": row.welder,
            **one.model_dump(mode="json"),
        }
        for row, one in kept
    ]
    return spoken_json(request, {"welder": welder, "practice": rows})


@router.get("/practice/progress.csv")
def give_table(request: Request) -> Response:
    """The same as a table: a line an exercise."""
    _, _, kept = _kept(request, None)
    out = io.StringIO()
    table = csv.writer(out)
    table.writerow(COLUMNS)
    for row, one in kept:
        values = (one.skill, one.item, one.score, one.on, one.machine or "", one.seconds)
        table.writerow([row.made_at.isoformat(), *(_plain(each) for each in (row.welder, *values))])
    headers = {"content-disposition": 'attachment; filename="practice.csv"'}
    return Response(out.getvalue(), media_type="text/csv; charset=utf-8", headers=headers)


def _plain(value: str | float) -> str | float:
    """A value that no spreadsheet takes for a formula."""
    return f"'{value}" if isinstance(value, str) and value[:1] in ("=", "+", "-", "@", "\t", "\r") else value
