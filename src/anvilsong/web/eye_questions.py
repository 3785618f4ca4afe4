"""The questions of Eye, of every kind alike: what may be asked, what is shown, how an answer is judged."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import asdict
from typing import Any

from anvilsong.core.errors import BadInput
from anvilsong.core.model import Bench
from anvilsong.core.plan import make_plan
from anvilsong.core.practice import AnswerResult
from anvilsong.core.practice.eye import (
    BORDERS,
    EP_APART,
    MENDS,
    MISHAPS,
    OF_FOUR,
    SIGNS,
    TIPS,
    CouponRun,
    FaultQuestion,
    OddQuestion,
    Sight,
    SizeQuestion,
    TipQuestion,
    TwoQuestion,
    answers_of,
    ends_with,
    fault_question,
    mean_sight,
    near,
    odd_question,
    right_answers,
    score_of,
    size_question,
    tip_question,
    two_question,
)
from anvilsong.core.quantities import parse
from anvilsong.core.settings import Settings
from anvilsong.core.torch.tungsten import STATE_WORDS
from anvilsong.core.units import UnitSystem
from anvilsong.core.words import sentence
from anvilsong.store.reading import digest
from anvilsong.web.job_view import JobView

KINDS: dict[str, str] = {
    "fault": "What went wrong?",
    "size": "Border and bead",
    "two": "Which had more EP?",
    "odd": "The odd one",
    "tip": "Tungsten tips",
}
PICTURED = {"fault": 1, "size": 1, "two": 2, "odd": OF_FOUR, "tip": 0}  # photographs of a question
ITEMS: dict[str, tuple[str, ...]] = {
    "fault": tuple(f"fault:{key}" for key in MISHAPS),
    "size": tuple(f"size:{key}" for key in BORDERS),
    "two": tuple(f"two:{key}" for key in EP_APART),
    "odd": tuple(f"odd:{key}" for key in MISHAPS),
    "tip": tuple(f"tip:{key}" for key in TIPS),
}
SIZES = ("border", "bead")
MOST_MM = 60.0
Question = FaultQuestion | SizeQuestion | TwoQuestion | OddQuestion | TipQuestion


def planned_run(view: JobView, bench: Bench) -> CouponRun:
    """The coupon as it is wanted of a job: as the plan has it, else as it is set, else as it would be planned
    today, whichever shows no sign of a fault; where all do, as planned.
    """
    found: list[CouponRun] = []
    for settings in _ways(view, bench):
        if settings is not None:
            found.append(CouponRun(view.job, settings, bench))
            if not signs_as_planned(found[-1]):
                return found[-1]
    return found[0]


def _ways(view: JobView, bench: Bench) -> Iterator[Settings | None]:
    yield view.planned
    yield view.settings
    yield make_plan(view.job, bench.machine, bench.kit, bench.c).settings


def signs_as_planned(planned: CouponRun) -> tuple[str, ...]:
    """The signs that show on such a job although nothing goes wrong; none, where it can be asked about."""
    return mean_sight(planned, planned).signs


def ask(planned: CouponRun, item: str, level: int, seed: int) -> Question:
    """The question of an item at a level, the same one for the same seed.

    Raises
    ------
    BadInput : no such item, or it cannot be asked on this job
    """
    kind, _, key = item.partition(":")
    makers: dict[str, Callable[[], Question]] = {
        "fault": lambda: fault_question(planned, key, level, seed),
        "size": lambda: size_question(planned, key, level, seed),
        "two": lambda: two_question(planned, key, level, seed),
        "odd": lambda: odd_question(planned, key, level, seed),
        "tip": lambda: tip_question(planned, key, seed),
    }
    if kind not in makers:
        raise BadInput.one("item", item[:60], sentence("web.question_lost"))
    return makers[kind]()


def mark_of(item: str, seed: int) -> str:
    """What stands for an item in a page: its name would be the answer."""
    return digest([item, seed])


def item_marked(kind: str, mark: str, seed: int) -> str | None:
    """The item of a kind that a mark stands for; None where it stands for none."""
    return next((item for item in ITEMS.get(kind, ()) if mark_of(item, seed) == mark), None)


def sights_of(question: Question) -> tuple[Sight, ...]:
    """What is photographed for a question."""
    match question:
        case FaultQuestion() | SizeQuestion():
            return (question.sight,)
        case TwoQuestion() | OddQuestion():
            return question.sights
        case TipQuestion():
            return ()


def shape_of(question: Question) -> list[Any]:
    """What a question shows, whatever else the job says."""
    if isinstance(question, TipQuestion):
        return [question.state, round(question.load, 3)]
    return [{key: str(value) for key, value in asdict(sight).items()} for sight in sights_of(question)]


def is_whole(item: str, answer: AnswerResult) -> bool:
    """Whether a kept answer has all that is told of one of its kind."""
    sides, figures, told = (answer.given, answer.right), answer.figures, answer.told
    match item.partition(":")[0]:
        case "fault":
            known = all(
                side.get("sign") in SIGNS
                and side.get("change") in MENDS
                and all(side.get(name, "").partition(".")[0] in SIGNS for name in ("cause", "check"))
                for side in sides
            )
            ends = {mend: end for mend, end in told.items() if mend in MENDS}
            return (
                known
                and "coupon" in figures
                and all(end in (*SIGNS, "good") for end in ends.values())
                and ends.keys() <= figures.keys()
            )
        case "size":
            return all(name in answer.given and name in figures for name in SIZES)
        case "two":
            return (
                all(side.get("more") in ("0", "1") for side in sides)
                and {"ep_share", "border"} <= figures.keys()
            )
        case "odd":
            places = [str(place) for place in range(OF_FOUR)]
            return all(side.get("odd") in places for side in sides) and told.get("sign") in SIGNS
        case "tip":
            is_known = all(side.get("tip") in TIPS for side in sides)
            return is_known and "load" in figures and told.get("state") in STATE_WORDS
        case _:
            return False


def judged(
    question: Question, level: int, form: Mapping[str, str], system: UnitSystem
) -> tuple[float, AnswerResult]:
    """The score of what somebody answered, per cent, and the answer as it is kept.

    Raises
    ------
    BadInput : something is not answered, or is none of the choices
    """
    match question:
        case FaultQuestion():
            return _fault(question, level, form)
        case SizeQuestion():
            return _size(question, level, form, system)
        case TwoQuestion():
            borders = (question.sights[0].border_mm, question.sights[1].border_mm)
            shown = AnswerResult(level=level, figures={"ep_share": question.ep_shares, "border": borders})
            return _one("more", str(question.right), ("0", "1"), form, shown)
        case OddQuestion():
            choices = tuple(str(place) for place in range(OF_FOUR))
            return _one(
                "odd",
                str(question.right),
                choices,
                form,
                AnswerResult(level=level, told={"sign": question.sign}),
            )
        case TipQuestion():
            loads = {"load": (question.load, question.load)}
            shown = AnswerResult(level=level, figures=loads, told={"state": question.state})
            return _one("tip", question.item, tuple(TIPS), form, shown)


def _one(
    name: str, right: str, choices: tuple[str, ...], form: Mapping[str, str], shown: AnswerResult
) -> tuple[float, AnswerResult]:
    said = form.get(name, "")
    if said not in choices:
        raise BadInput.one(name, said[:40] or None, sentence("practice.choose_one"))
    score = 100.0 if said == right else 0.0
    return score, shown.model_copy(update={"given": {name: said}, "right": {name: right}})


def _size(
    question: SizeQuestion, level: int, form: Mapping[str, str], system: UnitSystem
) -> tuple[float, AnswerResult]:
    true = {"border": question.sight.border_mm, "bead": question.sight.bead_width_mm}
    said: dict[str, float] = {}
    for name in SIZES:
        typed = form.get(f"{name}_mm", "").strip()
        if not typed:
            raise BadInput.one(f"{name}_mm", None, sentence("practice.type_length"))
        said[name] = parse(typed, "length", f"{name}_mm", system)
        if not 0 <= said[name] <= MOST_MM:
            raise BadInput.one(f"{name}_mm", typed[:40], sentence("practice.type_length"))
    given = {name: near(said[name], true[name], level) for name in SIZES}
    score = 100.0 * sum(way == "near" for way in given.values()) / len(SIZES)
    return score, AnswerResult(
        level=level,
        given={**given},
        right=dict.fromkeys(SIZES, "near"),
        figures={name: (said[name], true[name]) for name in SIZES},
    )


def _fault(question: FaultQuestion, level: int, form: Mapping[str, str]) -> tuple[float, AnswerResult]:
    given = answers_of(form, question.offered)
    right = right_answers(question, given)
    ends = {mend: ends_with(question.run, question.planned, mend) for mend in question.offered}
    return score_of(right, given), AnswerResult(
        level=level,
        given=given,
        right=right,
        figures={
            "coupon": (question.sight.border_mm, question.sight.bead_width_mm),
            **{mend: (sight.border_mm, sight.bead_width_mm) for mend, sight in ends.items()},
        },
        told={mend: sight.signs[0] if sight.signs else "good" for mend, sight in ends.items()},
    )
