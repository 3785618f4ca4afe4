"""Eye: coupons and tungsten tips from the model, judged by sight."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Annotated, Any

from fastapi import HTTPException, Query, Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from anvilsong.core import say
from anvilsong.core.bead import find_sign
from anvilsong.core.errors import BadInput
from anvilsong.core.practice import Practised
from anvilsong.core.practice.changes import ASKED_FOR_NEXT, UP_TO_NEXT
from anvilsong.core.practice.eye import (
    LEVELS,
    MENDS,
    SIGNS,
    TIPS,
    CouponRun,
    FaultQuestion,
    TipQuestion,
    choices_of,
    facts_of,
)
from anvilsong.core.torch.tungsten import STATE_WORDS
from anvilsong.core.words import sentence
from anvilsong.store import practice, shop
from anvilsong.store.practice import Kept
from anvilsong.store.reading import digest
from anvilsong.web.drawings.eye_tip import eye_tip_drawing
from anvilsong.web.drawings.signs import sign_drawing
from anvilsong.web.eye_pictures import HIGH_PX, SMALL_HIGH_PX, SMALL_WIDE_PX, WIDE_PX, photograph_of
from anvilsong.web.eye_questions import (
    ITEMS,
    KINDS,
    PICTURED,
    Question,
    ask,
    is_whole,
    item_marked,
    judged,
    mark_of,
    planned_run,
    shape_of,
    sights_of,
    signs_as_planned,
)
from anvilsong.web.frame import render, see_other, units
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
TEMPLATE = "eye_practice.html"
KEPT_FOR = "private, max-age=600"


def _page(
    request: Request, session: Session, asked: Mapping[str, str], trouble: BadInput | None = None
) -> HTMLResponse:
    status = 422 if trouble else 200
    view = chosen_job(session, asked, fits=lambda one: _shows_nothing(session, one))
    if view is None:
        return render(request, TEMPLATE, status, here="practice", view_of=None, kinds=KINDS, kind="fault")
    kind, welder = _kind(asked), chosen_welder(session, request, asked, view)
    done = [
        each
        for each in practice.practised(session, welder, "eye", MOST_ANSWERS)
        if each[1].item.startswith(f"{kind}:")
    ]
    level = _level(asked, done)
    planned = planned_run(view, shop.bench_of(session, view.job))
    try:
        question, item, seed = _question(planned, kind, level, asked, done)
    except BadInput as cannot:
        question, item, seed, trouble = None, "", 0, trouble or cannot
    shows = [] if question else signs_as_planned(planned)
    told = answered_before(session, asked, "eye", is_whole)
    return render(
        request,
        TEMPLATE,
        status,
        here="practice",
        view_of=view,
        jobs=choosable_jobs(session, view),
        welders=[row.name for row in shop.welders(session)],
        welder=welder,
        kinds=KINDS,
        kind=kind,
        level=level,
        levels=LEVELS,
        question=question,
        shows=shows,
        seed=seed,
        mark=mark_of(item, seed),
        shown=digest(shape_of(question)) if question else "",
        pictures=_pictures(view.row.id, kind, level, seed, mark_of(item, seed)) if question else None,
        pictures_before=_pictures_before(view, told) if told else None,
        asked=_asked(planned, question, level, seed),
        answered=told,
        mends=MENDS,
        tips=TIPS,
        states=STATE_WORDS,
        kind_told=told.item.partition(":")[0] if told else "",
        sign_words=lambda key: find_sign(key).words,
        cause_words=_cause_words,
        check_words=_check_words,
        form=asked if trouble else {},
        right=sum(one.score >= 100 for _, one in done),
        count=len(done),
        trouble=trouble,
    )


def _shows_nothing(session: Session, view: JobView) -> bool:
    """Whether a coupon of the job is as wanted when nothing goes wrong."""
    return not signs_as_planned(planned_run(view, shop.bench_of(session, view.job)))


def _kind(asked: Mapping[str, str]) -> str:
    kind = asked.get("kind", "fault")
    return kind if kind in KINDS else "fault"


def _level(asked: Mapping[str, str], done: Sequence[Kept]) -> int:
    """The level that is asked for; else that of the last answers, or one more where nearly all were right."""
    wanted = whole(asked.get("level"))
    if wanted in LEVELS:
        return wanted
    levels = [one.answer.level for _, one in done if one.answer]
    level = min(levels[0], LEVELS[-1]) if levels else LEVELS[0]
    last = [one.score >= 100 for _, one in done if one.answer and one.answer.level == level][:ASKED_FOR_NEXT]
    is_known = len(last) == ASKED_FOR_NEXT and sum(last) >= UP_TO_NEXT * len(last)
    return min(level + is_known, LEVELS[-1])


def _question(
    planned: CouponRun, kind: str, level: int, asked: Mapping[str, str], done: Sequence[Kept]
) -> tuple[Question, str, int]:
    """The question that a form was opened on, or the next one, with its item and seed."""
    seed = seed_of(asked)
    item = item_marked(kind, asked.get("of", ""), seed) if seed is not None else None
    if seed is not None and item is not None:
        return ask(planned, item, level, seed), item, seed

    def make(item: str, seed: int) -> tuple[Question, str]:
        return ask(planned, item, level, seed), item

    (question, item), seed = next_question(ITEMS[kind], done, make)
    return question, item, seed


def _pictures(job_id: int, kind: str, level: int, seed: int, mark: str) -> dict[str, Any]:
    """Where the photographs of a question are, and their size."""
    count = PICTURED[kind]
    asked = f"job={job_id}&kind={kind}&level={level}&seed={seed}&of={mark}"
    size = (WIDE_PX, HIGH_PX) if count == 1 else (SMALL_WIDE_PX, SMALL_HIGH_PX)
    return {
        "addresses": [f"/practice/eye/picture?{asked}&place={place}" for place in range(count)],
        "width": size[0],
        "height": size[1],
    }


def _pictures_before(view: JobView, told: Practised) -> dict[str, Any] | None:
    """The photographs of the question that was answered last, while it is of the same job."""
    answer, kind = told.answer, told.item.partition(":")[0]
    seed = whole(answer.told.get("seed")) if answer else None
    if answer is None or seed is None or kind not in PICTURED or told.on != view.row.title:
        return None
    return _pictures(view.row.id, kind, answer.level, seed, answer.told.get("of", ""))


def _asked(planned: CouponRun, question: Question | None, level: int, seed: int) -> dict[str, Any]:
    """What is told and may be chosen, beside the pictures."""
    match question:
        case FaultQuestion():
            return {
                "facts": facts_of(question.run, planned, question.sight.seconds),
                "with_plan": level == LEVELS[0],
                "signs": [
                    (key, find_sign(key).words, sign_drawing(key, find_sign(key).words)) for key in SIGNS
                ],
                "causes": {key: choices_of(key) for key in SIGNS},
                # By their words, not in the order of the causes.
                "checks": {
                    key: dict(sorted(_checks(key).items(), key=lambda each: say.in_units(each[1])))
                    for key in SIGNS
                },
            }
        case TipQuestion():
            tungsten = question.settings.tungsten
            assert tungsten is not None
            return {"tip": eye_tip_drawing(tungsten, question.state), "tungsten": tungsten}
        case _:
            return {}


def _checks(sign: str) -> dict[str, Any]:
    return {f"{sign}.{cause.key}": cause.check for cause in find_sign(sign).cause}


def _cause_words(key: str) -> str:
    return choices_of(key.partition(".")[0]).get(key, "")


def _check_words(key: str) -> Any:
    return _checks(key.partition(".")[0]).get(key, "")


@router.get("/practice/eye", response_class=HTMLResponse)
def show_eye(request: Request) -> HTMLResponse:
    """The next question of a kind, and what came of the one before it."""
    with request.app.state.sessions() as session:
        asked = {name: text for name, text in typed_query(request).items() if name not in ("seed", "of")}
        return _page(request, session, asked)


@router.get("/practice/eye/picture")
def show_coupon(request: Request, place: Annotated[int, Query(ge=0, le=9)] = 0) -> Response:
    """One of a question's photographs."""
    with request.app.state.sessions() as session:
        asked = typed_query(request)
        view, seed, kind = chosen_job(session, asked, strictly=True), seed_of(asked), _kind(asked)
        item = item_marked(kind, asked.get("of", ""), seed) if seed is not None else None
        if view is None or seed is None or item is None:
            raise HTTPException(404)
        level = _level(asked, [])
        planned = planned_run(view, shop.bench_of(session, view.job))
    try:
        sights = sights_of(ask(planned, item, level, seed))
    except BadInput:
        raise HTTPException(404) from None
    if place >= len(sights):
        raise HTTPException(404)
    taken = photograph_of(sights[place], level, 10 * seed + place, len(sights) > 1)
    return Response(taken, media_type="image/jpeg", headers={"cache-control": KEPT_FOR})


@router.post("/practice/eye")
def answer_eye(request: Request, form: Fields) -> Response:
    """What somebody saw, against what the model put there; stored."""
    make = request.app.state.sessions
    try:
        with make.begin() as session:
            view, seed, kind = chosen_job(session, form, strictly=True), seed_of(form), _kind(form)
            item = item_marked(kind, form.get("of", ""), seed) if seed is not None else None
            level = whole(form.get("level"))
            if view is None or seed is None or item is None or level not in LEVELS:
                raise BadInput.one("item", form.get("of", "")[:60], sentence("web.question_lost"))
            question = ask(planned_run(view, shop.bench_of(session, view.job)), item, level, seed)
            check_same(form, shape_of(question))
            score, answer = judged(question, level, form, units(request))
            shown = {**answer.told, "seed": str(seed), "of": mark_of(item, seed)}
            answer = answer.model_copy(update={"told": shown})
            done = Practised(
                skill="eye",
                item=item,
                score=score,
                on=view.row.title,
                machine=view.job.machine,
                answer=answer,
            )
            welder = chosen_welder(session, request, form, view)
            row = practice.add_practised(session, welder, done)
            address = address_after("/practice/eye", view, welder, kind=kind, level=level, done=row.id)
    except BadInput as trouble:
        with make() as session:
            return _page(request, session, form, trouble)
    return see_other(address)
