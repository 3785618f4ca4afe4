"""The signs of faults with their causes, as the table has them, and which sign people mean by some words."""

from __future__ import annotations

import re
from collections.abc import Mapping
from functools import cache
from typing import Annotated, Literal, NamedTuple

from pydantic import Field

from anvilsong.core.bead.coupon import JudgedWord, Looks, TipState
from anvilsong.core.bead.figure_keys import FigureKey
from anvilsong.core.errors import BadInput
from anvilsong.core.said import Words
from anvilsong.core.tables import Row, read_table
from anvilsong.core.words import sentence


class FaultChange(Row):
    """What to set: by so much, times so much, or to a value."""

    setting: str
    by: float | None = None
    times: float | None = None
    to: float | str | None = None


class Rule(NamedTuple):
    """Where a figure lies over or under a limit, the cause is so many times as likely."""

    of: FigureKey
    way: Literal["over", "under"]
    limit: float
    times: Annotated[float, Field(gt=0, le=10)]

    def holds(self, figures: Mapping[FigureKey, float]) -> bool:
        """Whether the figure is known and lies so."""
        return lies(figures.get(self.of), self.way, self.limit)


class Against(NamedTuple):
    """Where a figure lies over or under a limit, it speaks against a sign."""

    of: FigureKey
    way: Literal["over", "under"]
    limit: float


def lies(value: float | None, way: Literal["over", "under"], limit: float) -> bool:
    """Whether a figure is known and lies on that side of a limit."""
    return value is not None and (value > limit if way == "over" else value < limit)


class Cause(Row):
    key: str
    words: str
    prior: float = Field(gt=0)
    check: Words
    cost: int = Field(ge=1, le=3)
    change: FaultChange | None = None
    by_hand: str = ""
    """What to do where the machine has no control for the change."""
    rules: list[Rule]


class Sign(Row):
    """What is seen: its words, what else people call it, and which figures speak against it."""

    key: str
    words: str
    also: str = ""
    against: tuple[Against, ...] = ()
    judged: dict[JudgedWord, tuple[int, ...]] = {}
    """The places of the scales on a coupon's form that say the same."""
    tip: tuple[TipState, ...] = ()
    cause: list[Cause]


class FaultTable(Row):
    source: str
    sign: list[Sign]


def signs() -> list[Sign]:
    """Every sign, in the table's order."""
    return read_table("faults", FaultTable).sign


@cache
def find_sign(key: str) -> Sign:
    """The sign of that name.

    Raises
    ------
    BadInput : there is none
    """
    for sign in signs():
        if sign.key == key:
            return sign
    raise BadInput.one("sign", key, sentence("bead.choose_one_list"))


def signs_on(looks: Looks) -> list[str]:
    """The signs that a coupon's judgements speak of, by key, in the table's order.

    >>> signs_on(Looks(judged={"specks": 2, "bright": 2}))
    ['black_specks']
    """
    return [
        sign.key
        for sign in signs()
        if looks.tip in sign.tip
        or any(looks.judged.get(word) in places for word, places in sign.judged.items())
    ]


def signs_named(asked: str) -> list[Sign]:
    """The signs that people mean by some words: every word of them begins a word of the sign's names.

    >>> [sign.key for sign in signs_named("porosity")]
    ['pores']
    >>> [sign.key for sign in signs_named("crack")]
    ['crater', 'crack_along']
    """
    wanted = re.findall(r"\w+", asked.lower())
    if not wanted:
        return []
    return [
        sign
        for sign in signs()
        if all(re.search(rf"\b{re.escape(word)}", f"{sign.words} {sign.also}".lower()) for word in wanted)
    ]
