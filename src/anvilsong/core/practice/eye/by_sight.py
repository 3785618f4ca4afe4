"""Judged by sight alone: border and bead in mm, which of two coupons had more EP, and the odd one of four."""

from __future__ import annotations

import random
from dataclasses import replace
from typing import Literal, NamedTuple

import numpy as np

from anvilsong.core.errors import BadInput
from anvilsong.core.model import with_equal_heat
from anvilsong.core.practice.eye.coupon_run import CouponRun, Sight, readings_of, sight_of
from anvilsong.core.practice.eye.fault_question import SPREADS, fault_question
from anvilsong.core.practice.eye.mishaps import LEAST_EP, MOST_EP
from anvilsong.core.words import sentence

Near = Literal["near", "over", "under"]
BORDERS = {"thin": (-1.8, -0.6), "wanted": (-0.6, 0.6), "wide": (0.6, 3.0)}  # in tolerances of the aim
NEAR_SHARE, NEAR_MM = {1: 0.25, 2: 0.18, 3: 0.12}, {1: 0.4, 2: 0.3, 3: 0.2}
EP_APART = {"far": 0.18, "near": 0.1}
LEAST_SEEN_MM, SEEN_SHARE = 0.15, 0.12  # that two borders lie apart
TRIES, OF_FOUR = 40, 4


class SizeQuestion(NamedTuple):
    """A coupon whose border and bead are to be said in mm."""

    item: str
    sight: Sight


class TwoQuestion(NamedTuple):
    """Two coupons with the EP share of each, and which of them had more: 0 or 1."""

    item: str
    sights: tuple[Sight, Sight]
    ep_shares: tuple[float, float]
    right: int


class OddQuestion(NamedTuple):
    """Four coupons, of which one was not run as the others: its place from 0, and the sign it shows."""

    item: str
    sights: tuple[Sight, ...]
    right: int
    sign: str


def _at(planned: CouponRun, ep_share: float, hand: float = 1.0) -> CouponRun:
    moved = planned.settings.model_copy(update={"ep_share": ep_share})
    return replace(planned, settings=with_equal_heat(planned.settings, moved, planned.bench.c), hand=hand)


def _cannot(item: str) -> BadInput:
    return BadInput.one("item", item[:60], sentence("practice.not_on_this_job"))


def size_question(planned: CouponRun, item: str, level: int, seed: int) -> SizeQuestion:
    """A coupon with a border of a kind (thin, as wanted, wide), the same one for the same seed.

    Raises
    ------
    BadInput : no such kind, or none such comes of this job
    """
    if item not in BORDERS:
        raise _cannot(item)
    chance, (low, high) = random.Random(f"size {item} {level} {seed}"), BORDERS[item]
    for attempt in range(TRIES):
        run = _at(planned, chance.uniform(LEAST_EP, MOST_EP), chance.uniform(0.85, 1.2))
        if run.bench.machine.can_trim:
            run = run.with_set(ep_trim=chance.uniform(-0.3, 0.3))
        readings = readings_of(run, np.random.default_rng([seed, attempt]), SPREADS[level])
        sight = sight_of(run, readings, planned)
        if low <= sight.border_miss <= high:
            return SizeQuestion(item, sight)
    raise _cannot(item)


def near(said_mm: float, true_mm: float, level: int) -> Near:
    """Whether a length said by eye is near enough at a level, or too much or too little."""
    allowed = max(NEAR_SHARE[level] * true_mm, NEAR_MM[level])
    return "near" if abs(said_mm - true_mm) <= allowed else "over" if said_mm > true_mm else "under"


def two_question(planned: CouponRun, item: str, level: int, seed: int) -> TwoQuestion:
    """Two coupons whose EP lies far apart or near; their borders differ as their EP does.

    Raises
    ------
    BadInput : no such question, or the borders of this job do not tell them apart
    """
    if item not in EP_APART:
        raise _cannot(item)
    chance, apart = random.Random(f"two {item} {level} {seed}"), EP_APART[item]
    for attempt in range(TRIES):
        low = chance.uniform(LEAST_EP + 0.04, MOST_EP - apart)
        shares = (low, low + apart)
        right = chance.randrange(2)
        shares = shares if right == 1 else shares[::-1]
        sights = []
        for place, share in enumerate(shares):
            run = _at(planned, share, chance.uniform(0.94, 1.06))
            rng = np.random.default_rng([seed, attempt, place])
            sights.append(sight_of(run, readings_of(run, rng, SPREADS[level]), planned))
        more, less = sights[right].border_mm, sights[1 - right].border_mm
        if more - less >= max(LEAST_SEEN_MM, SEEN_SHARE * more):
            return TwoQuestion(item, (sights[0], sights[1]), (shares[0], shares[1]), right)
    raise _cannot(item)


def odd_question(planned: CouponRun, item: str, level: int, seed: int) -> OddQuestion:
    """Three coupons as planned, as a hand scatters, and one with a hidden cause.

    Raises
    ------
    BadInput : no such cause, or it cannot be shown on this job
    """
    odd = fault_question(planned, item, level, seed)
    chance, place = random.Random(f"odd {item} {seed}"), 0
    place = chance.randrange(OF_FOUR)
    others: list[Sight] = []
    for attempt in range(TRIES):
        rng = np.random.default_rng([seed, 7, attempt])
        sight = sight_of(planned, readings_of(planned, rng, SPREADS[level]), planned)
        if not sight.signs:
            others.append(sight)
        if len(others) == OF_FOUR - 1:
            sights = (*others[:place], odd.sight, *others[place:])
            return OddQuestion(item, sights, place, odd.causes[0][0])
    raise _cannot(item)
