"""Coupons: the verdict, and a next change that the model says will land."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.stats import norm

from anvilsong.core.bead.bead_models import Shot
from anvilsong.core.bead.change import next_change
from anvilsong.core.bead.coupon import Readings
from anvilsong.core.bead.ladder import Belief, believed
from anvilsong.core.bead.one_coupon import fit_one
from anvilsong.core.bead.verdict import as_run, read
from anvilsong.core.coefficients import nominal
from anvilsong.core.job import read_job
from anvilsong.core.machine.panel import show_on_panel
from anvilsong.core.model.effects import consequences
from anvilsong.core.plan.planner import make_plan
from anvilsong.core.registry import get_value
from anvilsong.core.said import in_units as text
from anvilsong.demo.machines import CURLEW, HERON, MACHINES

JOB = read_job({"a": {"alloy": "5083", "thickness": 3}, "joint": "butt"})


def coupon(left, right=None, width=5.8, seconds=27.8, **more):
    return Readings(
        bead_width_mm=width,
        border_left_mm=left,
        border_right_mm=left if right is None else right,
        seconds=seconds,
        length_mm=100,
        **more,
    )


def answer(readings, job=JOB, machine=CURLEW):
    plan = make_plan(job, machine)
    verdict = read(job, plan.settings, readings, machine)
    return plan, verdict, next_change(job, plan.settings, readings, verdict, machine)


def test_as_wanted_is_kept():
    _, verdict, change = answer(coupon(1.0))
    assert (verdict.border_state, change.kind) == ("as_wanted", "keep")


@pytest.mark.parametrize(
    "machine", [m for m in MACHINES if m.least_ep_share < m.most_ep_share], ids=lambda m: m.name
)
@pytest.mark.parametrize(
    ("border", "state", "more"), [(0.1, "thin", True), (0.3, "thin", True), (2.4, "wide", False)]
)
def test_the_change_goes_the_right_way_in_panel_steps(machine, border, state, more):
    plan, verdict, change = answer(coupon(border), machine=machine)
    assert verdict.border_state == state
    assert change.kind == "setting"
    before, after = get_value(plan.settings, change.setting), get_value(change.settings, change.setting)
    assert (after > before) == more
    assert change.expected_border_mm > border if more else change.expected_border_mm < border
    # The panel can stand exactly there.
    line = next(
        line for line in show_on_panel(change.settings, machine).lines if line.setting == change.setting
    )
    assert line.canonical == pytest.approx(after, abs=1e-6)
    assert change.on_panel.startswith(line.label)
    assert consequences(JOB, change.settings, machine).tungsten_load <= 0.85 + 1e-6
    # One change and, under a pedal, the foot that follows it.
    changed = {
        key for key, value in change.settings.model_dump().items() if value != plan.settings.model_dump()[key]
    }
    assert changed <= {change.setting, "amps_run"}


def test_appearance_prefers_the_trim():
    job = read_job({"a": {"alloy": "5083", "thickness": 3}, "joint": "butt", "purposes": ["appearance"]})
    _, _, change = answer(coupon(1.2), job, HERON)
    assert change.setting == "ep_trim"


def test_an_edge_that_strays_is_speed_or_arc_length():
    """Over 15 % of the border; where there is hardly any, its edge says nothing."""
    planned = make_plan(JOB, HERON).settings

    def said(stray, border=1.0):
        readings = coupon(border).model_copy(update={"border_stray_mm": stray})
        return [line for line in read(JOB, planned, readings, HERON).said if "wanders" in line]

    (line,) = said(0.16)
    assert "16 % of it: speed or arc length varies" in line
    assert said(0.14) == said(None) == said(0.2, 0.25) == said(0.2, 2.0) == []


def test_uneven_borders_are_the_hand():
    _, verdict, change = answer(coupon(1.4, 0.5))
    assert verdict.uneven
    assert change.kind == "hand"
    assert "torch square" in change.said


def test_a_wide_bead_wants_fewer_amps_and_a_fast_hand_a_slower_one():
    plan, verdict, change = answer(coupon(1.0, width=8.5))
    assert verdict.width_miss > 1
    # Under a pedal the foot eases off; the machine stays. With a torch switch it is the machine.
    assert (change.setting, change.settings.amps_set) == ("amps_run", plan.settings.amps_set)
    assert change.settings.amps_run < plan.settings.amps_run
    assert text(change.said).startswith("Ease off")
    switched = JOB.model_copy(update={"control": "switch_2"})
    plan, _, change = answer(coupon(1.0, width=8.5), switched)
    assert change.setting == "amps_set"
    assert change.settings.amps_run == change.settings.amps_set < plan.settings.amps_set
    # What the foot has no room for, the machine gets.
    plan, _, change = answer(coupon(1.0, width=3.6))
    assert change.setting == "amps_set"
    assert plan.settings.amps_run < change.settings.amps_run < change.settings.amps_set
    _, _, hurried = answer(coupon(1.0, width=4.2, seconds=18))
    assert hurried.kind == "hand"
    assert "slower" in hurried.said


@settings(max_examples=25, deadline=None)
@given(st.floats(0.3, 2.5), st.floats(4.5, 8.0))
def test_one_coupon_moves_the_model_onto_itself(border, width):
    plan = make_plan(JOB, CURLEW)
    readings = coupon(border, width=width)
    fitted = fit_one(JOB, as_run(plan.settings, readings), readings)
    seen = consequences(JOB, as_run(plan.settings, readings), CURLEW, fitted)
    assert seen.pool_width_mm == pytest.approx(width, rel=0.01)
    assert seen.border_mm == pytest.approx(border, abs=0.03)
    assert fitted.foot == nominal().foot


def test_readings_out_of_reason_are_refused():
    with pytest.raises(ValueError, match=r"greater than or equal to 0\.5"):
        coupon(1.0, seconds=0)


def test_a_machine_with_no_balance_names_what_else_must_move():
    old = next(machine for machine in MACHINES if machine.least_ep_share == machine.most_ep_share)
    _, _, thin = answer(coupon(0.1), machine=old)
    assert (thin.kind, thin.setting) == ("prep", None)
    assert "brush again" in thin.said
    plan, _, wide = answer(coupon(2.6), machine=old)
    # A faster hand wants more amps than a thin tungsten bears at ease: then the settings stay.
    thin = plan.settings.tungsten.model_copy(update={"diameter_mm": 2.4})
    made = plan.settings.model_copy(update={"tungsten": thin, "amps_set": plan.settings.amps_run})
    hot = next_change(JOB, made, coupon(2.6), read(JOB, made, coupon(2.6), old), old)
    assert (hot.kind, hot.settings) == ("hand", made)
    assert (wide.kind, wide.setting) == ("setting", "travel_mm_s")
    assert plan.settings.travel_mm_s < wide.settings.travel_mm_s <= 1.4 * plan.settings.travel_mm_s
    assert wide.expected_border_mm < 2.6
    assert wide.expected_width_mm == pytest.approx(5.8, rel=0.03)  # the foot holds the pool


def test_what_was_seen_counts():
    good = {"left": 1.0}
    for seen, words in (
        ({"back_side": "none"}, "back side is not reached"),
        ({"back_side": "sagging"}, "sags"),
        ({"crater": "cracked"}, "feed filler rod into the crater"),
    ):
        _, verdict, change = answer(coupon(**good, **seen))
        assert verdict.border_state == "as_wanted"
        assert not verdict.is_good
        assert change.kind == "hand"
        assert words in change.said
    assert answer(coupon(**good, back_side="full", crater="filled"))[2].kind == "keep"


def test_the_chance_that_settings_are_right():
    """Both misses normal around what is believed: the chance to lie within one tolerance of the aim."""
    _, verdict, _ = answer(coupon(1.0, width=6.0))
    tolerance = (verdict.aim_mm[1] - verdict.aim_mm[0]) / 2
    width = 0.12 * verdict.wanted_width_mm
    for sd_bead, sd_border in ((0.2, 0.1), (0.5, 0.4), (0.1, 0.9)):
        wanted = 1.0
        for miss, sd in ((verdict.width_miss, sd_bead / width), (verdict.border_miss, sd_border / tolerance)):
            wanted *= norm.cdf((1 - miss) / sd) - norm.cdf((-1 - miss) / sd)
        belief = Belief(coupon(1.0), sd_bead, sd_border)
        assert belief.chance(verdict) == pytest.approx(wanted, rel=1e-6)


def test_what_is_believed_is_known_the_better_the_more_coupons():
    plan = make_plan(JOB, CURLEW)
    shot = Shot(JOB, plan.settings, coupon(1.0))
    one, four = believed([shot]), believed([shot] * 4)
    assert four.bead_sd_mm < 0.8 * one.bead_sd_mm
    assert four.border_sd_mm < one.border_sd_mm
    assert 0.02 < one.bead_sd_mm / 5.8 < 0.12
    assert 0.05 < four.border_sd_mm < 0.5
