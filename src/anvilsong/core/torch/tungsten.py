"""Tungsten: load from both halves of the wave, choice of size, tip."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cache
from typing import Literal, get_args

import numpy as np

from anvilsong.core.arc.waveform import Numbers, Wave, tip_means
from anvilsong.core.said import Words
from anvilsong.core.tables import Row, read_table
from anvilsong.core.words import sentence

Tip = Literal["point", "ball"]
# In the order they are proposed; thorium never is while anything else bears the load.
TungstenKey = Literal["WLa 20", "WLa 15", "multi-oxide", "WCe 20", "WZr 8", "W", "WTh 20"]
TUNGSTEN_CLASS_NAMES: tuple[TungstenKey, ...] = get_args(TungstenKey)
State = Literal["wanders", "good", "rounds", "balls", "melts"]

BALL_START_SHARE = 0.6
LOAD_AT_RUN, LOAD_AT_SET, LOAD_WANDERS, LOAD_BALLS, LOAD_MELTS = 0.85, 1.05, 0.25, 1.05, 1.25
EVERYDAY_MM = 2.4
FINEST_MM, FINEST_MOST_A = 1.0, 40.0  # a 1.0 mm tungsten is for foil
STATE_NAMES: dict[State, str] = {
    "wanders": "wanders",
    "good": "tip stays sharp",
    "rounds": "tip rounds off",
    "balls": "balls and shakes",
    "melts": "melts",
}
STATE_WORDS: dict[State, Words] = {
    "wanders": sentence("torch.big_starts_steers_little"),
    "good": "tip stays sharp",
    "rounds": "tip rounds off",
    "balls": "balls and shakes",
    "melts": sentence("torch.melts_spits_into_weld"),
}


class TungstenClass(Row):
    key: TungstenKey
    colour: str
    limit_factor_point: float
    limit_factor_ball: float
    never_proposed: bool = False
    note: str


class TungstenSize(Row):
    diameter_mm: float
    inch: str
    en_limit_a: float
    ep_limit_a: float
    post_flow_least_s: float


class TungstenTable(Row):
    source: str
    positive_only_limits_a: dict[str, float]
    tungsten_class: list[TungstenClass]
    tungsten_size: list[TungstenSize]


def _table() -> TungstenTable:
    return read_table("torch", TungstenTable)


def tungsten_sizes() -> list[TungstenSize]:
    """Every size, in the table's order."""
    return _table().tungsten_size


def tungsten_classes() -> list[TungstenClass]:
    """Every class, in the table's order."""
    return _table().tungsten_class


@cache
def find_class(key: str) -> TungstenClass:
    """The class of that name."""
    return next(row for row in tungsten_classes() if row.key == key)


@cache
def find_size(diameter_mm: float) -> TungstenSize:
    """The size nearest to a diameter, mm."""
    return min(tungsten_sizes(), key=lambda size: abs(size.diameter_mm - diameter_mm))


def limit_factor(class_key: str, tip: Tip) -> float:
    """What a class and tip leave of a size's limits."""
    kind = find_class(class_key)
    return kind.limit_factor_ball if tip == "ball" else kind.limit_factor_point


def load_parts(
    wave: Wave, diameter_mm: float, class_key: str, tip: Tip = "point", limit: float = 1.0
) -> tuple[Numbers, Numbers]:
    """The EN and EP parts of the load: Ī_n/limit_EN and Ī_p/limit_EP, both limits × the class's factor × what
    this shop's tips bear of nominal (``limit``, the coefficient ``tungsten_limit``).
    """
    size, factor = find_size(diameter_mm), limit_factor(class_key, tip) * limit
    means = tip_means(wave)
    return means.en / (size.en_limit_a * factor), means.ep / (size.ep_limit_a * factor)


def tungsten_load(
    wave: Wave, diameter_mm: float, class_key: str, tip: Tip = "point", limit: float = 1.0
) -> Numbers:
    """Load of the tungsten: over 1 a ground tip gives way.

    >>> round(float(tungsten_load(Wave(100, 0.3, 100), 2.4, "WLa 20")), 2)
    0.54
    """
    en, ep = load_parts(wave, diameter_mm, class_key, tip, limit)
    return en + ep


def load_state(load: float) -> State:
    """What the tip does under this load."""
    if load < LOAD_WANDERS:
        return "wanders"
    if load <= LOAD_AT_RUN:
        return "good"
    if load <= LOAD_BALLS:
        return "rounds"
    return "balls" if load <= LOAD_MELTS else "melts"


def choose_tungsten(
    wave_run: Wave, wave_set: Wave, stocked: Sequence[tuple[str, float]], tip: Tip, limit: float = 1.0
) -> tuple[str, float] | None:
    """The everyday stocked (class, diameter) that bears the load; None when none does.

    It bears it with a load ≤ 0.85 at amps_run and ≤ 1.05 at amps_set. Among those the sizes loaded to at
    least 0.25 go first, then the one nearest to 2.4 mm, the smaller of two; where all stay colder, the
    finest; among equal diameters the better class (zirconia first for a ball); thorium only when nothing
    else is there.
    """

    def rank(item: tuple[str, float]) -> tuple[bool, bool, float, float, bool, int]:
        name, diameter = item
        wanders = float(tungsten_load(wave_run, diameter, name, tip, limit)) < LOAD_WANDERS
        return (
            find_class(name).never_proposed,
            wanders,
            # Where even the finest stays cold, as on foil, the finest steers best.
            diameter if wanders else round(abs(diameter - EVERYDAY_MM), 2),
            diameter,
            tip == "ball" and name != "WZr 8",
            [*TUNGSTEN_CLASS_NAMES].index(find_class(name).key),
        )

    borne = [item for item in stocked if bears(wave_run, wave_set, item[1], item[0], tip, limit)]
    return min(borne, key=rank) if borne else None


def bears(
    wave_run: Wave, wave_set: Wave, diameter_mm: float, class_key: str, tip: Tip, limit: float = 1.0
) -> bool:
    """Whether a tungsten bears these waves; 1.0 mm at most 40 A set, whatever its load."""
    return bool(
        tungsten_load(wave_run, diameter_mm, class_key, tip, limit) <= LOAD_AT_RUN
        and tungsten_load(wave_set, diameter_mm, class_key, tip, limit) <= LOAD_AT_SET
        and not (diameter_mm <= FINEST_MM and np.max(wave_set.amps) > FINEST_MOST_A)
    )


def balling_start_a(diameter_mm: float) -> float:
    """Current to start a ball with on electrode positive, A: 60 % of the EP-only limit."""
    return BALL_START_SHARE * _table().positive_only_limits_a[f"{find_size(diameter_mm).diameter_mm:.1f}"]


def included_angle_deg(amps: float) -> float:
    """Included angle of a ground point: 30° at low amps to 60° over 150 A, to 5°."""
    return float(np.round(np.interp(amps, (40, 150), (30, 60)) / 5) * 5)


def flat_mm(diameter_mm: float) -> float:
    """Flat on the point, mm: 15 % of the diameter, within 0.25 to 0.5 mm."""
    return round(float(np.clip(0.15 * diameter_mm, 0.25, 0.5)), 2)
