"""Panels: the same setting on different machines' panels, and amps for equal heat; the answer is a figure."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from fastapi import Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from anvilsong.core import say
from anvilsong.core.errors import BadInput
from anvilsong.core.machine import Machine
from anvilsong.core.practice import AnswerResult, Practised
from anvilsong.core.practice.panels import ITEMS, PanelQuestion, is_right, panel_question, read_figure
from anvilsong.core.practice.thumb import THUMB_ITEMS, thumb_question
from anvilsong.core.quantities import parse
from anvilsong.core.units import UnitSystem
from anvilsong.core.words import sentence
from anvilsong.store import practice, shop
from anvilsong.store.reading import digest
from anvilsong.web.frame import render, see_other, units
from anvilsong.web.job_view import JobView
from anvilsong.web.once import page_router
from anvilsong.web.practice_choice import (
    MOST_ANSWERS,
    address_after,
    answered_before,
    check_same,
    chosen_job,
    chosen_welder,
    next_question,
    seed_of,
)
from anvilsong.web.requests import Fields, typed_query, whole

router = page_router()
EVERY_ITEM = (*ITEMS, *THUMB_ITEMS)


def _page(
    request: Request, session: Session, asked: Mapping[str, str], trouble: BadInput | None = None
) -> HTMLResponse:
    view = chosen_job(session, asked)
    if view is None:
        return render(request, "panels_practice.html", 422 if trouble else 200, here="practice", view_of=None)
    welder, machines = chosen_welder(session, request, asked, view), shop.machines(session)
    done = practice.practised(session, welder, "panels", MOST_ANSWERS)
    told = answered_before(
        session, asked, "panels", lambda _, answer: "answer" in answer.given and "answer" in answer.right
    )
    question, seed = _question(view, machines, asked, done)
    return render(
        request,
        "panels_practice.html",
        422 if trouble else 200,
        here="practice",
        view_of=view,
        welders=[row.name for row in shop.welders(session)],
        welder=welder,
        question=question,
        seed=seed,
        shown=digest(_shape(question)),
        answered=told,
        before=_asked_before(view, machines, told),
        typed=asked.get("answer", "") if trouble else "",
        right=sum(one.score >= 100 for _, one in done),
        count=len(done),
        trouble=trouble,
    )


def _question(
    view: JobView, machines: Sequence[Machine], asked: Mapping[str, str], done: list[practice.Kept]
) -> tuple[PanelQuestion, int]:
    """The question that a form was opened on, or the next one."""

    def make(item: str, seed: int) -> PanelQuestion:
        return _asked(view, machines, item, seed)

    seed = seed_of(asked)
    if seed is not None and asked.get("item") in EVERY_ITEM:
        return make(asked["item"], seed), seed
    return next_question(EVERY_ITEM, done, make)


def _asked(view: JobView, machines: Sequence[Machine], item: str, seed: int) -> PanelQuestion:
    if item in THUMB_ITEMS:
        return thumb_question(view.machine, item, seed)
    return panel_question(machines, view.settings, item, seed)


def _read(question: PanelQuestion, text: str, system: UnitSystem) -> float:
    """What was answered: a plain figure, or a length with its unit."""
    if question.dimension is None:
        return read_figure(text)
    if not text.strip():
        raise BadInput.one("answer", None, sentence("practice.type_rod"))
    return parse(text.strip()[:40], question.dimension, "answer", system)


def _shape(question: PanelQuestion) -> list[str]:
    """What a question asks, in words."""
    return [question.item, say.in_units(question.asked)]


def _asked_before(view: JobView, machines: Sequence[Machine], told: Practised | None) -> PanelQuestion | None:
    """The question that was answered last; None where it cannot be asked any more."""
    seed = whole(told.answer.given.get("seed")) if told is not None and told.answer is not None else None
    if told is None or seed is None:
        return None
    try:
        return _asked(view, machines, told.item, seed)
    except BadInput:
        return None


@router.get("/practice/panels", response_class=HTMLResponse)
def show_panels(request: Request) -> HTMLResponse:
    """The next question, and what came of the one before it."""
    with request.app.state.sessions() as session:
        asked = {name: text for name, text in typed_query(request).items() if name != "seed"}
        return _page(request, session, asked)


@router.post("/practice/panels")
def answer_panels(request: Request, form: Fields) -> Response:
    """A figure that somebody gave, against the panel; stored."""
    make = request.app.state.sessions
    try:
        with make.begin() as session:
            view, seed = chosen_job(session, form, strictly=True), seed_of(form)
            if view is None or seed is None or form.get("item") not in EVERY_ITEM:
                raise BadInput.one("item", form.get("item", "")[:60], sentence("web.question_lost"))
            question = _asked(view, shop.machines(session), form["item"], seed)
            check_same(form, _shape(question))
            figure = _read(question, form.get("answer", ""), units(request))
            done = Practised(
                skill="panels",
                item=question.item,
                score=100 if is_right(question, figure) else 0,
                on=view.row.title,
                answer=AnswerResult(
                    given={"answer": form["answer"].strip()[:40], "seed": str(seed)},
                    right={"answer": say.in_units(question.shown)[:40]},
                    figures={"answer": (figure, question.right)},
                ),
            )
            welder = chosen_welder(session, request, form, view)
            row = practice.add_practised(session, welder, done)
            address = address_after("/practice/panels", view, welder, done=row.id)
    except BadInput as trouble:
        with make() as session:
            return _page(request, session, form, trouble)
    return see_other(address)
