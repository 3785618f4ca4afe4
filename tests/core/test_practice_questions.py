"""What changes, and what is asked next: the model's own directions, answers that cannot be guessed, and failed ones that come back."""

import random
from datetime import datetime, timedelta
from itertools import pairwise

import pytest

from anvilsong.core.errors import BadInput
from anvilsong.core.job import read_job
from anvilsong.core.machine import IDEAL
from anvilsong.core.model import Bench
from anvilsong.core.plan import make_plan
from anvilsong.core.practice.changes import (
    FIGURES,
    TURNED,
    WAYS,
    items_of,
    moved_by,
    score_of,
    turn,
)
from anvilsong.core.practice.spacing import BETWEEN, Answered, next_item
from anvilsong.core.registry import get_value

JOB = read_job({"a": {"alloy": "5083", "thickness": 3}, "joint": "tee"})
SETTINGS = make_plan(JOB).settings
BENCH = Bench(IDEAL, None, None)
# A welder's own directions: turned up, which way do pool, border, tungsten and noise go?
UP = {
    "amps_run": {"pool": "more", "tungsten": "more"},
    "frequency_hz": {"pool": "less", "noise": "more"},
    "travel_mm_s": {"pool": "less", "tungsten": "same", "noise": "same"},
    "ep_share": {"border": "more", "tungsten": "more"},
    "ep_trim": {"tungsten": "more"},
}
OTHER = {"more": "less", "less": "more", "same": "same"}


def test_the_ways_are_the_welders_own():
    seen = set()
    for key in TURNED:
        for seed in range(6):
            question = turn(JOB, SETTINGS, BENCH, key, seed)
            up = get_value(question.after, key) > get_value(SETTINGS, key)
            seen.add((key, up))
            moved = moved_by(JOB, BENCH, question)
            for name, way in UP[key].items():
                assert moved[name].way == (way if up else OTHER[way]), (key, up, name, moved[name])
    assert len(seen) >= 8  # both ways of nearly all


def test_questions_are_the_same_for_a_seed_and_within_reach():
    assert turn(JOB, SETTINGS, BENCH, "ep_share", 3) == turn(JOB, SETTINGS, BENCH, "ep_share", 3)
    assert len(items_of(1)) == 5
    assert len(items_of(2)) == 10
    for item in items_of(2):
        question = turn(JOB, SETTINGS, BENCH, item, 1)
        assert set(question.turned) == set(item.split("+"))
    for bad in ("", "cup_number", "ep_share+ep_share", "ep_share+ep_trim+amps_run", "x" * 500):
        with pytest.raises(BadInput, match="item"):
            turn(JOB, SETTINGS, BENCH, bad, 1)


def test_who_knows_gets_all_and_who_guesses_gets_a_third():
    chance, guessed, told = random.Random(5), [], []
    for item in (*items_of(1), *items_of(2)):
        for seed in range(6):
            right = moved_by(JOB, BENCH, turn(JOB, SETTINGS, BENCH, item, seed))
            assert score_of(right, {name: moved.way for name, moved in right.items()}) == 100
            guessed.append(score_of(right, {name: chance.choice(list(WAYS)) for name in FIGURES}))
            told.append(score_of(right, dict.fromkeys(FIGURES, "more")))
    assert 20 < sum(guessed) / len(guessed) < 45
    assert sum(told) / len(told) < 55  # one answer to everything does not pass
    assert score_of(right, {}) == 0


def session(items, knows, now, answers, count, seed=1):
    """So many questions to somebody who knows some of them; the items that were asked."""
    asked = []
    for number in range(count):
        item = next_item(items, answers, now, seed + number)
        answers.append(Answered(item, item in knows, now))
        asked.append(item)
        now += timedelta(seconds=30)
    return asked


def test_a_failed_question_comes_back_within_the_session():
    items, answers = list("abcdef"), []
    start = datetime(2026, 3, 1, 9)
    asked = session(items, set("abcde"), start, answers, 12)
    first = asked.index("f")
    assert asked[first + 1 : first + BETWEEN + 2].count("f") == 1
    assert asked.count("f") >= 3
    assert set(asked) == set(items)  # and all the others are asked too
    assert all(one != other for one, other in pairwise(asked))
    # Once it is known it is left alone, and after months all are asked again.
    later = session(items, set(items), start + timedelta(days=1), answers, 8)
    assert later.count("f") <= 3
    months = session(items, set(items), start + timedelta(days=200), answers, 6)
    assert set(months) == set(items)


def test_what_is_known_waits_longer_each_time():
    answers = []
    now = datetime(2026, 3, 1, 9)
    for _ in range(4):
        answers.append(Answered("a", True, now))
        now += timedelta(days=20)
    answers.append(Answered("b", True, now - timedelta(days=3)))
    assert next_item(["a", "b", "c"], answers, now - timedelta(days=2), 1) == "c"  # nothing is due yet
    assert next_item(["x"], [], now, 1) == "x"
    assert next_item(["x"], [Answered("x", False, now), Answered("gone", False, now)], now, 1) == "x"
