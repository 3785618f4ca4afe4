"""Tungsten tips: over, right or under, by what the tip has become under its load."""

from __future__ import annotations

import random
from typing import Literal, NamedTuple

from anvilsong.core.errors import BadInput
from anvilsong.core.model import consequences
from anvilsong.core.practice.eye.coupon_run import CouponRun
from anvilsong.core.practice.eye.mishaps import LEAST_EP, MOST_EP
from anvilsong.core.settings import Settings
from anvilsong.core.torch.tungsten import (
    LOAD_AT_RUN,
    LOAD_BALLS,
    LOAD_MELTS,
    LOAD_WANDERS,
    State,
    load_state,
    tungsten_sizes,
)
from anvilsong.core.words import sentence

TipSays = Literal["over", "right", "under"]
TIPS: dict[TipSays, str] = {
    "over": "Over: it melts away",
    "right": "Right",
    "under": "Under: it stays cold",
}
BY_STATE: dict[State, TipSays] = {
    "wanders": "under",
    "good": "right",
    "rounds": "right",
    "balls": "over",
    "melts": "over",
}
MOST_LOAD, TRIES, CLEAR = 1.6, 60, 0.06  # clear of a limit by so much


class TipQuestion(NamedTuple):
    """Settings with the load they put on the tungsten, and what its tip says."""

    item: TipSays
    settings: Settings
    load: float
    state: State


def tip_question(planned: CouponRun, item: str, seed: int) -> TipQuestion:
    """A tungsten that is over, right or under, the same one for the same seed.

    Raises
    ------
    BadInput : no such question, or the job is welded without a tungsten of any size
    """
    chance = random.Random(f"tip {item} {seed}")
    tungsten = planned.settings.tungsten
    if item not in TIPS or tungsten is None:
        raise BadInput.one("item", item[:60], sentence("practice.not_on_this_job"))
    sizes = [row.diameter_mm for row in tungsten_sizes()]
    for _ in range(TRIES):
        settings = planned.settings.model_copy(
            update={
                "tungsten": tungsten.model_copy(
                    update={"diameter_mm": chance.choice(sizes), "angle_deg": chance.choice((30, 45, 60))}
                ),
                "ep_share": round(chance.uniform(LEAST_EP, MOST_EP), 2),
                "amps_run": round(planned.settings.amps_run * chance.uniform(0.8, 1.2)),
            }
        )
        load = consequences(planned.job, settings, planned.bench.machine, planned.bench.c).tungsten_load
        state = load_state(load)
        limits = (LOAD_WANDERS, LOAD_AT_RUN, LOAD_BALLS, LOAD_MELTS)
        is_clear = load <= MOST_LOAD and all(abs(load - limit) > CLEAR * limit for limit in limits)
        if is_clear and BY_STATE[state] == item:
            return TipQuestion(BY_STATE[state], settings, load, state)
    raise BadInput.one("item", item, sentence("practice.not_on_this_job"))
