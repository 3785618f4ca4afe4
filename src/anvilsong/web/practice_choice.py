"""What an exercise is done on, and by whom, as an address or a form asks for it."""

from __future__ import annotations

import contextlib
from collections.abc import Mapping

from fastapi import HTTPException
from sqlalchemy.orm import Session
from starlette.requests import HTTPConnection

from anvilsong.store import shop
from anvilsong.store.lines import book_page
from anvilsong.web.asgi import VISIT
from anvilsong.web.job_view import JobView, UnreadableJob, job_view
from anvilsong.web.requests import whole

LAST_JOBS = 12


def chosen_job(session: Session, asked: Mapping[str, str]) -> JobView | None:
    """The job that is asked for, or the one changed last that can be welded; None without any."""
    number = whole(asked.get("job"))
    lines = [] if number else book_page(session, most=LAST_JOBS).lines
    for job_id in [number] if number else [line.job_id for line in lines if line.settings]:
        with contextlib.suppress(HTTPException, UnreadableJob):
            view = job_view(session, job_id)
            if not view.plan.refused:
                return view
    return None


def choosable_jobs(session: Session, view: JobView) -> list[tuple[int, str]]:
    """Jobs to choose from, by number and title: those changed last, and the one that is chosen."""
    lines = book_page(session, most=LAST_JOBS).lines
    found = [(line.job_id, line.title) for line in lines if line.settings]
    here = (view.row.id, view.row.title)
    return found if here in found else [here, *found]


def chosen_welder(
    session: Session, connection: HTTPConnection, asked: Mapping[str, str], view: JobView
) -> str:
    """The name of who practises: who is asked for, who came in, or the job's own welder; empty for nobody."""
    visit = connection.scope.get(VISIT)
    usual = (visit.who if visit else "") or (view.row.welder.name if view.row.welder else "")
    named = asked.get("welder", usual)
    return named if named in {row.name for row in shop.welders(session)} else ""
