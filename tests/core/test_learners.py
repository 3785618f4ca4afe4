"""Simulated learners: an error taken away raises the score of the skill concerned, and of no other."""

import random
from dataclasses import dataclass, field
from functools import cache

import numpy as np
import pytest
from tests.core.coupon_runs import BUTT, TEE
from tests.core.test_practice import SHORT, task_of

from anvilsong.core.errors import BadInput
from anvilsong.core.machine import Machine
from anvilsong.core.model import Bench
from anvilsong.core.practice import Skill, beats_of, judge_taps
from anvilsong.core.practice.changes import FIGURES, items_of, moved_by, turn
from anvilsong.core.practice.changes import score_of as changes_score
from anvilsong.core.practice.eye import MISHAPS, fault_question, right_answers
from anvilsong.core.practice.eye import score_of as eye_score
from anvilsong.core.practice.ideal import ideal_of
from anvilsong.core.practice.judging import judged, score_of
from anvilsong.core.practice.panels import ITEMS, is_right, panel_question
from anvilsong.core.practice.pedal_run import PedalRun
from anvilsong.demo import machines as demo_machines

REACTION_S, NOISE, RATE_HZ, PITCH_MM = 0.25, 0.02, 1.5, 2.2
MACHINES = [one for one in vars(demo_machines).values() if isinstance(one, Machine)]
ERRORS: dict[str, Skill] = {
    "stays on the pedal": "pedal",
    "comes off at once": "pedal",
    "drags": "rhythm",
    "dabs unevenly": "rhythm",
    "blames EP": "eye",
    "never looks at the ends": "eye",
    "counts from the other end": "panels",
    "thinks in peaks": "panels",
    "thinks frequency widens": "changes",
    "thinks nothing wears the tungsten": "changes",
}


@dataclass(frozen=True)
class Learner:
    """A hand and a head of two errors a skill, as far as they are still made; it reacts after a quarter second."""

    errors: frozenset[str] = field(default_factory=frozenset)

    def makes(self, error):
        return error in self.errors


def pedal_score(learner):
    task, ideal, rng = pedal_task_of_all(), ideal_of_all(), np.random.default_rng(3)
    begun, run, seen_before = ideal.pedal_at(0.0), PedalRun(pedal_task_of_all()), []
    gain = 0.4 if learner.makes("stays on the pedal") else 1.5 if learner.makes("comes off at once") else 1.0
    while not run.has_ended and run.last.time_s < 200:
        seen_before.append(run.last)
        seen = seen_before[max(0, len(seen_before) - 1 - round(REACTION_S / 0.05))]
        wanted = 1.0
        if run.last.state not in ("ready", "waits"):
            wanted = begun + gain * (ideal.pedal_at(seen.way_mm) - begun) + rng.normal(0, NOISE)
        run.step(0.05, float(np.clip(wanted, 0, 1)), 1.0)
    return score_of(task, judged(run, ideal))


@cache
def pedal_task_of_all():
    return task_of(SHORT["strip"])


@cache
def ideal_of_all():
    return ideal_of(pedal_task_of_all())


def rhythm_score(learner):
    rng, scores = np.random.default_rng(5), []
    for _ in range(6):
        beats = np.array([beat.at_s for beat in beats_of("straight", RATE_HZ, PITCH_MM)])
        tempo = 1.03 if learner.makes("drags") else 1.0
        spread = 0.16 if learner.makes("dabs unevenly") else NOISE
        taps = tuple(sorted(np.maximum(beats * tempo + rng.normal(0, spread, len(beats)), 0.0)))
        scores.append(judge_taps("straight", RATE_HZ, PITCH_MM, taps)[0])
    return np.mean(scores)


@cache
def coupons():
    found = []
    for run in (BUTT, TEE):
        for item in MISHAPS:
            try:
                found.append(fault_question(run, item, 1, 7))
            except BadInput:
                continue
    return found


def seen_on(learner, question):
    sign, cause = question.causes[0]
    if learner.makes("never looks at the ends") and sign in ("crater", "end_grey"):
        sign, cause = "black_specks", "dirt"
    if learner.makes("blames EP"):
        cause = {"border_thin": "share_low", "border_wide": "share_high"}.get(sign, cause)
    key = f"{sign}.{cause}"
    mend = question.mend
    if learner.makes("blames EP") and cause not in ("share_low", "share_high"):
        mend = next((each for each in ("less_ep", "more_ep") if each in question.offered), mend)
    return {"sign": sign, "cause": key, "check": key, "change": mend}


def eye_mean(learner):
    said = [(question, seen_on(learner, question)) for question in coupons()]
    return np.mean([eye_score(right_answers(question, given), given) for question, given in said])


def panels_score(learner):
    scores = []
    for item in ITEMS:
        for seed in range(4):
            question = panel_question(MACHINES, BUTT.settings, item, seed)
            said = question.right
            if learner.makes("counts from the other end") and "ep_share" in item:
                said = 100 - said
            if learner.makes("thinks in peaks") and "amps" in item:
                said *= 1.25
            scores.append(100 * is_right(question, said))
    return np.mean(scores)


def changes_mean(learner):
    bench, scores = Bench(BUTT.bench.machine, None, BUTT.bench.c), []
    for item in items_of(1):
        for seed in range(4):
            question = turn(BUTT.job, BUTT.settings, bench, item, seed)
            moved = moved_by(BUTT.job, bench, question)
            said = {name: moved[name].way for name in FIGURES}
            if learner.makes("thinks frequency widens") and item == "frequency_hz":
                said |= {
                    name: {"more": "less", "less": "more"}.get(said[name], "more")
                    for name in ("pool", "border")
                }
            if learner.makes("thinks nothing wears the tungsten"):
                said["tungsten"] = "same"
            scores.append(changes_score(moved, said))
    return np.mean(scores)


SCORES = {
    "pedal": pedal_score,
    "rhythm": rhythm_score,
    "eye": eye_mean,
    "panels": panels_score,
    "changes": changes_mean,
}


@cache
def all_scores(errors):
    return {skill: float(score(Learner(errors))) for skill, score in SCORES.items()}


@pytest.mark.parametrize("error", ERRORS)
def test_an_error_taken_away_raises_its_own_skill_and_no_other(error):
    # With the first error of every other skill still made: nobody learns all at once.
    firsts = {skill: name for name, skill in reversed(ERRORS.items())}
    others = frozenset(name for skill, name in firsts.items() if skill != ERRORS[error])
    before, after = all_scores(others | {error}), all_scores(others)
    for skill in SCORES:
        if skill == ERRORS[error]:
            assert after[skill] >= before[skill] + 4, (skill, before, after)
        else:
            assert after[skill] == before[skill]


def test_a_learner_without_errors_does_well_in_all_and_a_guess_in_none():
    assert min(all_scores(frozenset()).values()) >= 85
    chance, guessed = random.Random(4), []
    for question in coupons():
        for _ in range(6):
            sign, cause = chance.choice([pair for mishap in MISHAPS.values() for pair in mishap.causes])
            key = f"{sign}.{cause}"
            given = {"sign": sign, "cause": key, "check": key, "change": chance.choice(question.offered)}
            guessed.append(eye_score(right_answers(question, given), given))
    assert np.mean(guessed) < 20
