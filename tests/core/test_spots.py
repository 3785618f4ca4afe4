"""Stationary arcs: a hidden knob comes back from its cleaned discs, and refusals say what is missing."""

import numpy as np
import pytest

from anvilsong.core.arc.waveform import Wave
from anvilsong.core.bead import calibrate as calibrate_coupons
from anvilsong.core.bead.tip_fit import fit_tips
from anvilsong.core.errors import BadInput
from anvilsong.core.machine import Scale, calibrate
from anvilsong.core.torch.tungsten import tungsten_load
from anvilsong.core.trials import (
    Spot,
    SpotTest,
    StartTest,
    balled_load,
    balls_from,
    counts_otherwise,
    least_start_a,
    shares_of,
    turned_round,
)

HOURS = np.linspace(7, 17, 5)


def discs(share_at, rng, *, places=HOURS, each=3, seconds=0.8, ruler=0.1, spread=1.91, dose=0.29, amps=120):
    """Cleaned discs by plain integration of a Gaussian arc's charge over rings, read with a ruler."""
    radius = np.linspace(0, 12, 4801)
    spots = []
    for place in places:
        charge = share_at(place) * amps * seconds
        density = charge / (2 * np.pi * spread**2) * np.exp(-(radius**2) / (2 * spread**2))
        clean = radius[density >= dose]
        wide = 2 * float(clean[-1]) if len(clean) else 0.5
        spots += [
            Spot(position=place, seconds=seconds, cleaned_mm=max(wide + rng.normal(0, ruler), 0.5))
            for _ in range(each)
        ]
    return SpotTest(amps=amps, spots=tuple(spots))


def knob(low, high, bend):
    return lambda place: low + (high - low) * ((place - 7) / 10) ** bend


def test_a_hidden_knob_within_three_points_after_five_places():
    """Knobs of any bend, arcs and metal as shops have them: nine of ten are known to 3 points everywhere."""
    rng, known, along = np.random.default_rng(4), 0, np.linspace(7, 17, 41)
    for number in range(60):
        low, high, bend = rng.uniform(0.1, 0.25), rng.uniform(0.45, 0.7), np.exp(rng.normal(0, 0.35))
        if number % 2:  # the other way round
            low, high = high, low
        hidden = knob(low, high, bend)
        spread, dose = 1.91 * np.exp(rng.normal(0, 0.08)), 0.29 * np.exp(rng.normal(0, 0.15))
        test = discs(hidden, rng, spread=spread, dose=dose)
        found = calibrate(shares_of(test, Scale(points=((7, low), (17, high)), shown_as="clock")))
        known += max(abs(found.value_at(place) - hidden(place)) for place in along) < 0.03
    assert known >= 53


def test_without_scatter_it_is_exact_and_says_how_sure():
    rng, hidden = np.random.default_rng(1), knob(0.2, 0.6, 1.0)
    scale = Scale(points=((7, 0.2), (17, 0.6)), shown_as="clock")
    points = shares_of(discs(hidden, rng, ruler=0), scale)
    assert [point.position for point in points] == pytest.approx(list(HOURS))
    assert [point.value for point in points] == pytest.approx([hidden(place) for place in HOURS], abs=0.004)
    assert points[0].sd == points[-1].sd == 0
    few, many = (max(p.sd for p in shares_of(discs(hidden, rng, each=each), scale)) for each in (1, 9))
    assert 0.002 < many < few < 0.05
    # Nine of ten of what is told lie within 1.645 of its own errors.
    within = []
    for _ in range(40):
        found = shares_of(discs(hidden, rng), scale)
        within += [abs(p.value - hidden(p.position)) <= 1.645 * p.sd for p in found[1:-1]]
    assert 0.8 < np.mean(within) <= 1


def test_other_seconds_at_one_place_say_the_same():
    rng, hidden = np.random.default_rng(2), knob(0.15, 0.6, 1.3)
    scale = Scale(points=((7, 0.15), (17, 0.6)), shown_as="clock")
    even = discs(hidden, rng, ruler=0)
    longer = discs(hidden, rng, ruler=0, places=[HOURS[2]], seconds=2.0)
    mixed = SpotTest(amps=120, spots=(*even.spots[:6], *longer.spots, *even.spots[9:]))
    values = [[point.value for point in shares_of(test, scale)] for test in (even, mixed)]
    assert values[1] == pytest.approx(values[0], abs=0.01)


def test_what_is_missing_is_said():
    rng, hidden = np.random.default_rng(3), knob(0.2, 0.6, 1.0)
    scale = Scale(points=((7, 0.2), (17, 0.6)), shown_as="clock")
    for places, words in (
        ((8, 12, 17), "each end"),
        ((7, 12, 14), "each end"),
        ((7, 17), "between the ends"),
        ((7, 12, 17, 18), "does not go so far"),
    ):
        with pytest.raises(BadInput) as trouble:
            shares_of(discs(hidden, rng, places=places), scale)
        assert words in str(trouble.value.problems[0].allowed.in_units("mm"))


def test_the_fewest_amps_that_light_ten_of_ten():
    def least(*rows):
        return least_start_a(StartTest(tungsten_mm=2.4, rows=[{"amps": a, "lit": lit} for a, lit in rows]))

    assert least((5, 3), (8, 9), (11, 10), (14, 10)) == 11
    assert least((5, 10), (8, 9), (11, 10)) == 11  # what lit below was luck
    assert least((5, 10), (8, 10)) == 5
    assert least((5, 3), (8, 9)) is None


def test_the_ball_is_of_the_tungsten_that_was_used():
    scale = Scale(points=((7, 0.2), (17, 0.6)), shown_as="clock")
    plain = discs(knob(0.2, 0.6, 1.0), np.random.default_rng(5), ruler=0)
    spots = tuple(
        spot.model_copy(update={"ball_mm": 2.0 + 0.2 * (spot.position - 7)}) for spot in plain.spots
    )
    points = shares_of(plain, scale)
    for size, share in ((2.4, 0.5), (3.2, None), (1.6, 0.3)):
        test = plain.model_copy(update={"spots": spots, "tungsten_mm": size})
        found = balls_from(test, points)
        assert found == (None if share is None else pytest.approx(share, abs=0.02))
    assert balls_from(plain.model_copy(update={"spots": spots}), points) is None


def test_a_knob_that_counts_the_other_half_is_found_out_and_turned_round():
    rng = np.random.default_rng(12)
    right, wrong, flagged = 0, 0, 0
    for _ in range(60):
        low, high = rng.uniform(0.1, 0.25), rng.uniform(0.4, 0.7)
        scale = Scale(points=((7, low), (17, high)), shown_as="clock")
        right += not counts_otherwise(discs(knob(low, high, 1.2), rng), scale)
        wrong += counts_otherwise(discs(knob(high, low, 1.2), rng), scale)
        # Ends that lie near one another tell nothing either way.
        near = Scale(points=((7, 0.30), (17, 0.302)), shown_as="clock")
        flagged += counts_otherwise(discs(knob(0.30, 0.302, 1), rng), near)
    assert right == wrong == 60
    assert flagged <= 2
    bare = Scale(points=((7, 0.15), (12, 0.28), (17, 0.45)), shown_as="clock")
    assert turned_round(bare).points == ((7, 0.45), (12, 0.28), (17, 0.15))
    digits = Scale(points=((15, 0.15), (50, 0.5)), step=1)
    assert turned_round(digits).points == ((15, 0.85), (50, 0.5))
    assert turned_round(turned_round(digits)) == digits


def test_a_tip_that_balled_on_scrap_counts_for_what_tips_bear():
    rng, hidden = np.random.default_rng(3), knob(0.2, 0.6, 1.0)
    test = discs(hidden, rng, ruler=0, amps=150)
    scale = Scale(points=((7, 0.2), (17, 0.6)), shown_as="clock")
    balled = [
        spot.model_copy(update={"ball_mm": 3.3 if spot.position >= 14.5 else 2.5}) for spot in test.spots
    ]
    test = test.model_copy(update={"spots": tuple(balled), "tungsten_mm": 2.4})
    load = balled_load(test, shares_of(test, scale))
    assert load == pytest.approx(float(tungsten_load(Wave(150, hidden(14.5), 100), 2.4, "WLa 20")), abs=0.02)
    assert balled_load(test.model_copy(update={"tungsten_mm": None}), shares_of(test, scale)) is None
    # The lower the load, the less this shop's tips bear; far over it says nothing new, and far under it is misread.
    assert fit_tips([], [0.85]).limit < fit_tips([], [1.0]).limit < 0.99
    assert fit_tips([], [0.4]).limit > 0.95
    assert fit_tips([], [2.0]).limit == pytest.approx(1, abs=0.01)
    assert fit_tips([], [0.8]).tips == 1
    assert calibrate_coupons([], balled_at=[0.9]).coefficients.tungsten_limit < 0.95
    assert calibrate_coupons([]).coefficients.tungsten_limit == 1
