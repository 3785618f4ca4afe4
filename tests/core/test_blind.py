"""Blind judgements: an order nobody can foresee, guessing that gets half, and a sureness that is as often right as it says."""

import random

import pytest
from pydantic import ValidationError
from scipy.stats import beta, binomtest

from anvilsong.core.trials import Blind, by_guessing, shuffled, sureness


def test_both_sides_as_often():
    chance = random.Random(2)
    firsts = [[pair.first_is_left for pair in shuffled("a", (1, 2), 8, chance).pairs] for _ in range(400)]
    assert all(sum(sides) == 4 for sides in firsts)
    # Every place is left or right alike, and one says nothing of the next but that half are left.
    for place in range(8):
        assert sum(sides[place] for sides in firsts) / 400 == pytest.approx(0.5, abs=0.08)
    odd = [sum(pair.first_is_left for pair in shuffled("a", (1, 2), 5, chance).pairs) for _ in range(200)]
    assert set(odd) == {2, 3}
    dealt = shuffled("a", (1, 2), 7, chance, (["a" * 32, "b" * 32, "c" * 32], ["d" * 32]))
    counts = [sum(pair.photographs[0] == name * 32 for pair in dealt.pairs) for name in "abc"]
    assert sorted(counts) in ([2, 2, 3],)
    assert all(pair.photographs[1] == "d" * 32 for pair in dealt.pairs)


def test_the_figures_against_published_functions():
    for decided in range(0, 21):
        for preferred in range(decided + 1):
            exact = beta.sf(0.5, preferred + 1, decided - preferred + 1)
            assert sureness(preferred, decided) == pytest.approx(exact)
            if decided:
                assert by_guessing(preferred, decided) == pytest.approx(binomtest(preferred, decided).pvalue)


def judged(blind, chance, theta):
    """All pairs answered by somebody who prefers the first with this chance."""
    while (place := blind.next_pair) is not None:
        first = chance.random() < theta
        blind = blind.answered(place, "left" if first == blind.pairs[place].first_is_left else "right")
    return blind


def test_guessing_gets_half():
    chance = random.Random(7)
    counts = []
    for _ in range(1000):
        blind = shuffled("a", (1, 2), 10, chance)
        while (place := blind.next_pair) is not None:  # a guesser answers by the side, not by the bead
            blind = blind.answered(place, chance.choice(("left", "right")))
        first, second, neither = blind.preferred
        assert (first + second, neither) == (10, 0)
        counts.append(first)
    assert sum(counts) / 10_000 == pytest.approx(0.5, abs=0.015)
    assert sum(by_guessing(count, 10) < 0.05 for count in counts) / 1000 < 0.05
    # One who always says left is a guesser too: half of the firsts stand there.
    lazy = shuffled("a", (1, 2), 10, chance)
    while (place := lazy.next_pair) is not None:
        lazy = lazy.answered(place, "left")
    assert lazy.preferred == (5, 5, 0)


@pytest.mark.parametrize("pairs", [5, 10, 20])
def test_the_sureness_told_matches_simulation(pairs):
    """Of judges with any preference whatever: of those told 80 to 90 % sure, that share really prefer it."""
    chance = random.Random(pairs)
    told, true = {}, {}
    for _ in range(4000):
        theta = chance.random()
        first, second, _ = judged(shuffled("a", (1, 2), pairs, chance), chance, theta).preferred
        sure = sureness(max(first, second), pairs)
        right = (theta > 0.5) == (first > second)
        told.setdefault(round(sure, 6), []).append(sure)
        true.setdefault(round(sure, 6), []).append(right)
    for sure, rights in true.items():
        if len(rights) > 150:
            assert sum(rights) / len(rights) == pytest.approx(
                sure, abs=3.2 * (sure * (1 - sure) / len(rights)) ** 0.5 + 0.01
            )
    assert len(told) > 2


def test_undecided_pairs_count_for_neither():
    blind = shuffled("a", (1, 2), 4, random.Random(1))
    for answer in ("neither", "left", "neither", "right"):
        blind = blind.answered(blind.next_pair, answer)
    first, second, neither = blind.preferred
    assert (first + second, neither) == (2, 2)
    with pytest.raises(ValidationError):
        Blind(title="a", revisions=(1, 1), pairs=blind.pairs)
