"""Which lever a coupon pulls first, and the steps that a panel can stand at."""

import random
from collections import Counter
from types import SimpleNamespace

import numpy as np
import pytest

from anvilsong.core.bead import Readings, next_change, read
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


def coupon(seed):
    """A job on a machine, and a coupon whose width, border and hand are off by chance."""
    chance = random.Random(seed)
    machine = chance.choice(MACHINES)
    job = read_job(
        {"a": {"alloy": chance.choice(("6061", "5083", "A356", "1050A")), "thickness": chance.choice((0.9, 1.6, 3, 4.8, 6.4))},
         "joint": chance.choice(("butt", "tee", "lap", "outside_corner")), "control": chance.choice(("pedal", "switch_4"))}
    )  # fmt: skip
    plan = make_plan(job, machine)
    if plan.settings is None:
        return None
    border = chance.choice((0, 0.1, 0.3, 0.6, 1.2, 2, 3, 5))
    seen = Readings(
        bead_width_mm=max(plan.consequences.pool_width_mm * chance.choice((0.8, 0.9, 1, 1.1, 1.25)), 0.5),
        border_left_mm=border, border_right_mm=border, length_mm=100,
        seconds=100 / (plan.settings.travel_mm_s * chance.choice((0.85, 1, 1.15))),
    )  # fmt: skip
    return plan, seen, machine


def test_no_change_goes_the_wrong_way():
    """Over chance coupons: a border too wide gets a lever that narrows it, a bead too narrow one that widens it."""
    kinds = Counter()
    for seed in range(200):
        made = coupon(seed)
        if made is None:
            continue
        plan, seen, machine = made
        verdict = read(plan.job, plan.settings, seen, machine)
        change = next_change(plan.job, plan.settings, seen, verdict, machine)
        kinds[change.kind, change.setting] += 1
        if change.kind != "setting":
            assert change.settings == plan.settings
            continue
        effects = change.effects
        if change.setting in (SHARE, TRIM):
            assert verdict.border_miss * effects["border_mm"] < 0, seed
        elif change.setting in ("amps_run", "amps_set"):
            assert verdict.width_miss * effects["pool_width_mm"] < 0, seed
            assert abs(change.settings.amps_run / plan.settings.amps_run - 1) > 0.009, seed
        else:
            assert change.setting == "travel_mm_s", seed
            slower = change.settings.travel_mm_s < plan.settings.travel_mm_s
            wants = verdict.width_miss < 0 if slower else verdict.width_miss > 0 or verdict.border_miss > 0
            assert wants, seed
    assert {kind for kind, _ in kinds} == {"setting", "keep", "hand", "prep"}
    assert {SHARE, "amps_run", "amps_set", "travel_mm_s"} <= {key for _, key in kinds}
