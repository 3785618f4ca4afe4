"""How a welder's practice goes: each skill week by week, and what to do in the next twenty minutes at the
bench.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from datetime import date, datetime, timedelta
from typing import Literal, NamedTuple

from anvilsong.core.bead import LooksVerdict
from anvilsong.core.practice.practised import Skill
from anvilsong.core.said import Words
from anvilsong.core.words import sentence

WEEKS, LAST, STRONG = 26, 8, 85.0
SKILLS: dict[Skill, str] = {
    "pedal": "Pedal",
    "rhythm": "Rhythm",
    "eye": "Eye",
    "panels": "Panels",
    "changes": "What changes?",
}
Counted = Skill | Literal["bench"]
COUNTED: dict[Counted, str] = dict([*SKILLS.items(), ("bench", "Real coupons")])


class Done(NamedTuple):
    """An exercise that was done, or a real coupon: when, of which skill, and its score in per cent."""

    at: datetime
    skill: Counted
    score: float


class Week(NamedTuple):
    """What was done of a skill in a week: its Monday, the mean score, and how often."""

    monday: date
    score: float
    times: int


class Step(NamedTuple):
    """One thing to do at the bench, and the skill it is for; None for whoever stands well in all."""

    skill: Counted | None
    words: Words


def coupon_score(verdict: LooksVerdict) -> float:
    """What a real coupon counts, per cent: how much of what was measured and looked at is as wanted."""
    seen = [not verdict.signs and not verdict.flaws]
    if verdict.border_state is not None:
        seen += [verdict.border_state == "as_wanted", not verdict.uneven]
    if verdict.width_miss is not None:
        seen.append(abs(verdict.width_miss) <= 1)
    return 100 * sum(seen) / len(seen)


def by_week(done: Sequence[Done]) -> dict[Counted, tuple[Week, ...]]:
    """Each skill that was practised, week by week, the oldest first; weeks without any are left out."""
    found: dict[Counted, dict[date, list[float]]] = defaultdict(lambda: defaultdict(list))
    for one in done:
        found[one.skill][one.at.date() - timedelta(days=one.at.weekday())].append(one.score)
    return {
        skill: tuple(
            Week(monday, sum(scores) / len(scores), len(scores))
            for monday, scores in sorted(found[skill].items())
        )[-WEEKS:]
        for skill in COUNTED
        if skill in found
    }


def standing(done: Sequence[Done]) -> dict[Counted, float]:
    """The mean of the last few exercises of each skill that was practised, per cent."""
    latest: dict[Counted, list[float]] = defaultdict(list)
    for one in sorted(done, reverse=True):
        if len(latest[one.skill]) < LAST:
            latest[one.skill].append(one.score)
    return {skill: sum(latest[skill]) / len(latest[skill]) for skill in COUNTED if skill in latest}


def next_at_the_bench(done: Sequence[Done]) -> list[Step]:
    """What to do with the next twenty minutes at the bench, from the weakest skills; two steps at most."""
    weakest = sorted(standing(done).items(), key=lambda each: each[1])
    steps = [Step(skill, _AT_THE_BENCH[skill]) for skill, score in weakest if score < STRONG][:2]
    return steps or [Step(None, sentence("practice.bench_all"))]


_AT_THE_BENCH: dict[Counted, Words] = {
    "bench": sentence("practice.bench_real"),
    "pedal": sentence("practice.bench_pedal"),
    "rhythm": sentence("practice.bench_rhythm"),
    "eye": sentence("practice.bench_eye"),
    "panels": sentence("practice.bench_panels"),
    "changes": sentence("practice.bench_changes"),
}
