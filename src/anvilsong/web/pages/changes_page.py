"""What changes? One setting turned, or two: say which way pool, border, tungsten and noise go."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from fastapi import Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from anvilsong.core import say
from anvilsong.core.errors import BadInput
from anvilsong.core.model import Bench
from anvilsong.core.practice import AnswerResult, Practised
from anvilsong.core.practice.changes import (
    ASKED_FOR_NEXT,
    FIGURES,
    LEVELS,
    UP_TO_NEXT,
    WAYS,
    Turn,
    items_of,
    moved_by,
    score_of,
    turn,
)
from anvilsong.core.registry import BY_KEY, get_value
from anvilsong.core.words import sentence
from anvilsong.store import practice, shop
from anvilsong.store.practice import Kept
from anvilsong.store.reading import digest
from anvilsong.web.frame import render, see_other
from anvilsong.web.job_view import JobView
from anvilsong.web.once import page_router
from anvilsong.web.practice_choice import (
    MOST_ANSWERS,
    address_after,
    answered_before,
    check_same,
    choosable_jobs,
    chosen_job,
    chosen_welder,
    next_question,
    seed_of,
)
from anvilsong.web.requests import Fields, typed_query, whole

router = page_router()


def _page(
    request: Request, session: Session, asked: Mapping[str, str], trouble: BadInput | None = None
) -> HTMLResponse:
    view = chosen_job(session, asked)
    if view is None:
        return render(
            request, "changes_practice.html", 422 if trouble else 200, here="practice", view_of=None
        )
    welder = chosen_welder(session, request, asked, view)
    done = practice.practised(session, welder, "changes", MOST_ANSWERS)
    level = _level(asked, done)
    bench = shop.bench_of(session, view.job)
    question, seed = _question(view, bench, level, asked, done)
    told = answered_before(session, asked, "changes", _is_whole)
    return render(
        request,
        "changes_practice.html",
        422 if trouble else 200,
        here="practice",
        view_of=view,
        jobs=choosable_jobs(session, view),
        welders=[row.name for row in shop.welders(session)],
        welder=welder,
        level=level,
        levels=LEVELS,
        question=question,
        seed=seed,
        shown=digest(_shape(question)),
        turned=[
            (
                BY_KEY[key].words,
                _shown(key, get_value(question.before, key)),
                _shown(key, get_value(question.after, key)),
            )
            for key in question.turned
        ],
        figures=FIGURES,
        ways=WAYS,
        form=asked if trouble else {},
        answered=told,
        told_turned=[
            (BY_KEY[key].words, _shown(key, before), _shown(key, after))
            for key, (before, after) in (told.answer.turned if told and told.answer else {}).items()
            if key in BY_KEY
        ],
        right=sum(one.answer.is_right for _, one in done if one.answer),
        count=len(done),
        trouble=trouble,
    )


def _is_whole(_item: str, answer: AnswerResult) -> bool:
    """Whether each figure's way was asked, answered and kept."""
    return all(
        answer.given.get(name) in WAYS and answer.right.get(name) in WAYS and name in answer.figures
        for name in FIGURES
    )


def _shape(question: Turn) -> list[Any]:
    """What a question asks, whatever else the job says."""
    return [[key, get_value(question.before, key), get_value(question.after, key)] for key in question.turned]


def _shown(key: str, value: float) -> object:
    entry = BY_KEY[key]
    assert entry.dimension is not None
    return say.setting(value, entry.dimension, entry.decimals)


def _level(asked: Mapping[str, str], done: list[Kept]) -> int:
    """The level that is asked for; else the second one for who answers the first nearly always rightly."""
    wanted = whole(asked.get("level"))
    if wanted in LEVELS:
        return wanted
    first = [one.score >= 100 for _, one in done if one.answer and one.answer.level == 1][:ASKED_FOR_NEXT]
    return 2 if len(first) == ASKED_FOR_NEXT and sum(first) >= UP_TO_NEXT * len(first) else 1


def _question(
    view: JobView, bench: Bench, level: int, asked: Mapping[str, str], done: list[Kept]
) -> tuple[Turn, int]:
    """The question that a form was opened on, or the next one."""

    def make(item: str, seed: int) -> Turn:
        return turn(view.job, view.settings, bench, item, seed)

    seed = seed_of(asked)
    if seed is not None and asked.get("item") in items_of(level):
        return make(asked["item"], seed), seed
    return next_question(items_of(level), done, make)


@router.get("/practice/changes", response_class=HTMLResponse)
def show_question(request: Request) -> HTMLResponse:
    """The next question, and what came of the one before it."""
    with request.app.state.sessions() as session:
        return _page(
            request, session, {name: text for name, text in typed_query(request).items() if name != "seed"}
        )


@router.post("/practice/changes")
def answer_question(request: Request, form: Fields) -> Response:
    """What somebody said, against the model; stored."""
    make = request.app.state.sessions
    try:
        with make.begin() as session:
            view = chosen_job(session, form, strictly=True)
            if view is None:
                raise BadInput.one("job", form.get("job", ""), sentence("web.run_no_job"))
            given = {name: way for name in FIGURES for way in WAYS if form.get(name) == way}
            missing = [words for name, words in FIGURES.items() if name not in given]
            if missing:
                raise BadInput.one("answer", None, sentence("web.say_each", missing=", ".join(missing)))
            level = _level(form, [])
            bench = shop.bench_of(session, view.job)
            seed = seed_of(form)
            if seed is None or form.get("item") not in items_of(level):
                raise BadInput.one("item", form.get("item", "")[:60], sentence("web.question_lost"))
            question = turn(view.job, view.settings, bench, form["item"], seed)
            check_same(form, _shape(question))
            right = moved_by(view.job, bench, question)
            done = Practised(
                skill="changes",
                item=question.item,
                score=score_of(right, given),
                on=view.row.title,
                machine=view.job.machine,
                answer=AnswerResult(
                    level=level,
                    given=given,
                    right={name: moved.way for name, moved in right.items()},
                    figures={name: (moved.before, moved.after) for name, moved in right.items()},
                    turned={
                        key: (get_value(question.before, key), get_value(question.after, key))
                        for key in question.turned
                    },
                ),
            )
            welder = chosen_welder(session, request, form, view)
            row = practice.add_practised(session, welder, done)
            address = address_after("/practice/changes", view, welder, level=level, done=row.id)
    except BadInput as trouble:
        with make() as session:
            return _page(request, session, form, trouble)
    return see_other(address)
