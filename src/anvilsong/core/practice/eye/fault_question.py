"""What went wrong? A coupon with one hidden cause: its sign, the likeliest cause, what to check, what to
change, and what each change would have done.
"""

from __future__ import annotations

import random
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from anvilsong.core.bead import Readings, find_sign, likely_causes
from anvilsong.core.errors import BadInput
from anvilsong.core.practice.eye.coupon_run import (
    SIGNS,
    CouponRun,
    Sight,
    case_of,
    mean_sight,
    readings_of,
    sight_of,
)
from anvilsong.core.practice.eye.harmless import strayed
from anvilsong.core.practice.eye.mishaps import MENDS, MISHAPS, MendKey, Mishap, mended
from anvilsong.core.words import sentence

OFFERED = 6  # changes to choose from
ASKED = ("sign", "cause", "check", "change")
# By level: how far a hand scatters, and how weak the cause may be.
SPREADS, LEAST_STRENGTH = {1: 0.3, 2: 0.5, 3: 0.7}, {1: 1.2, 2: 0.8, 3: 0.5}
LEVELS = tuple(SPREADS)
STRONGER, TRIES = 1.15, 14


@dataclass(frozen=True)
class FaultQuestion:
    """A coupon with a hidden cause. ``signs`` are seen on it; ``causes`` are right, each under its sign;
    ``offered`` are the changes to choose from.
    """

    item: str
    planned: CouponRun
    run: CouponRun
    readings: Readings
    sight: Sight
    causes: tuple[tuple[str, str], ...]
    mend: MendKey
    offered: tuple[MendKey, ...]

    @property
    def signs(self) -> tuple[str, ...]:
        """The signs that are seen on the coupon."""
        return self.sight.signs


def fault_question(planned: CouponRun, item: str, level: int, seed: int) -> FaultQuestion:
    """A question about a hidden cause, the same one for the same seed.

    The cause is made stronger until its sign shows, and no sign that has nothing to do with it; and only what
    the fault finder, asked about this coupon, finds likeliest too is asked. From the second level on other
    things stray from the plan as well, and harm nothing.

    Raises
    ------
    BadInput : no such cause, or it cannot be shown on this job
    """
    if item not in MISHAPS:
        raise BadInput.one("item", item[:60], sentence("practice.not_on_this_job"))
    mishap, chance = MISHAPS[item], random.Random(f"{item} {level} {seed}")
    strength = LEAST_STRENGTH[level] * chance.uniform(1.0, 1.3)
    for attempt in range(TRIES):
        run = mishap.happen(strayed(planned, level - 1, chance), strength)
        rng = np.random.default_rng([seed, level, attempt])
        readings = readings_of(run, rng, SPREADS[level])
        sight = sight_of(run, readings, planned)
        causes = _shown(mishap, sight)
        if causes and _agrees(run, readings, causes):
            offered = _offered(run, planned, mishap.mend, chance)
            if offered:
                return FaultQuestion(item, planned, run, readings, sight, causes, mishap.mend, offered)
        strength *= STRONGER
    raise BadInput.one("item", item, sentence("practice.not_on_this_job"))


def _shown(mishap: Mishap, sight: Sight) -> tuple[tuple[str, str], ...]:
    """The causes whose sign is seen; none where a sign is seen that does not come of this mishap."""
    seen = sight.signs
    causes = tuple(pair for pair in mishap.causes if pair[0] in seen)
    others = set(seen) - {sign for sign, _ in mishap.causes}
    return () if others - set(mishap.also) else causes


def _agrees(run: CouponRun, readings: Readings, causes: tuple[tuple[str, str], ...]) -> bool:
    """Whether the fault finder names the same cause first, for each sign that is right."""
    case = case_of(run, readings)
    return all(likely_causes([sign], case)[0].key == cause for sign, cause in causes)


def _offered(run: CouponRun, planned: CouponRun, mend: MendKey, chance: random.Random) -> tuple[MendKey, ...]:
    """Changes to choose from: the one that mends it, and others that do not; none where the right one would
    leave a sign.
    """
    if ends_with(run, planned, mend).signs:
        return ()
    seen = set(mean_sight(run, planned).signs)
    alike = {each.mend for each in MISHAPS.values() if seen & {sign for sign, _ in each.causes}}
    others = [key for key in MENDS if key != mend]
    chance.shuffle(others)
    offered = [mend]
    for key in sorted(others, key=lambda key: key not in alike):  # what mends the same sign elsewhere, first
        if len(offered) == OFFERED:
            break
        try:
            if ends_with(run, planned, key).signs:
                offered.append(key)
        except BadInput:
            continue
    chance.shuffle(offered)
    return tuple(offered)


def ends_with(run: CouponRun, planned: CouponRun, mend: MendKey) -> Sight:
    """What the next coupon would show on average after a change."""
    return mean_sight(mended(run, planned, mend), planned)


def right_answers(question: FaultQuestion, given: Mapping[str, str]) -> dict[str, str]:
    """The right answers: of several signs that are seen the one that was said, of causes the one under it."""
    sign = given.get("sign", "")
    by_sign = dict(question.causes)
    telling = sign if sign in by_sign else question.causes[0][0]
    cause = f"{telling}.{by_sign[telling]}"
    return {
        "sign": sign if sign in question.signs else telling,
        "cause": cause,
        "check": cause,
        "change": question.mend,
    }


def score_of(right: Mapping[str, str], given: Mapping[str, str]) -> int:
    """Per cent of what was asked that was said rightly."""
    return round(100 * sum(given.get(name) == right[name] for name in ASKED) / len(ASKED))


def choices_of(sign: str) -> dict[str, str]:
    """The causes of a sign as they are answered, with their words."""
    return {f"{sign}.{cause.key}": cause.words for cause in find_sign(sign).cause}


def answers_of(asked: Mapping[str, str], offered: tuple[MendKey, ...]) -> dict[str, str]:
    """What was answered, as far as it is one of the choices.

    Raises
    ------
    BadInput : something is not answered, or is none of the choices
    """
    sign = asked.get("sign", "")
    choices: dict[str, tuple[str, ...]] = {
        "sign": SIGNS,
        "cause": tuple(choices_of(sign)) if sign in SIGNS else (),
        "check": tuple(choices_of(sign)) if sign in SIGNS else (),
        "change": offered,
    }
    given = {name: asked.get(f"{name}_{sign}" if name in ("cause", "check") else name, "") for name in ASKED}
    for name in ASKED:
        if given[name] not in choices[name]:
            raise BadInput.one(name, given[name] or None, sentence("practice.choose_one"))
    return given
