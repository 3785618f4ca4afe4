"""Which way things go, over many jobs; and what no plan may do."""

import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from anvilsong.core.job import Job, read_job
from anvilsong.core.machine.model import Machine
from anvilsong.core.model.effects import consequences
from anvilsong.core.plan.planner import make_plan
from anvilsong.core.registry import with_value
from anvilsong.core.torch.cup import bore_mm
from anvilsong.core.torch.gas import flow_for

ALLOYS = st.sampled_from(["1050A", "3003", "5005", "5052", "5083", "6063", "6061", "6082", "7005", "A356"])
THICK = st.floats(0.6, 6.0).map(lambda t: round(t, 2))
JOINTS = st.sampled_from(
    ["butt", "lap", "tee", "outside_corner", "inside_corner", "edge", "tube_tube", "tube_plate"]
)
# Wide enough that no limit of the machine hides a direction.
WIDE = Machine(name="Wide", least_a=1, most_a=1000)
FEW = settings(max_examples=40, deadline=None)


def need(**given):
    return make_plan(Job(**given), WIDE).settings.amps_run


def side(alloy, thickness):
    return {"alloy": alloy, "thickness": thickness}


@FEW
@given(ALLOYS, THICK, st.floats(0.1, 3.0), JOINTS)
def test_thicker_wants_more(alloy, t, more, joint):
    speed = 3.5
    # From 4.8 to 5.8 mm a butt's bevel grows, and each of its passes wants less than the last square edge.
    assume(not (joint in ("butt", "tube_tube") and t < 5.8 and round(t + more, 2) > 4.8))
    thin = need(a=side(alloy, t), joint=joint, travel_mm_s=speed)
    assert need(a=side(alloy, round(t + more, 2)), joint=joint, travel_mm_s=speed) > thin
    # Also with the usual speed, which falls a little as plates grow.
    assert need(a=side(alloy, round(t + more, 2)), joint=joint) > need(a=side(alloy, t), joint=joint) * 0.999


@FEW
@given(THICK, JOINTS)
def test_more_conductive_wants_more(t, joint):
    # The same family and filler, so that only conductivity (and the contour, within 3 K) moves.
    assert need(a=side("6063", t), joint=joint) > need(a=side("6061", t), joint=joint)
    assert need(a=side("1050A", t), joint=joint) > need(a=side("5083", t), joint=joint)


@FEW
@given(ALLOYS.filter(lambda name: name != "A356"), THICK, JOINTS, st.floats(10, 39))
def test_colder_and_faster_want_more(alloy, t, joint, warmer):
    cold = need(a=side(alloy, t), joint=joint)
    assert cold > need(a=side(alloy, t), joint=joint, part_temperature_c=20 + warmer)
    slow, fast = (need(a=side(alloy, t), joint=joint, travel_mm_s=v) for v in (3.0, 4.5))
    assert fast > slow


@FEW
@given(ALLOYS, THICK)
def test_tee_wants_more_than_butt_and_outside_corner_about_as_much(alloy, t):
    butt = need(a=side(alloy, t), joint="butt", edge_prep="square")
    assert need(a=side(alloy, t), joint="tee") > butt
    assert 0.85 * butt < need(a=side(alloy, t), joint="outside_corner") < 1.05 * butt


@FEW
@given(ALLOYS, THICK, JOINTS, st.floats(0.15, 0.5), st.floats(0.02, 0.2))
def test_more_positive_share(alloy, t, joint, share, more):
    plan = make_plan(Job(a=side(alloy, t), joint=joint), WIDE)
    less, most = (
        consequences(plan.job, with_value(plan.settings, "ep_share", s)) for s in (share, share + more)
    )
    assert most.work_heat_w < less.work_heat_w
    assert most.tungsten_load > less.tungsten_load
    assert most.border_mm >= less.border_mm
    assume(less.border_mm > 0.05)
    assert most.border_mm > less.border_mm


@FEW
@given(st.integers(4, 16), st.integers(1, 6))
def test_bigger_cup_wants_more_flow(cup, more):
    assert flow_for(1200, bore_mm(cup + more)) > flow_for(1200, bore_mm(cup))


@FEW
@given(
    ALLOYS,
    THICK,
    JOINTS,
    st.sampled_from(["pedal", "switch_4"]),
    st.sampled_from(["lean", "middle", "cleaning"]),
)
def test_every_plan_keeps_its_own_limits(alloy, t, joint, control, balance):
    plan = make_plan(
        read_job({"a": side(alloy, t), "joint": joint, "control": control, "school": {"balance": balance}})
    )
    s, seen = plan.settings, plan.consequences
    assert 0.20 <= s.ep_share <= 0.45
    assert seen.tungsten_load <= 0.85 + 1e-3
    assert seen.tungsten_load_set <= 1.05 + 2e-3
    assert s.amps_set >= s.amps_run
    assert (s.amps_set == s.amps_run) == (control != "pedal")
    assert seen.work_heat_w == pytest.approx(seen.heat_wanted_w, rel=0.02) or s.amps_run in (5, 400)
    assert all(low <= high for low, high in filter(None, plan.windows.values()))


def test_continuous_across_the_steps_of_the_tables():
    """No cliff in amps where a table's row changes (4.8 mm, 6 mm legs, travel's points)."""
    for joint in ("butt", "tee", "outside_corner"):
        for t in (1.6, 3.2, 4.8, 6.0, 6.4, 9.5):
            below, above = (need(a=side("6061", t + d), joint=joint) for d in (-0.005, 0.005))
            assert above == pytest.approx(below, rel=0.02), (joint, t)
