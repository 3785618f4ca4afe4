"""What changes, and what is asked next: the model's own directions, answers that cannot be guessed, and failed ones that come back."""

import contextlib
import itertools
import random
from datetime import datetime, timedelta
from itertools import pairwise
from typing import get_args

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from anvilsong.core.bead import Hand, Looks, read_looks, run_coupon
from anvilsong.core.checks import newly_broken
from anvilsong.core.coefficients import nominal
from anvilsong.core.errors import BadInput
from anvilsong.core.job import read_job
from anvilsong.core.machine import IDEAL, Machine
from anvilsong.core.model import Bench
from anvilsong.core.plan import make_plan
from anvilsong.core.practice import Skill
from anvilsong.core.practice.at_the_bench import coupons_for
from anvilsong.core.practice.changes import (
    FIGURES,
    TURNED,
    WAYS,
    items_of,
    moved_by,
    score_of,
    turn,
)
from anvilsong.core.practice.panels import ITEMS, is_right, panel_question, read_figure
from anvilsong.core.practice.progress import COUNTED, SKILLS, coupon_score
from anvilsong.core.practice.spacing import BETWEEN, Answered, next_item
from anvilsong.core.practice.thumb import THUMB_ITEMS, thumb_question
from anvilsong.core.registry import get_value
from anvilsong.core.said import in_units
from anvilsong.demo import machines as demo_machines

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


def test_coupons_at_the_bench_turn_one_setting_and_break_no_limit():
    for skill, seed in itertools.product((*COUNTED, None), range(8)):
        coupons = coupons_for(skill, JOB, SETTINGS, BENCH, seed)
        assert coupons[0].settings == SETTINGS
        if skill in ("eye", "changes"):
            _, other = coupons
            assert len(other.turned) == 1
            assert get_value(other.settings, other.turned[0]) != get_value(SETTINGS, other.turned[0])
            assert not newly_broken(JOB, SETTINGS, other.settings, BENCH.machine, c=BENCH.c)
        else:
            assert {coupon.settings for coupon in coupons} == {SETTINGS}
    turned = {coupons_for("changes", JOB, SETTINGS, BENCH, seed)[1].turned for seed in range(8)}
    assert len(turned) >= 3


def test_a_real_coupon_counts_by_what_of_it_is_as_wanted():
    c, rng = nominal(), np.random.default_rng(1)
    for amps, least, most in ((1.0, 100, 100), (1.25, 0, 75)):
        settings = SETTINGS.model_copy(update={"amps_run": SETTINGS.amps_run * amps})
        readings = run_coupon(JOB, settings, c, rng, Hand(0.0))
        assert least <= coupon_score(read_looks(JOB, SETTINGS, readings)) <= most
    looks = Looks(judged={"specks": 3})
    assert coupon_score(read_looks(JOB, SETTINGS, looks)) == 0


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


@pytest.fixture(scope="module")
def machines():
    return [one for one in vars(demo_machines).values() if isinstance(one, Machine)] + [
        one for many in vars(demo_machines).values() if isinstance(many, list | tuple) for one in many
        if isinstance(one, Machine)
    ]  # fmt: skip


def test_by_rule_of_thumb_the_plans_own_figures_count_and_the_shop_rule_is_told():
    for item, seed in itertools.product(THUMB_ITEMS, range(8)):
        question = thumb_question(IDEAL, item, seed)
        assert question == thumb_question(IDEAL, item, seed)
        assert is_right(question, question.right)
        assert not is_right(question, 1.35 * question.right)
        thick = float(in_units(question.asked).split()[0])
        if item == "thumb amps":
            assert f"the shop rule says {40 * thick:.0f} A" in in_units(question.shown)
            assert is_right(question, 1.09 * question.right)
            assert not is_right(question, 1.11 * question.right)
            assert 0.6 < question.right / (40 * thick) < 1.5  # a rule that is worth knowing
        if item == "thumb rod":
            assert question.right in (1.2, 1.6, 2.0, 2.4, 3.2)
            assert question.dimension == "length"
    with pytest.raises(BadInput):
        thumb_question(IDEAL, "thumb cups", 1)


@pytest.mark.parametrize("item", ITEMS)
def test_a_panel_is_asked_what_it_really_shows(machines, item):
    asked = set()
    for seed in range(12):
        question = panel_question(machines, SETTINGS, item, seed)
        assert question == panel_question(machines, SETTINGS, item, seed)
        assert is_right(question, question.right)
        assert is_right(question, read_figure(question.shown)) or item.startswith("to_panel")
        assert not is_right(question, question.right + 2.5 * question.near + 0.6)
        asked.add(in_units(question.asked))
    assert len(asked) > 6
    with pytest.raises(BadInput, match="item"):
        panel_question(
            [IDEAL] if item != "equal_heat" else [], SETTINGS, item if item != "equal_heat" else "x", 1
        )


def test_panels_in_a_welders_own_words(machines):
    by_name = {one.name: one for one in machines}
    for seed in range(20):
        question = panel_question([by_name["Heron 320"]], SETTINGS, "from_panel ep_share", seed)
        shown = float(in_units(question.asked).split("stands at ")[1].split(" ")[0])
        assert question.right == pytest.approx(100 - shown)  # it counts the other half
        heat = panel_question([], SETTINGS, "equal_heat", seed)
        amps = float(in_units(heat.asked).split(" at ")[1].split(" A")[0])
        more = "to triangle" in in_units(heat.asked) or "to sine" in in_units(heat.asked)
        assert (heat.right > amps) == more  # a square wave heats most for its amps
        old = panel_question([by_name["Tern 250"]], SETTINGS, "to_panel amps_set", seed)
        said = in_units(old.asked)
        assert "square wave" in said
        amps, amplitude = float(said.split(" A")[0]), float(said.split("amplitude ")[1].split(" %")[0])
        assert old.right == pytest.approx(
            amps * (1 + amplitude / 100) / 2, abs=1
        )  # the middle of both halves


def test_a_question_says_all_that_its_answer_hangs_on(machines):
    """A panel that counts EP amps: the amps of the EN half are told, and with the amplitude they are the answer."""
    gannet = next(one for one in machines if one.name == "Gannet 350")
    for seed in range(8):
        question = panel_question([gannet], SETTINGS, "to_panel ep_trim", seed)
        said = in_units(question.asked)
        amps, amplitude = (
            float(said.split("With ")[1].split(" A")[0]),
            float(said.split("amplitude ")[1].split(" %")[0]),
        )
        assert question.right == pytest.approx(amps * amplitude / 100, abs=2)
    assert set(SKILLS) == set(get_args(Skill))


@given(st.text(max_size=60))
def test_whatever_is_typed_is_a_figure_or_is_told(text):
    with contextlib.suppress(BadInput):
        assert abs(read_figure(text)) < 1e6
