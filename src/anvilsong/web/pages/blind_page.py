"""Two versions of a job judged blind: pieces or photographs in an order that only a helper knows."""

from __future__ import annotations

import random
from collections.abc import Iterator

from fastapi import HTTPException, Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from anvilsong.core.errors import BadInput
from anvilsong.core.said import Words
from anvilsong.core.trials import (
    LEAST_PAIRS,
    MOST_PAIRS,
    Answer,
    Blind,
    by_guessing,
    shuffled,
    sureness,
)
from anvilsong.core.words import sentence
from anvilsong.store import attachments, bench_trials, coupons
from anvilsong.store.models import BenchTrialRow
from anvilsong.web.forms import field_of
from anvilsong.web.frame import render, see_other, units
from anvilsong.web.job_view import JobView, job_view
from anvilsong.web.once import page_router
from anvilsong.web.requests import Fields, RowId, found, whole

router = page_router()

MOST_COUPONS = 200  # looked through for photographs
SURE = 0.95
ANSWERS: dict[str, Answer] = {"left": "left", "right": "right", "neither": "neither"}


@router.get("/jobs/{job_id}/blind", response_class=HTMLResponse)
def choose_blind(request: Request, job_id: RowId) -> HTMLResponse:
    """The judgements of a job, and a new one."""
    with request.app.state.sessions() as session:
        return _chosen(request, session, job_view(session, job_id, units(request)), {})


def _chosen(
    request: Request, session: Session, view: JobView, form: dict[str, str], trouble: BadInput | None = None
) -> HTMLResponse:
    listed = bench_trials.trials_of(session, view.row.id, "blind")
    return render(
        request,
        "blind.html",
        422 if trouble else 200,
        view=view,
        here="read",
        form=form,
        trouble=trouble,
        problems={field_of(problem): problem for problem in trouble.problems} if trouble else {},
        listed=[(row, one) for row in listed if (one := bench_trials.blind_of(row)) is not None],
        versions=[one for one in view.revisions if one.has_settings],
        pairs=range(LEAST_PAIRS, MOST_PAIRS + 1),
    )


@router.post("/jobs/{job_id}/blind")
def start_blind(request: Request, job_id: RowId, form: Fields) -> Response:
    """A new judgement, its order by chance."""
    make = request.app.state.sessions

    def start(session: Session) -> int:
        view = job_view(session, job_id, units(request))
        return bench_trials.add_trial(session, view.row, _shuffled(session, view, form)).id

    try:
        trial = make.write(start)
    except BadInput as trouble:
        with make() as session:
            return _chosen(request, session, job_view(session, job_id, units(request)), form, trouble)
    return see_other(f"/jobs/{job_id}/blind/{trial}")


def _shuffled(session: Session, view: JobView, form: dict[str, str]) -> Blind:
    known = {one.revision for one in view.revisions if one.has_settings}
    first, second = (whole(form.get(name)) or 0 for name in ("first", "second"))
    if not {first, second} <= known or first == second:
        raise BadInput.one("second", form.get("second", ""), sentence("web.choose_two_versions"))
    pairs = whole(form.get("pairs")) or 0
    if not LEAST_PAIRS <= pairs <= MOST_PAIRS:
        raise BadInput.one(
            "pairs", form.get("pairs", ""), sentence("web.so_many_pairs", least=LEAST_PAIRS, most=MOST_PAIRS)
        )
    piles = None
    if form.get("of") == "photographs":
        piles = tuple(list(_photographs(session, view.row.id, revision)) for revision in (first, second))
        if not all(piles):
            raise BadInput.one("of", "photographs", sentence("web.blind_wants_photographs"))
    title = f"Version {first} against version {second}"
    # Nobody may foresee the order, whoever knows the program.
    chance = random.SystemRandom()
    return shuffled(title, (first, second), pairs, chance, None if piles is None else (piles[0], piles[1]))


def _photographs(session: Session, job_id: int, revision: int) -> Iterator[str]:
    """The photographs of coupons that were run with a version."""
    run = coupons.find_coupons(session, job_id, MOST_COUPONS)
    of = [coupon.id for coupon in run if coupon.plan.revision == revision]
    for pictures in attachments.of_coupons(session, of).values():
        yield from (picture.uid for picture in pictures)


def _blind(session: Session, job_id: int, trial_id: int) -> tuple[Blind, BenchTrialRow]:
    trial: BenchTrialRow = found(bench_trials.find_trial(session, job_id, trial_id))
    return found(bench_trials.blind_of(trial)), trial


@router.get("/jobs/{job_id}/blind/{trial_id}", response_class=HTMLResponse)
def judge(request: Request, job_id: RowId, trial_id: RowId) -> HTMLResponse:
    """The next pair; after the last, which was which and what that says."""
    with request.app.state.sessions() as session:
        view = job_view(session, job_id, units(request))
        blind, trial = _blind(session, job_id, trial_id)
        return render(
            request,
            "blind_pair.html",
            view=view,
            here="read",
            blind=blind,
            trial=trial,
            place=blind.next_pair,
            said=_said(blind) if blind.next_pair is None else [],
        )


def _said(blind: Blind) -> list[Words]:
    """What all the answers together say."""
    first, second, neither = blind.preferred
    decided, most = first + second, max(first, second)
    said: list[Words] = []
    if decided and by_guessing(most, decided) < 1:
        better = blind.revisions[0 if first > second else 1]
        said.append(sentence("web.blind_preferred", revision=better, preferred=most, decided=decided))
        sure = sureness(most, decided)
        said.append(sentence("web.blind_sure", sure=sure, guessed=by_guessing(most, decided)))
        if sure < SURE:
            said.append(sentence("web.blind_more_pairs"))
    else:
        said.append(sentence("web.blind_same_as_guessing"))
    if neither:
        said.append(sentence("web.blind_neither", neither=neither))
    return said


@router.get("/jobs/{job_id}/blind/{trial_id}/helper", response_class=HTMLResponse)
def show_helper(request: Request, job_id: RowId, trial_id: RowId) -> HTMLResponse:
    """Which piece lies where: for the one who lays them out, not for the one who judges."""
    with request.app.state.sessions() as session:
        view = job_view(session, job_id, units(request))
        blind, trial = _blind(session, job_id, trial_id)
        if any(pair.photographs for pair in blind.pairs):
            raise HTTPException(404)
        return render(request, "blind_helper.html", view=view, here="read", blind=blind, trial=trial)


@router.get("/jobs/{job_id}/blind/{trial_id}/picture/{place}/{side}")
def show_side(request: Request, job_id: RowId, trial_id: RowId, place: int, side: str) -> Response:
    """One side's photograph under an address that does not say whose it is."""
    with request.app.state.sessions() as session:
        blind, _ = _blind(session, job_id, trial_id)
        if side not in ("left", "right") or not 0 <= place < len(blind.pairs):
            raise HTTPException(404)
        pair = blind.pairs[place]
        shown = found(pair.photographs)
        name = shown[0 if (side == "left") == pair.first_is_left else 1]
        row = found(attachments.find_named(session, job_id, name))
        return Response(row.content, media_type=row.media_type, headers={"cache-control": "no-store"})


@router.post("/jobs/{job_id}/blind/{trial_id}")
def answer_pair(request: Request, job_id: RowId, trial_id: RowId, form: Fields) -> Response:
    """The answer to one pair; an answer to a pair that was answered already changes nothing."""

    def answer(session: Session) -> None:
        blind, trial = _blind(session, job_id, trial_id)
        given = ANSWERS.get(form.get("answer", ""))
        place = blind.next_pair
        if given is not None and place is not None and whole(form.get("pair")) == place + 1:
            bench_trials.keep_blind(session, trial, blind.answered(place, given))

    request.app.state.sessions.write(answer)
    return see_other(f"/jobs/{job_id}/blind/{trial_id}")
