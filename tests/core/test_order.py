"""Order, stops, turning, pull and glove, by arithmetic of their own."""

import math
from itertools import pairwise

import pytest

from anvilsong.core.coefficients import nominal
from anvilsong.core.errors import BadInput
from anvilsong.core.job import read_job
from anvilsong.core.model import situation
from anvilsong.core.plan import make_plan
from anvilsong.core.prep import glove_heat, pulled, sides, stretches, tie_in, turning
from anvilsong.core.said import in_units
from anvilsong.demo.machines import HERON

C = nominal()


def planned(alloy="6061", thickness=3, joint="tee", **more):
    job = read_job({"a": {"alloy": alloy, "thickness": thickness}, "joint": joint} | more)
    plan = make_plan(job, HERON)
    return situation(job), plan


def pull_of(**given):
    at, plan = planned(**given)
    return at, plan, pulled(at, plan.settings, plan.consequences, plan.passes)


@pytest.mark.parametrize("length", [5, 149, 250, 300, 415, 1000, 3333])
def test_stretches_cover_the_seam_once_and_run_into_what_is_welded(length):
    found = stretches(float(length))
    ends = sorted(sorted(each) for each in found)
    assert ends[0][0] == pytest.approx(0, abs=1e-9)
    assert ends[-1][1] == pytest.approx(length)
    assert all(one[1] == pytest.approx(other[0]) for one, other in pairwise(ends))
    if len(found) == 1:
        assert length <= 250
        return
    assert all(40 < abs(to - since) < 140 for since, to in found)
    done = []
    for number, (since, to) in enumerate(found):
        if number < 2:  # both begin in the middle
            assert since == pytest.approx(length / 2)
        else:  # each ends on one that is there
            assert any(abs(to - end) < 1e-6 for end in done)
            assert all(abs(since - end) > 1e-6 for end in done)
        done += [since, to]
    # Never two on the same side one after the other, so that both halves warm alike.
    middles = [(since + to) / 2 < length / 2 for since, to in found]
    assert all(one != other for one, other in zip(middles[::2], middles[1::2], strict=True))


def test_a_tee_closes_by_about_a_degree():
    """What welders find on sheet of 1.5 to 6 mm; free and clamped; the other side takes most of it back."""
    for thickness in (2, 3, 4, 6):
        _, _, found = pull_of(thickness=thickness)
        assert 0.7 < found.closes_deg < 2
        assert found.closes_fixed_deg == pytest.approx(found.closes_deg / 2)
        assert found.back_deg == pytest.approx(0.6 * found.closes_deg)


def test_pull_by_a_second_calculation():
    at, plan, found = pull_of(joint="butt")
    seen, travel = plan.consequences, plan.settings.travel_mm_s
    rise = at.contour_c - 20
    assert math.radians(found.closes_deg) == pytest.approx(
        24e-6 * rise * (seen.pool_width_mm - seen.root_width_mm) / 3
    )
    rho_c = 2.70e-3 * 1.0  # g/mm³ × J/(g·K)
    across = 24e-6 / rho_c * seen.work_heat_w / travel / 3
    assert found.across_mm == pytest.approx(across, rel=0.02)
    force = 0.335 * 70_000 * 24e-6 / rho_c * seen.work_heat_w / travel
    assert found.force_kn == pytest.approx(force / 1000, rel=0.02)
    assert found.along_mm_m == pytest.approx(force / (70_000 * 200 * 3) * 1000, rel=0.02)
    assert found.back_deg is None
    # A wider part bears the same pull with less.
    wide = pull_of(joint="butt", part={"width_mm": 400})[2]
    assert wide.along_mm_m == pytest.approx(found.along_mm_m / 2)
    assert wide.force_kn == found.force_kn


def test_further_passes_bend_more_and_shorten_little_more():
    at, plan, found = pull_of(alloy="5083", thickness=10, joint="butt")
    assert len(plan.passes) > 1
    one = pulled(at, plan.settings, plan.consequences, plan.passes[:1])
    assert found.closes_deg > one.closes_deg
    heats = [each.amps_run for each in plan.passes]
    ratio = (0.75 * max(heats) + 0.25 * sum(heats)) / heats[0]
    assert found.across_mm == pytest.approx(ratio * one.across_mm)


def test_hotter_and_slower_pulls_more_and_warm_less():
    at, plan, found = pull_of(joint="butt")
    slow = plan.settings.model_copy(update={"travel_mm_s": plan.settings.travel_mm_s / 2})
    assert pulled(at, slow, plan.consequences, plan.passes).across_mm == pytest.approx(2 * found.across_mm)
    warm = plan.settings.model_copy(update={"preheat_c": 120.0})
    assert pulled(at, warm, plan.consequences, plan.passes).closes_deg < found.closes_deg


def test_tie_in_between_the_temperatures_it_knows():
    again = tie_in(8, [(20, 100), (100, 90), (180, 70)], 104)
    assert (again.overlap_mm, again.cold_a, again.warm_a) == (12, 104, 85)
    assert tie_in(3, [], 60) == (8, 60, 60)
    assert tie_in(3, [(20, 60), (80, 50)], 60).warm_a == 50
    assert tie_in(3, [(150, 40)], 60).warm_a == 40
    _, plan = planned()
    again = tie_in(plan.consequences.pool_width_mm, plan.amps_for_warmth, plan.settings.amps_run)
    assert 0.75 * again.cold_a < again.warm_a < 0.95 * again.cold_a


def test_turned_at_the_hands_speed():
    _, plan = planned()
    speed = plan.settings.travel_mm_s
    found = turning(50, plan.settings, 10)
    assert found.rpm == pytest.approx(60 * speed / (math.pi * 50))
    assert found.turn_s * found.rpm == pytest.approx(60)
    assert (found.whole_s - found.turn_s) * speed == pytest.approx(10)
    for diameter in (2.9, 2001):
        with pytest.raises(BadInput) as refusal:
            turning(diameter, plan.settings, 10)
        assert refusal.value.problems[0].field == "diameter"


def test_the_glove():
    at, plan = planned()
    some, more = (glove_heat(at, plan.settings, amps) for amps in (100, 200))
    assert 40 < some.seconds < 100
    assert more.seconds < some.seconds / 2
    assert some.length_mm == pytest.approx(some.seconds * plan.settings.travel_mm_s)
    assert some.rests == math.ceil(300 / some.length_mm) - 1
    short, _ = planned(weld_length_mm=20)
    assert glove_heat(short, plan.settings, 100).rests == 0


@pytest.mark.parametrize(
    ("given", "says", "not_says"),
    [
        ({"joint": "tee"}, "Both sides", "box"),
        ({"joint": "outside_corner"}, "1, 3, 2, 4", "Both sides"),
        ({"joint": "butt"}, "One side", "turn"),
        ({"joint": "butt", "thickness": 6}, "grind back to sound root", "One side"),
        ({"joint": "build_up"}, "chill bar", "Both sides"),
    ],
)
def test_which_side_first(given, says, not_says):
    said = " ".join(in_units(each) for each in sides(planned(**given)[0]))
    assert says in said
    assert not_says not in said


def test_tubes_go_by_quarters():
    job = {"a": {"alloy": "6061", "thickness": 3, "outside_diameter_mm": 40}, "joint": "tube_tube"}
    assert "four quarters" in in_units(sides(situation(read_job(job)))[0])
