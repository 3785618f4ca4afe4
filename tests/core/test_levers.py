"""Which lever a coupon pulls first, and the steps that a panel can stand at."""

from types import SimpleNamespace

import numpy as np
import pytest

from anvilsong.core.bead.levers import lever_steps, levers
from anvilsong.core.job import read_job
from anvilsong.core.machine import IDEAL, Machine
from anvilsong.core.plan import make_plan
from anvilsong.core.torch.kit import Kit
from anvilsong.demo.machines import MACHINES

JOB = {"a": {"alloy": "6061", "thickness": 3}, "joint": "butt"}
SETTINGS = make_plan(read_job(JOB)).settings
HERON = next(machine for machine in MACHINES if machine.name == "Heron 320")
PLAIN = next(machine for machine in MACHINES if not machine.can_trim)
SHARE, TRIM = "ep_share", "ep_trim"


@pytest.mark.parametrize(
    ("miss", "trim", "job", "order"),
    [
        (1.0, 0.0, {}, [SHARE, TRIM]),
        (3.0, 0.0, {}, [SHARE, TRIM]),
        (3.1, 0.0, {}, [TRIM, SHARE]),  # far too wide
        (0.5, 0.0, {"purposes": ["appearance"]}, [TRIM, SHARE]),
        (-0.5, 0.0, {"purposes": ["appearance"]}, [SHARE, TRIM]),
        (0.5, 0.0, {"school": {"amplitude": "trimmed"}}, [TRIM, SHARE]),
        (-1.0, -0.2, {}, [TRIM, SHARE]),  # the trim starves it
        (-1.0, 0.0, {}, [SHARE, TRIM]),
        (1.0, -0.2, {}, [SHARE, TRIM]),
    ],
)
@pytest.mark.parametrize("machine", [IDEAL, HERON])
def test_which_lever_comes_first(miss, trim, job, order, machine):
    verdict, settings = SimpleNamespace(border_miss=miss), SETTINGS.model_copy(update={"ep_trim": trim})
    assert list(levers(read_job(JOB | job), settings, verdict, machine)) == order
    assert list(levers(read_job(JOB | job), settings, verdict, PLAIN)) == [SHARE]


@pytest.mark.parametrize(
    ("key", "machine", "now", "low", "high", "step"),
    [
        (SHARE, IDEAL, 0.30, 0.20, 0.40, 0.01),
        (SHARE, IDEAL, 0.40, 0.30, 0.45, 0.01),  # 0.45 is as much as is advised
        (SHARE, IDEAL, 0.22, 0.20, 0.32, 0.01),
        (SHARE, Machine(name="Lean", most_ep_share=0.33), 0.30, 0.20, 0.33, 0.01),
        (SHARE, Machine(name="Rich", least_ep_share=0.28), 0.30, 0.28, 0.40, 0.01),
        (TRIM, IDEAL, -0.20, -0.40, 0.0, 0.05),
        (TRIM, Machine(name="Short", can_trim=True, least_trim=-0.3), -0.2, -0.3, 0.0, 0.05),
    ],
)
def test_steps_of_a_lever(key, machine, now, low, high, step):
    """Every step in reach, a tenth of a share at most, but for where it stands."""
    steps = lever_steps(key, machine, now)
    count = round((high - low) / step) + 1
    expected = [value for value in np.linspace(low, high, count) if abs(value - now) > 1e-6]
    assert steps == pytest.approx(expected, abs=1e-6)


def test_steps_are_those_of_the_panel():
    for machine in MACHINES:
        control = machine.control(SHARE)
        if control is None:
            continue
        for share in lever_steps(SHARE, machine, 0.3):
            assert 0.2 - 1e-9 <= share <= 0.4 + 1e-9
            places = np.array([point[1] for point in control.scale.points])
            assert places.min() - 1e-9 <= share <= places.max() + 1e-9


def test_a_hose_that_nobody_measured_is_four_metres():
    """Gas before the arc is for its length."""
    assert Kit(torches=[]).hose_m == 4.0
    torches = [{"name": name, "rated_a": 200, "hose_m": metres} for name, metres in (("A", 3.5), ("B", 7.6))]
    assert Kit(torches=torches).hose_m == 7.6
