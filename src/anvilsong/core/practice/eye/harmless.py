"""What strays from a plan in a shop's day and harms nothing: the told figures alone do not name the cause."""

from __future__ import annotations

import random
from collections.abc import Callable
from dataclasses import replace

from anvilsong.core.practice.eye.coupon_run import CouponRun

Stray = Callable[[CouponRun, random.Random], CouponRun]


def _flow(run: CouponRun, chance: random.Random) -> CouponRun:
    gas = run.settings.gas
    flow = round(gas.flow_l_min * chance.choice((0.75, 1.3)), 1)
    return run.with_set(gas=gas.model_copy(update={"flow_l_min": flow}))


def _frequency(run: CouponRun, chance: random.Random) -> CouponRun:
    return run.with_set(frequency_hz=round(run.settings.frequency_hz * chance.choice((0.8, 1.2))))


def _longer_gas(run: CouponRun, chance: random.Random) -> CouponRun:
    return run.with_set(post_flow_s=round(run.settings.post_flow_s * chance.uniform(1.4, 1.9)))


def _arc(run: CouponRun, chance: random.Random) -> CouponRun:
    return run.with_job(arc_length_mm=run.job.arc_length_mm + chance.choice((-0.5, 0.4)))


def _share(run: CouponRun, chance: random.Random) -> CouponRun:
    return run.with_set(ep_share=round(run.settings.ep_share + chance.choice((-0.03, 0.03)), 2))


def _amps(run: CouponRun, chance: random.Random) -> CouponRun:
    amps = round(run.settings.amps_run * chance.choice((0.96, 1.03)))
    return run.with_set(amps_run=amps, amps_set=max(amps, run.settings.amps_set))


def _hand(run: CouponRun, chance: random.Random) -> CouponRun:
    return replace(run, hand=chance.choice((0.93, 1.08)))


def _part(run: CouponRun, chance: random.Random) -> CouponRun:
    return run.with_job(part_temperature_c=run.job.part_temperature_c + chance.choice((-8, 8)))


def _draught(run: CouponRun, chance: random.Random) -> CouponRun:
    return run.with_job(draught_m_s=max(run.job.draught_m_s, round(chance.uniform(0.1, 0.25), 1)))


def _end(run: CouponRun, chance: random.Random) -> CouponRun:
    return replace(run, end_s=round(chance.uniform(1.2, 4.0), 1))


STRAYS: tuple[Stray, ...] = (
    _flow, _frequency, _longer_gas, _arc, _share, _amps, _hand, _part, _draught, _end,
)  # fmt: skip
OF_A_LEVEL = (0, 3, 5)  # how many stray


def strayed(planned: CouponRun, beyond: int, chance: random.Random) -> CouponRun:
    """The plan as a shop's day leaves it; ``beyond`` the first level more things stray."""
    run = planned
    for stray in chance.sample(STRAYS, OF_A_LEVEL[beyond]):
        run = stray(run, chance)
    return run
