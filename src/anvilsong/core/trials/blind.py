"""Two set-ups against each other, judged blind: pairs whose order the welder does not know.

Of n pairs in which one was preferred, the first set-up was preferred in k. Before anything is seen every
share θ of preference is as likely as any other, so that

P(θ > ½ | k, n) = P(Bin(n + 1, ½) ≤ k)

is how sure it is that the first is preferred, and 2·P(Bin(n, ½) ≥ max(k, n − k)), at most 1, is how often
guessing gets as far to either side.

References
----------
The beta distribution's relation to the binomial: I_½(n − k + 1, k + 1), NIST Digital Library of Mathematical
Functions 8.17.
"""

from __future__ import annotations

import random
from math import comb
from typing import Annotated, Literal

from pydantic import Field, model_validator

from anvilsong.core.errors import Unfit
from anvilsong.core.value import Title, Value
from anvilsong.core.words import sentence

LEAST_PAIRS, MOST_PAIRS = 4, 20
PictureName = Annotated[str, Field(pattern=r"^[0-9a-f]{32}$")]
Answer = Literal["left", "right", "neither"]


class Pair(Value):
    """One pair: whether the first set-up stands on the left, the names of both photographs where there are
    any, and what was answered.
    """

    first_is_left: bool
    photographs: tuple[PictureName, PictureName] | None = None
    """Of the first set-up and of the second."""
    answer: Answer | None = None


class Blind(Value):
    """Two versions of a job against each other."""

    kind: Literal["blind"] = "blind"
    title: Title
    revisions: tuple[int, int]
    pairs: tuple[Pair, ...] = Field(min_length=LEAST_PAIRS, max_length=MOST_PAIRS)

    @model_validator(mode="after")
    def _two(self) -> Blind:
        if self.revisions[0] == self.revisions[1] or min(self.revisions) < 1:
            raise Unfit(sentence("trials.two_different_versions"))
        return self

    @property
    def next_pair(self) -> int | None:
        """The place of the pair that is to be judged; None when all are."""
        return next((place for place, pair in enumerate(self.pairs) if pair.answer is None), None)

    def answered(self, place: int, answer: Answer) -> Blind:
        """With one more answer."""
        pairs = list(self.pairs)
        pairs[place] = pairs[place].model_copy(update={"answer": answer})
        return self.model_copy(update={"pairs": tuple(pairs)})

    @property
    def preferred(self) -> tuple[int, int, int]:
        """How often the first was preferred, the second, and neither."""
        firsts = [
            (pair.answer == "left") == pair.first_is_left
            for pair in self.pairs
            if pair.answer in ("left", "right")
        ]
        return sum(firsts), len(firsts) - sum(firsts), sum(pair.answer == "neither" for pair in self.pairs)


def shuffled(
    title: str, revisions: tuple[int, int], pairs: int, chance: random.Random,
    photographs: tuple[list[str], list[str]] | None = None,
) -> Blind:  # fmt: skip
    """A judgement of so many pairs, in an order that chance makes: each set-up on the left in half of them,
    as nearly as the count allows; photographs by turns, each as often as the others.
    """
    sides = [place % 2 == 0 for place in range(pairs)]
    if pairs % 2 and chance.random() < 0.5:
        sides = [not side for side in sides]
    chance.shuffle(sides)
    shown: list[tuple[str, str] | None] = [None] * pairs
    if photographs is not None:
        dealt = [_dealt(pile, pairs, chance) for pile in photographs]
        shown = list(zip(dealt[0], dealt[1], strict=True))
    made = [Pair(first_is_left=side, photographs=pair) for side, pair in zip(sides, shown, strict=True)]
    return Blind(title=title, revisions=revisions, pairs=tuple(made))


def _dealt(pile: list[str], count: int, chance: random.Random) -> list[str]:
    """So many out of a pile, one after another, shuffled anew each time round."""
    dealt: list[str] = []
    while len(dealt) < count:
        dealt += chance.sample(pile, len(pile))
    return dealt[:count]


def sureness(preferred: int, decided: int) -> float:
    """How sure it is that the set-up that was preferred so often is the preferred one: P(θ > ½ | k, n).

    >>> sureness(0, 0), sureness(7, 8) > 0.97
    (0.5, True)
    """
    return sum(comb(decided + 1, each) for each in range(preferred + 1)) / float(2 ** (decided + 1))


def by_guessing(preferred: int, decided: int) -> float:
    """How often guessing goes as far to one side or the other.

    >>> by_guessing(4, 8), by_guessing(8, 8) == 2 / 256
    (1.0, True)
    """
    most = max(preferred, decided - preferred)
    return min(1.0, 2 * sum(comb(decided, each) for each in range(most, decided + 1)) / float(2**decided))
