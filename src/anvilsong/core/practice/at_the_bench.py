"""The coupons of the next twenty minutes at the bench: what to set for each, skill by skill."""

from __future__ import annotations

from itertools import product
from typing import NamedTuple

from anvilsong.core.checks import newly_broken
from anvilsong.core.errors import BadInput
from anvilsong.core.job import Job
from anvilsong.core.model import Bench
from anvilsong.core.practice.changes import TURNED, turn
from anvilsong.core.practice.progress import Counted
from anvilsong.core.settings import Settings

WAYS_TRIED = 4  # up or down, by chance
ALIKE = {"pedal": 2, "rhythm": 2, "bench": 3, "panels": 1}  # coupons with the same settings


class BenchCoupon(NamedTuple):
    """A coupon to run: its number, its settings, and which of them differ from the first coupon's."""

    number: int
    settings: Settings
    turned: tuple[str, ...] = ()


def coupons_for(
    skill: Counted | None, job: Job, settings: Settings, bench: Bench, seed: int
) -> list[BenchCoupon]:
    """Coupons for a skill on a machine: alike ones for the hand, two with one setting turned for the eye and
    for what changes, as far as that breaks no limit; the same ones for the same seed.
    """
    if skill in ("eye", "changes"):
        keys = ("ep_share", *TURNED) if skill == "eye" else (TURNED[seed % len(TURNED)], *TURNED)
        for key, way in product(keys, range(seed, seed + WAYS_TRIED)):
            try:
                turned = turn(job, settings, bench, key, way)
            except BadInput:
                continue  # this machine cannot turn it
            if not newly_broken(job, settings, turned.after, bench.machine, bench.kit, bench.c):
                return [BenchCoupon(1, settings), BenchCoupon(2, turned.after, turned.turned)]
    return [BenchCoupon(number + 1, settings) for number in range(ALIKE.get(skill or "bench", 2))]
