"""A weld that is there: gone over at a low frequency, and a flaw cut out and built up, by arithmetic of its own."""

import math

import numpy as np
import pytest

from anvilsong.core.coefficients import nominal
from anvilsong.core.errors import BadInput
from anvilsong.core.job import read_job
from anvilsong.core.model import situation
from anvilsong.core.plan import make_plan
from anvilsong.core.prep import cut_out, going_over, groove, groove_half_mm
from anvilsong.core.said import in_units
from anvilsong.demo.machines import DUNLIN, HERON

C = nominal()


def planned(machine=HERON, **given):
    job = read_job({"a": {"alloy": "6061", "thickness": 3}, "joint": "butt"} | given)
    plan = make_plan(job, machine)
    return situation(job), plan


def over(machine=HERON, **given):
    at, plan = planned(machine, **given)
    return at, plan, going_over(at, plan.settings, plan.consequences, machine, C)


@pytest.mark.parametrize("given", [{}, {"joint": "tee"}, {"a": {"alloy": "5083", "thickness": 5}}])
def test_going_over_is_low_wide_and_without_the_rods_heat(given):
    at, plan, found = over(**given)
    settings, was = found.settings, plan.settings
    assert settings.frequency_hz == 45
    assert found.pool_mm == pytest.approx(plan.consequences.pool_width_mm + 1)
    # As wide as the steady source makes it at this frequency, and nothing of it for filler.
    narrowed = (45 / 100) ** C.width_frequency_power
    heat = at.wanted_pool_heat_w(was.travel_mm_s, None, found.pool_mm / narrowed)
    share = settings.ep_share
    per_amp = (1 - share) * C.work_w_per_a_en + share * (1 + settings.ep_trim) * C.work_w_per_a_ep
    assert settings.amps_run == pytest.approx(heat / per_amp, rel=0.02)
    assert settings.amps_set >= settings.amps_run
    assert (settings.pulse, settings.mix) == (None, None)
    assert 0.4 * settings.amps_run < found.end_amps < settings.amps_run


def test_within_the_machine():
    _, _, found = over(DUNLIN)
    assert found.settings.frequency_hz == DUNLIN.least_frequency_hz
    assert any("goes down to 50 Hz" in in_units(said) for said in found.says)
    _, _, thick = over(DUNLIN, a={"alloy": "6061", "thickness": 8}, joint="tee")
    assert thick.settings.amps_run <= thick.settings.amps_set <= DUNLIN.most_a


@pytest.mark.parametrize(
    ("given", "soft"),
    [
        ({}, (30, 45)),
        ({"a": {"alloy": "7005", "thickness": 5}}, (30, 52.5)),
        ({"temper": "O"}, None),
        ({"a": {"alloy": "6061", "thickness": 6.5}}, None),
        ({"a": {"alloy": "A356", "thickness": 5}}, None),
        ({"a": {"alloy": "A356", "thickness": 5}, "b": {"alloy": "6061", "thickness": 5}}, (30, 45)),
    ],
)
def test_how_far_it_softens(given, soft):
    found = over(**given)[2].soft_mm
    assert found == (soft if soft is None else pytest.approx(soft))


def test_the_groove_is_what_is_drawn():
    for depth in (0.5, 1.2, 1.5, 1.6, 4, 12):
        width, section = groove(depth)
        heights = np.linspace(0, depth, 40_001)
        half = np.array([groove_half_mm(height) for height in heights])
        if depth > 1.5:  # past the round bottom
            assert 2 * half[-1] == pytest.approx(width)
            assert 2 * np.trapezoid(half, heights) == pytest.approx(section, rel=1e-4)
        assert np.all(np.diff(half) >= -1e-12)
    # Where the round bottom ends the sides go on without a corner.
    assert groove_half_mm(1.5 + 1e-6) - groove_half_mm(1.5 - 1e-6) == pytest.approx(
        2e-6 * math.tan(math.pi / 6), rel=0.01
    )


def test_beads_fill_the_groove_and_each_is_melted():
    at, plan = planned(a={"alloy": "A356", "thickness": 10}, joint="build_up")
    cut = cut_out(at, plan.settings, 30, 6, C)
    assert cut.length_mm == 50
    assert cut.left_mm == 4
    assert sum(bead.section_mm2 for bead in cut.beads) == pytest.approx(1.1 * cut.section_mm2)
    assert all(0 < bead.section_mm2 <= 18 for bead in cut.beads)
    assert len(cut.beads) >= 3
    amps = [bead.amps for bead in cut.beads]
    assert amps == sorted(amps)  # more metal under each
    assert cut.beads[0].local_mm == pytest.approx(7)
    per_amp = (1 - plan.settings.ep_share) * C.work_w_per_a_en + plan.settings.ep_share * C.work_w_per_a_ep
    for bead in cut.beads:
        filler = bead.section_mm2 * plan.settings.travel_mm_s * C.filler_j_per_mm3
        assert filler <= 0.1501 * (bead.amps * per_amp)
        rod = math.pi * cut.rod_mm**2 / 4
        assert bead.rod_length_mm == pytest.approx(bead.section_mm2 * 50 / rod / 0.9)


def test_near_the_back_it_is_said():
    at, plan = planned(a={"alloy": "6061", "thickness": 10}, joint="tee")
    shallow, deep = (cut_out(at, plan.settings, 20, depth, C) for depth in (1, 7))
    assert not shallow.through
    assert deep.through
    said = " ".join(in_units(each) for each in deep.says)
    assert "reaches the back" in said
    assert "reaches the back" not in " ".join(in_units(each) for each in shallow.says)
    assert "120 °C" in said


@pytest.mark.parametrize(
    ("flaw", "depth", "field"),
    [(0, 2, "flaw"), (3000, 2, "flaw"), (30, 0.1, "depth"), (30, 7.01, "depth"), (30, -1, "depth")],
)
def test_what_is_no_flaw_of_this_metal(flaw, depth, field):
    at, plan = planned(a={"alloy": "6061", "thickness": 10}, joint="tee")
    with pytest.raises(BadInput) as refusal:
        cut_out(at, plan.settings, flaw, depth, C)
    assert refusal.value.problems[0].field == field
    assert "7.0 mm" in refusal.value.problems[0].allowed.in_units("mm") or field == "flaw"
