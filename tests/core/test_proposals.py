"""What a panel proposes: the row for a job, between two rows and past the ends, and what each difference does."""

import pytest

from anvilsong.core.coefficients import nominal
from anvilsong.core.complaints import validated
from anvilsong.core.errors import BadInput
from anvilsong.core.job import read_job
from anvilsong.core.plan import make_plan
from anvilsong.core.trials import Proposal, Proposals, as_proposed, held_against, proposal_for
from anvilsong.demo.machines import HERON

BUTT = {"a": {"alloy": "5083", "thickness": 3}, "joint": "butt", "machine": "Heron 320"}
WAVES = {"Steep": 0, "Wavy": 3}
TABLE = Proposals(
    rows=(
        Proposal(
            thickness_mm=4,
            panel={"amps_set": 180, "shape_en": 0, "ep_share": 66},
            tungsten_mm=3.2,
            rod_mm=3.2,
            flow_l_min=10,
        ),
        Proposal(
            thickness_mm=2,
            panel={"amps_set": 91, "shape_en": 3, "post_flow_s": 6},
            tungsten_mm=2.4,
            flow_l_min=8,
        ),
        Proposal(thickness_mm=3, joint="tee", panel={"amps_set": 150}),
        Proposal(thickness_mm=3, joint="tee", position="overhead", panel={"amps_set": 128}),
    )
)


def found(**change):
    return proposal_for(TABLE, read_job(BUTT | change), HERON)


def at(thickness):
    return found(a={"alloy": "5083", "thickness": thickness})


def test_between_two_rows_figures_are_interpolated_and_steps_are_not():
    one = at(3)
    assert one.between_mm == (2, 4)
    assert not one.beyond
    # 135.5 A on a panel that counts by twos; a quarter of the way the wave and the tungsten are the nearer row's.
    assert one.row.panel == {"amps_set": 136, "shape_en": 3, "post_flow_s": 6, "ep_share": 66}
    assert (one.row.tungsten_mm, one.row.rod_mm, one.row.flow_l_min) == (2.4, 3.2, 9)
    assert at(3.1).row.panel["shape_en"] == 0
    assert at(3.1).row.tungsten_mm == 3.2
    assert at(2).row.panel["amps_set"] == 92  # 91 is between two steps, and said as one
    assert at(2).between_mm == (2, 2)


def test_past_the_ends_the_nearest_row_stands_and_that_is_said():
    assert (at(6).row.panel["amps_set"], at(6).beyond) == (180, True)
    assert (at(1).row.panel["amps_set"], at(1).beyond) == (92, True)
    assert not at(4).beyond


def test_rows_that_name_the_joint_and_position_win():
    assert found(joint="tee").row.panel["amps_set"] == 150
    assert found(joint="tee", position="overhead").row.panel["amps_set"] == 128
    assert found(joint="lap").row.panel["amps_set"] > 90  # any joint's
    only = Proposals(rows=TABLE.rows[2:])
    assert proposal_for(only, read_job(BUTT), HERON) is None


def test_each_difference_stands_alone_and_all_together():
    job, c = read_job(BUTT | {"control": "switch_4"}), nominal()
    plan = make_plan(job, HERON)
    row = Proposal(thickness_mm=3, panel={"amps_set": 150, "ep_share": 60}, tungsten_mm=1.6, cup=8)
    proposed = as_proposed(row, job, HERON, plan.settings)
    assert (proposed.amps_set, proposed.amps_run, proposed.ep_share) == (150, 150, pytest.approx(0.40))
    assert (proposed.tungsten.diameter_mm, proposed.cup.number) == (1.6, 8)
    made = held_against(plan.settings, proposed, job, HERON, c)
    by_key = {one.key: one for one in made.differences}
    assert {"amps_set", "ep_share", "tungsten_mm", "cup_number"} <= set(by_key)
    amps, share, thin = (by_key[key] for key in ("amps_set", "ep_share", "tungsten_mm"))
    assert amps.heat == pytest.approx(150 / plan.settings.amps_set, abs=0.01)
    assert amps.bead_mm[1] > amps.bead_mm[0]
    assert share.heat < 1
    assert share.border_mm[1] > share.border_mm[0]
    assert thin.heat == pytest.approx(1)
    assert thin.load[1] > 1.5 * thin.load[0]
    assert thin.brings
    assert not amps.brings or made.whole.brings
    assert made.whole.heat == pytest.approx(amps.heat * share.heat, rel=0.02)
    # The plan itself differs in nothing.
    same = held_against(plan.settings, plan.settings, job, HERON, c)
    assert same.differences == ()
    assert same.whole.heat == 1


def test_under_a_pedal_the_foot_stays_unless_the_ceiling_takes_it_along():
    job = read_job(BUTT)
    plan = make_plan(job, HERON).settings
    more, less = (
        as_proposed(Proposal(thickness_mm=3, panel={"amps_set": amps}), job, HERON, plan)
        for amps in (200, 60)
    )
    assert more.amps_run == plan.amps_run
    assert less.amps_run == 60
    made = held_against(plan, more, job, HERON, nominal())
    assert made.whole.pedal[1] < made.whole.pedal[0]


def test_a_control_that_is_gone_is_passed_over():
    job = read_job(BUTT)
    plan = make_plan(job, HERON).settings
    without = HERON.model_copy(update={"controls": HERON.controls[:1]})
    row = Proposal(thickness_mm=3, panel={"amps_set": 120, "frequency_hz": 60})
    assert as_proposed(row, job, without, plan).frequency_hz == plan.frequency_hz


@pytest.mark.parametrize(
    ("given", "field"),
    [
        ({"rows": [{"thickness_mm": 2}]}, "rows.0.panel"),
        ({"rows": [{"thickness_mm": 2, "panel": {"cup_number": 7}}]}, "rows.0.panel"),
        ({"rows": [{"thickness_mm": 0, "cup": 7}]}, "rows.0.thickness_mm"),
        ({"rows": [{"thickness_mm": 2, "cup": 7}, {"thickness_mm": 2, "cup": 8}]}, "rows"),
    ],
)
def test_what_is_no_table_is_refused(given, field):
    with pytest.raises(BadInput) as refusal:
        validated(Proposals, given)
    assert refusal.value.problems[0].field == field
