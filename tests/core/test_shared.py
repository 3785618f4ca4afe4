"""One setting for several jobs against a search over the whole grid, and what stays each job's own."""

import itertools

import numpy as np
import pytest

from anvilsong.core.arc.waveform import heat_per_amp_w
from anvilsong.core.checks import outcome
from anvilsong.core.coefficients import nominal
from anvilsong.core.job import read_job
from anvilsong.core.machine import Start
from anvilsong.core.shop import at_setting, planned_jobs, shared_setting
from anvilsong.demo.machines import MACHINES


def jobs(*thicknesses, joint="butt", **more):
    return [read_job({"a": {"alloy": "6061", "thickness": t}, "joint": joint, **more}) for t in thicknesses]


SETS = [
    (MACHINES[1], jobs(1.5, 3, 5)),
    (MACHINES[0], [*jobs(2, 3, joint="tee"), *jobs(4)]),
    (MACHINES[1], [*jobs(3, surface="cast"), *jobs(3, purposes=["appearance"])]),
]


@pytest.mark.parametrize(("machine", "several"), SETS)
def test_nothing_on_the_grid_is_better(machine, several):
    found = shared_setting(several, machine)
    planned = planned_jobs(several, machine)
    shares = [one.own.ep_share for one in planned]
    frequencies = [one.own.frequency_hz for one in planned]
    grid = itertools.product(
        np.linspace(min(shares), max(shares), 9), np.linspace(min(frequencies), max(frequencies), 9)
    )
    best = min(at_setting(planned, (float(share), float(hertz)), machine).cost for share, hertz in grid)
    assert found.cost <= best + 0.05


def test_the_machine_is_set_once_and_each_job_has_its_heat():
    machine, several = SETS[0]
    found = shared_setting(several, machine)
    common = [
        one.settings.model_dump(
            include={
                "amps_set",
                "ep_share",
                "frequency_hz",
                "shape_en",
                "ep_trim",
                "tungsten",
                "cup",
                "gas",
                "post_flow_s",
                "start_amps",
            }
        )
        for one in found.jobs
    ]
    assert all(each == common[0] for each in common)
    for one in found.jobs:
        ratio = heat_per_amp_w(one.own.wave(), nominal()) / heat_per_amp_w(one.settings.wave(), nominal())
        assert one.settings.amps_run == pytest.approx(one.own.amps_run * ratio, abs=0.06)
        assert one.settings.amps_run <= one.settings.amps_set
    used = [one.seen.consequences.pedal_used for one in found.jobs]
    assert used == sorted(used)
    # The thin one lies in the first third of the pedal, and is told so.
    assert "pedal_coarse" in found.jobs[0].broken
    assert found.jobs[1].broken == ()


def test_a_pulse_is_not_left_out_at_its_peak():
    """Jobs planned with a pulse share a steady setting: each with the heat of its own plan, none of it more."""
    several = jobs(2, 3, school={"pulse": "dab"})
    found = shared_setting(several, MACHINES[1])
    for one in found.jobs:
        assert one.own.pulse is not None
        assert one.settings.pulse is None
        own = outcome(one.job, one.own, MACHINES[1]).consequences.work_heat_w
        assert one.seen.consequences.work_heat_w == pytest.approx(own, rel=0.02)
        assert "melt_through" not in one.broken


def test_the_common_start_lights_the_common_tungsten():
    machine, several = SETS[0]
    size = shared_setting(several, machine).jobs[0].settings.tungsten.diameter_mm
    tried = machine.model_copy(update={"starts": (Start(tungsten_mm=size, least_a=37),)})
    assert {one.settings.start_amps for one in shared_setting(several, tried).jobs} == {37}


def test_it_lies_between_the_plans():
    """Nothing draws a thick tee to the thin sheet's frequency: between two plans the common setting lies between."""
    several = [*jobs(1.5, joint="outside_corner"), *jobs(4, joint="tee")]
    found = shared_setting(several, MACHINES[1])
    own = sorted(one.own.frequency_hz for one in found.jobs)
    assert own[1] > 1.2 * own[0]
    assert own[0] + 5 < found.jobs[0].settings.frequency_hz < own[1] - 5


def test_two_equal_jobs_are_their_own_plan():
    found = shared_setting(jobs(3, 3), MACHINES[1])
    for one in found.jobs:
        assert (one.settings.ep_share, one.settings.frequency_hz) == (one.own.ep_share, one.own.frequency_hz)
        assert one.settings.amps_run == pytest.approx(one.own.amps_run, abs=0.1)
        assert one.broken == ()
    assert shared_setting(jobs(3, 3, surface="anodised"), MACHINES[1]) is None
