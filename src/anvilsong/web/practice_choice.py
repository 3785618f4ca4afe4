"""What an exercise is done on, and by whom, as an address or a form asks for it."""

from __future__ import annotations

import contextlib
import secrets
from collections.abc import Callable, Mapping, Sequence
from typing import Any, TypeVar
from urllib.parse import urlencode

from fastapi import HTTPException
from sqlalchemy.orm import Session
from starlette.requests import HTTPConnection

from anvilsong.core.errors import BadInput
from anvilsong.core.practice import AnswerResult, Practised, Skill
from anvilsong.core.practice.spacing import Answered, next_item
from anvilsong.core.words import sentence
from anvilsong.store import practice, shop
from anvilsong.store.lines import book_page
from anvilsong.store.models import now
from anvilsong.store.practice import Kept
from anvilsong.store.reading import digest
from anvilsong.web.asgi import VISIT
from anvilsong.web.job_view import JobView, UnreadableJob, job_view
from anvilsong.web.requests import whole

LAST_JOBS, MOST_ANSWERS, MOST_SEED = 12, 500, 10**6
Question = TypeVar("Question")


def chosen_job(
    session: Session,
    asked: Mapping[str, str],
    strictly: bool = False,
    fits: Callable[[JobView], bool] = lambda _view: True,
) -> JobView | None:
    """The job that is asked for, else the one changed last that can be welded; None without any.
    ``strictly``: a job that is asked for and cannot be welded has no other in its place. ``fits``: of those
    that are not asked for, one that fits goes before the others.
    """
    number = whole(asked.get("job"))
    if strictly and asked.get("job") is not None:
        job_ids = [number] if number else []
    else:
        lines = book_page(session, most=LAST_JOBS).lines
        job_ids = [*([number] if number else []), *(line.job_id for line in lines if line.settings)]
    first: JobView | None = None
    for job_id in job_ids:
        with contextlib.suppress(HTTPException, UnreadableJob):
            view = job_view(session, job_id)
            if not view.plan.refused:
                first = first or view
                if job_id == number or fits(view):
                    return view
    return first


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


def next_question(
    items: Sequence[str], done: Sequence[Kept], make: Callable[[str, int], Question]
) -> tuple[Question, int]:
    """The question to ask next, by what was answered before (the newest first), with its seed; items that
    cannot be asked here are passed over.

    Raises
    ------
    BadInput : none of them can
    """
    answers = [
        Answered(one.item, one.score >= 100, row.made_at)
        for row, one in reversed(done)
        if one.answer is not None
    ]
    left, seed = list(items), secrets.randbelow(MOST_SEED)
    while left:
        item = next_item(left, answers, now(), seed)
        try:
            return make(item, seed), seed
        except BadInput:
            left.remove(item)
    raise BadInput.one("item", None, sentence("practice.stands_still"))


def check_same(asked: Mapping[str, str], shown: Any) -> None:
    """That a question, or a rhythm, is still the one that its form was opened on: a job or a machine may have
    been changed in another window.

    Raises
    ------
    BadInput : it is another one
    """
    if asked.get("shown") != digest(shown):
        raise BadInput.one("item", asked.get("item", "")[:60], sentence("web.question_lost"))


def answered_before(
    session: Session, asked: Mapping[str, str], skill: Skill, is_whole: Callable[[str, AnswerResult], bool]
) -> Practised | None:
    """The question that was answered last, by its number in the address; None where it is of another skill.
    ``is_whole`` says of an item and its answer whether all is there that the page tells: an answer that came
    in from a file may be any.
    """
    last = practice.find_practised(session, whole(asked.get("done")) or 0)
    if last is None or last[1].answer is None or last[1].skill != skill:
        return None
    return last[1] if is_whole(last[1].item, last[1].answer) else None


def address_after(path: str, view: JobView, welder: str, **asked: object) -> str:
    """Where the next question is: of the same job, and counted for the same welder."""
    return f"{path}?{urlencode({'job': view.row.id, 'welder': welder, **asked})}"


def seed_of(asked: Mapping[str, str]) -> int | None:
    """The seed of the question that a form was opened on; None where it carries none."""
    seed = whole(asked.get("seed"))
    return None if seed is None else seed % MOST_SEED
