"""How a welder's practice goes: each skill week by week, and what to do in the next twenty minutes at the
bench.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from datetime import date, datetime, timedelta
from typing import NamedTuple

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


class Done(NamedTuple):
    """An exercise that was done: when, of which skill, and its score in per cent."""

    at: datetime
    skill: Skill
    score: float


class Week(NamedTuple):
    """What was done of a skill in a week: its Monday, the mean score, and how often."""

    monday: date
    score: float
    times: int


def by_week(done: Sequence[Done]) -> dict[Skill, tuple[Week, ...]]:
    """Each skill that was practised, week by week, the oldest first; weeks without any are left out."""
    found: dict[Skill, dict[date, list[float]]] = defaultdict(lambda: defaultdict(list))
    for one in done:
        found[one.skill][one.at.date() - timedelta(days=one.at.weekday())].append(one.score)
    return {
        skill: tuple(
            Week(monday, sum(scores) / len(scores), len(scores))
            for monday, scores in sorted(found[skill].items())
        )[-WEEKS:]
        for skill in SKILLS
        if skill in found
    }


def standing(done: Sequence[Done]) -> dict[Skill, float]:
    """The mean of the last few exercises of each skill that was practised, per cent."""
    latest: dict[Skill, list[float]] = defaultdict(list)
    for one in sorted(done, reverse=True):
        if len(latest[one.skill]) < LAST:
            latest[one.skill].append(one.score)
    return {skill: sum(latest[skill]) / len(latest[skill]) for skill in SKILLS if skill in latest}


def next_at_the_bench(done: Sequence[Done]) -> list[Words]:
    """What to do with the next twenty minutes at the bench, from the weakest skills; two steps at most."""
    weakest = sorted(standing(done).items(), key=lambda each: each[1])
    steps = [_AT_THE_BENCH[skill] for skill, score in weakest if score < STRONG][:2]
    return steps or [sentence("practice.bench_all")]


_AT_THE_BENCH: dict[Skill, Words] = {
    "pedal": sentence("practice.bench_pedal"),
    "rhythm": sentence("practice.bench_rhythm"),
    "eye": sentence("practice.bench_eye"),
    "panels": sentence("practice.bench_panels"),
    "changes": sentence("practice.bench_changes"),
}
