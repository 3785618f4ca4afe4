"""Bands of values: how they are joined, cut, widened, and found on a grid; and what is said at their ends."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from anvilsong.core.plan.bands import MACHINE_ENDS, Band, Nothing, holding, joined, stretch, within

MIDDLE = Band(2.0, 4.0, "cold", "hot")
NONE = Nothing("never")
values = st.floats(-50, 50)
spans = st.tuples(values, values).map(lambda pair: tuple(sorted(pair)))


@pytest.mark.parametrize(
    ("other", "both"),
    [
        (Band(3.0, 6.0, "thin", "wide"), Band(2.0, 6.0, "cold", "wide")),
        (Band(1.0, 3.0, "thin", "wide"), Band(1.0, 4.0, "thin", "hot")),
        (Band(2.5, 3.5, "thin", "wide"), MIDDLE),
        (Band(1.0, 9.0, "thin", "wide"), Band(1.0, 9.0, "thin", "wide")),
        (NONE, MIDDLE),
    ],
)
def test_two_bands_as_one(other, both):
    assert joined(MIDDLE, other) == both
    assert joined(other, MIDDLE) == both


def test_two_nothings_are_nothing():
    assert joined(NONE, Nothing("ever")) in (NONE, Nothing("ever"))


@pytest.mark.parametrize(
    ("reach", "left"),
    [
        (None, MIDDLE),
        ((0.0, 9.0), MIDDLE),
        ((2.0, 4.0), MIDDLE),
        ((2.5, 9.0), Band(2.5, 4.0, MACHINE_ENDS, "hot")),
        ((0.0, 3.5), Band(2.0, 3.5, "cold", MACHINE_ENDS)),
        ((2.5, 3.5), Band(2.5, 3.5, MACHINE_ENDS, MACHINE_ENDS)),
        ((0.0, 1.0), Nothing("cold")),  # everything the machine has lies too low
        ((5.0, 9.0), Nothing("hot")),
        ((0.0, 2.0), Band(2.0, 2.0, "cold", MACHINE_ENDS)),  # they touch
        ((4.0, 9.0), Band(4.0, 4.0, MACHINE_ENDS, "hot")),
        ((7.0, 7.0), Band(7.0, 7.0, MACHINE_ENDS, MACHINE_ENDS)),  # one value is what it has
    ],
)
def test_a_band_ends_where_the_machine_ends(reach, left):
    assert within(MIDDLE, reach) == left
    assert within(NONE, reach) == NONE


@given(spans, spans, values)
def test_cutting_gives_what_both_have(band, reach, value):
    cut = within(Band(*band), reach)
    if reach[0] == reach[1]:
        return
    is_in = isinstance(cut, Band) and cut.low <= value <= cut.high
    assert is_in == (band[0] <= value <= band[1] and reach[0] <= value <= reach[1])


def test_the_planned_value_lies_in_its_band():
    """Three hundredths outside is the grid's coarseness; further out the band gives way."""
    assert holding(MIDDLE, 3.0, None) == MIDDLE
    assert holding(MIDDLE, 4.1, None) == Band(2.0, 4.1, "cold", "hot")  # 4.1 · 1.03 over 4
    assert holding(MIDDLE, 1.95, None) == Band(1.95, 4.0, "cold", "hot")
    assert holding(MIDDLE, 4.2, None) == Nothing("hot")
    assert holding(MIDDLE, 1.9, None) == Nothing("cold")
    assert holding(NONE, 3.0, None) == NONE


def test_near_nought_a_hundredth_is_allowed():
    """An untouched trim is 0, of which three hundredths are nothing."""
    assert holding(Band(0.009, 0.2), 0.0, None) == Band(0.0, 0.2)
    assert holding(Band(0.011, 0.2, "low"), 0.0, None) == Nothing("low")


def test_no_band_is_a_mere_line():
    """2 % of the value or one hundredth to either side; not past the machine, unless the plan stands there."""
    assert holding(Band(100.0, 101.0), 100.0, None) == Band(98.0, 103.0)
    assert holding(Band(100.0, 102.0), 100.0, None) == Band(100.0, 102.0)
    assert holding(Band(0.3, 0.3), 0.3, None) == Band(0.29, 0.31)
    assert holding(Band(100.0, 100.5), 100.0, (99.0, 102.0)) == Band(99.0, 102.0)
    assert holding(Band(100.0, 100.5), 100.0, (100.4, 102.0)) == Band(100.0, 102.0)
    assert holding(Band(100.0, 100.5), 100.0, (90.0, 99.0)) == Band(98.0, 100.0)


def test_ends_are_rounded_outwards():
    assert holding(Band(1.23456, 7.65432), 3.0, None) == Band(1.2345, 7.6544)


GRID = np.arange(10.0)


def test_the_nearest_stretch_and_what_gives_at_its_ends():
    low, high = GRID >= 2, GRID <= 7
    hole = ~np.isin(GRID, (4, 5))
    limits = [("cold", low), ("hole", hole), ("hot", high)]
    assert stretch(GRID, limits, 2.2) == Band(2.0, 3.0, "cold", "hole")
    assert stretch(GRID, limits, 4.4) == Band(2.0, 3.0, "cold", "hole")
    assert stretch(GRID, limits, 4.6) == Band(6.0, 7.0, "hole", "hot")
    assert stretch(GRID, limits, 99.0) == Band(6.0, 7.0, "hole", "hot")
    assert stretch(GRID, [("cold", low)], 5.0) == Band(2.0, 9.0, "cold", "")
    assert stretch(GRID, [("hot", high)], 5.0) == Band(0.0, 7.0, "", "hot")


def test_where_nothing_holds_the_first_that_gives_is_named():
    """What never holds comes first; then what gives where the plan stands; then the first of the list."""
    low, high, never = GRID >= 6, GRID <= 3, GRID > 99
    assert stretch(GRID, [("cold", low), ("hot", high), ("dead", never)], 2.0) == Nothing("dead")
    assert stretch(GRID, [("hot", high), ("cold", low)], 2.0) == Nothing("cold")
    assert stretch(GRID, [("hot", high), ("cold", low)], 8.0) == Nothing("hot")
    assert stretch(GRID, [("hot", high), ("cold", low)], 4.6) == Nothing("hot")
