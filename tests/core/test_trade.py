"""What trades against amps, bevels that are planned, and windows that say what gives."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from anvilsong.core.coefficients import nominal
from anvilsong.core.job import read_job
from anvilsong.core.machine.model import IDEAL, Machine
from anvilsong.core.model.effects import consequences
from anvilsong.core.model.situations import situation
from anvilsong.core.plan.follow import with_settings
from anvilsong.core.plan.planner import make_plan
from anvilsong.core.prep.preheat import limit_for
from anvilsong.core.registry import foot_within, with_value
from anvilsong.core.said import in_units as text
from anvilsong.core.warming.job_arc import foot_amps


def plan_of(thickness, joint="butt", machine=IDEAL, alloy="6061", **more):
    return make_plan(
        read_job({"a": {"alloy": alloy, "thickness": thickness}, "joint": joint, **more}), machine
    )


@settings(max_examples=25, deadline=None)
@given(st.floats(1, 9), st.sampled_from(["butt", "tee", "lap", "outside_corner"]))
def test_every_pair_of_amps_and_travel_makes_the_same_pool(thickness, joint):
    plan = plan_of(round(thickness, 2), joint)
    pairs = plan.travel_for_amps
    assert [plan.settings.amps_run, plan.settings.travel_mm_s] == pytest.approx(
        min(pairs, key=lambda pair: abs(pair[1] - plan.settings.travel_mm_s)), rel=2e-3
    )
    assert pairs == sorted(pairs)  # the faster the more
    assert all(1.5 <= speed <= 8 for _, speed in pairs)
    pool = plan.consequences.pool_width_mm
    for amps, speed in pairs:
        moved = plan.settings.model_copy(update={"amps_run": amps, "travel_mm_s": speed})
        assert consequences(plan.job, moved).pool_width_mm == pytest.approx(pool, rel=0.01)


def test_a_warm_part_wants_less_to_its_limit():
    plan = plan_of(6, "tee")
    warm, amps = zip(*plan.amps_for_warmth, strict=True)
    assert (warm[0], warm[-1]) == (20, limit_for(situation(plan.job)).limit_c)
    assert list(amps) == sorted(amps, reverse=True)
    assert amps[0] == pytest.approx(plan.settings.amps_run, abs=0.1)
    hot = plan_of(6, "tee", part_temperature_c=warm[-1])
    assert hot.settings.amps_run == pytest.approx(amps[-1], rel=0.01)


def test_a_short_machine_goes_slower_before_it_says_no():
    small = Machine(name="Small", most_a=200)
    usual, slow = plan_of(4.8, "butt"), plan_of(4.8, "butt", small)
    assert usual.settings.amps_run > small.most_a
    assert 1.5 <= slow.settings.travel_mm_s < usual.settings.travel_mm_s
    assert slow.settings.amps_run <= 0.95 * small.most_a  # something in hand under the pedal
    assert slow.consequences.pool_width_mm == pytest.approx(usual.consequences.pool_width_mm, rel=0.02)
    said = next(warning for warning in slow.warnings if warning.code == "machine_slow")
    assert said.numbers["need_a"] == pytest.approx(usual.settings.amps_run, rel=0.01)
    assert "border" in said.message
    assert text(slow.reason("travel_mm_s").said).startswith("Slower than the usual")
    # A speed of one's own is kept, and then the machine is short.
    own = plan_of(4.8, "butt", small, travel_mm_s=3.3)
    assert own.settings.travel_mm_s == 3.3
    assert "machine_short" in [warning.code for warning in own.warnings]
    assert "machine_short" in [warning.code for warning in plan_of(9, "tee", small).warnings]


def test_a_bevel_is_planned_where_a_square_edge_ends():
    kinds = {t: [each.kind for each in plan_of(t).passes] for t in (4.8, 6.4, 9.5)}
    assert kinds[4.8] == ["single"]
    assert kinds[6.4] == ["root", "cap"]
    assert kinds[9.5] == ["root", "fill", "fill", "cap"]
    six = plan_of(6.4)
    root, cap = six.passes
    assert root.amps_run == six.settings.amps_run < cap.amps_run <= six.settings.amps_set
    assert six.job.bevel is None  # the job stays as it was asked
    assert "root face" in next(step for step in six.run_sheet if step.key == "bevel").text
    for more in ({"penetration": "partial"}, {"edge_prep": "square"}):
        square = plan_of(6.4, **more)
        assert square.settings.amps_run > 1.5 * six.settings.amps_run
        assert [each.kind for each in square.passes] == ["single"]
        assert "bevel" not in [step.key for step in square.run_sheet]
    mine = plan_of(6.4, bevel={"angle_deg": 90, "root_face_mm": 3})
    assert situation(mine.job).job.bevel.angle_deg == 90
    assert "bevel" not in [warning.code for warning in square.warnings]
    assert "bevel" in [warning.code for warning in plan_of(8, edge_prep="square").warnings]
    assert not situation(plan_of(8, "outside_corner").job).bevel_planned


@pytest.mark.parametrize("thickness", [0.8, 1.6, 3.2, 6.0])
def test_a_small_part_wants_fewer_amps_and_its_windows_go_along(thickness):
    """A quarter to a third under the plate tables on what is as big as a hand: by the heat that is in it half way."""
    large, hand, fist = (
        plan_of(thickness, "butt", edge_prep="square", part_size=size) for size in ("large", "hand", "fist")
    )
    shares = [plan.settings.amps_run / large.settings.amps_run for plan in (hand, fist)]
    assert 0.6 < shares[1] < shares[0] - 0.04
    assert 0.7 < shares[0] < 0.88
    assert large.windows["amps_run"][0] > hand.windows["amps_run"][0] > fist.windows["amps_run"][0]
    assert hand.consequences.pool_width_mm == pytest.approx(large.consequences.pool_width_mm, rel=0.01)
    at = situation(hand.job)
    # What the pool's own heat, half of it put in along 120 mm, makes of 120 × 80 mm of this sheet.
    seconds, grams = 120 / at.usual_travel_mm_s, 120 * 80 * thickness * 2.70 / 1000
    q = float(at.wanted_pool_heat_w(at.usual_travel_mm_s))
    rise = q * seconds / 2 / (grams * 1.0)
    assert at.cold_share == pytest.approx(1 - rise / (at.contour_c - 20), rel=1e-3)
    assert "warms as it is welded" in hand.reason("amps_run").said
    assert "warms" not in large.reason("amps_run").said
    # A short weld warms it less; and the part as it is drawn begins from the cold plate.
    assert situation(hand.job.model_copy(update={"weld_length_mm": 20.0})).cold_share > at.cold_share
    assert foot_amps(at, hand.settings, nominal()).pool_w == pytest.approx(
        foot_amps(situation(large.job), large.settings, nominal()).pool_w, rel=1e-9
    )


def test_window_ends_say_what_gives():
    plan = plan_of(3.2)
    assert plan.ends["amps_run"] == ("no root", "sags")
    assert plan.ends["amps_set"] == ("cold", "tip balls")
    assert plan.ends["ep_share"][0] == "specks"
    assert plan.ends["flow_l_min"] == ("draught wins", "turbulent")
    assert plan_of(3.2, school={"pedal": "patient"}, machine=Machine(name="Weak", most_a=150)).ends["amps_set"] == (
        "cold", "the machine ends",
    )  # fmt: skip
    # Just past an end, what it says is what happens.
    low, high = plan.windows["amps_run"]
    for amps, code in ((0.9 * low, "cold"), (1.1 * high, "melt_through")):
        tried = with_settings(plan, with_value(plan.settings, "amps_run", amps), IDEAL)
        assert code in [warning.code for warning in tried.warnings]
        assert tried.windows["amps_run"] == pytest.approx(plan.windows["amps_run"], rel=0.02)


def test_where_nothing_satisfies_there_is_a_reason_and_no_window():
    dirty = plan_of(0.6, surface="stored")
    assert dirty.best["ep_share"] is None
    assert "clean the metal better" in dirty.empty["ep_share"]
    assert "oxide_at_toes" in [warning.code for warning in dirty.warnings]
    short = plan_of(9, "tee", Machine(name="Small", most_a=190))
    assert short.windows["amps_run"] is None
    assert short.empty["amps_run"].startswith("No amps that this machine has make the pool")


@given(st.floats(20, 300), st.floats(20, 300), st.sampled_from(["amps_run", "amps_set"]), st.floats(20, 300))
def test_the_foot_never_passes_the_ceiling(run, full, key, value):
    plan = plan_of(3.2)
    start = foot_within(plan.settings.model_copy(update={"amps_run": run, "amps_set": full}), "pedal")
    assert start.amps_run <= start.amps_set == full
    moved = with_value(start, key, value)
    assert moved.amps_run <= moved.amps_set
    assert getattr(moved, key) == value
    if key == "amps_run":
        assert moved.amps_set == max(value, full)
    else:
        assert moved.amps_run == min(start.amps_run, value)
    one = with_value(start, key, value, "switch_2")
    assert one.amps_run == one.amps_set == value
