"""What tips bear, from how they looked: a hidden factor comes back, one tip moves little, one misread tip pulls little, and plans follow."""

import numpy as np
import pytest

from anvilsong.core.bead import Readings, Shot, calibrate
from anvilsong.core.bead.tip_fit import BOUNDS, fit_tips, tip_state
from anvilsong.core.coefficients import Coefficients, nominal
from anvilsong.core.job import read_job
from anvilsong.core.model import consequences
from anvilsong.core.plan import worked_out
from anvilsong.core.torch.kit import Kit
from anvilsong.core.torch.tungsten import choose_tungsten, load_parts, tungsten_load
from anvilsong.demo.machines import MACHINES

JOB = read_job({"a": {"alloy": "6061", "thickness": 3.2}, "joint": "butt"})
PLANNED = worked_out(JOB, None, MACHINES[2], Kit(), nominal()).settings


def shot(load, state=None, ball_mm=None, tip="point"):
    """A coupon with the share at which the tungsten has this load."""
    tungsten = PLANNED.tungsten.model_copy(update={"tip": tip})
    settings = PLANNED.model_copy(update={"tungsten": tungsten})
    now = float(tungsten_load(settings.wave(), tungsten.diameter_mm, tungsten.class_, tip))
    settings = settings.model_copy(update={"amps_run": settings.amps_run * load / now})
    readings = Readings(
        bead_width_mm=6,
        border_left_mm=1,
        border_right_mm=1,
        seconds=25,
        length_mm=100,
        tip=state,
        ball_mm=ball_mm,
    )
    return Shot(JOB, settings, readings)


def state_of(load):
    return next(state for state, (low, high) in BOUNDS.items() if low < load <= high)


def run(limit, count, seed=3, low=0.6, high=1.5):
    """Coupons of a shop whose tips bear ``limit`` of the published limits."""
    rng = np.random.default_rng(seed)
    loads = rng.uniform(low, high, count) * limit
    return [shot(load, state_of(load / limit * np.exp(rng.normal(0, 0.04)))) for load in loads]


@pytest.mark.parametrize("limit", [0.8, 1.0, 1.25])
def test_a_hidden_limit_comes_back_from_twelve_tips(limit):
    found = fit_tips(run(limit, 12))
    assert found.limit == pytest.approx(limit, rel=0.08)
    assert found.low < limit < found.high
    assert found.tips == 12


def test_without_tips_it_is_nominal_and_one_moves_it_a_little():
    none = fit_tips([shot(0.7)])
    assert (none.limit, none.tips) == (pytest.approx(1.0, abs=0.002), 0)
    assert (none.low, none.high) == (
        pytest.approx(np.exp(-1.645 * 0.15), rel=0.01),
        pytest.approx(np.exp(1.645 * 0.15), rel=0.01),
    )
    balled = fit_tips([shot(0.95, "balled")])
    assert 0.8 < balled.limit < 0.95
    kept = fit_tips([shot(1.1, "sharp")])
    assert 1.05 < kept.limit < 1.3
    usual = fit_tips([shot(0.5, "sharp")])
    assert usual.limit == pytest.approx(1.0, abs=0.01)  # what was expected says little


def test_one_misread_tip_pulls_little():
    good = run(1.0, 10)
    assert fit_tips([*good, shot(0.4, "spat")]).limit == pytest.approx(fit_tips(good).limit, rel=0.03)


def test_ranges_hold_the_truth():
    rng = np.random.default_rng(8)
    held = 0
    for number in range(200):
        limit = float(np.exp(rng.normal(0, 0.15)))
        found = fit_tips(run(limit, int(rng.integers(0, 8)), seed=number))
        held += found.low <= limit <= found.high
    assert 0.84 <= held / 200 <= 0.97


def test_what_a_tip_says():
    assert tip_state(shot(1, "balled")) == "balled"
    assert tip_state(shot(1)) is None
    across = PLANNED.tungsten.diameter_mm
    assert [tip_state(shot(1, ball_mm=share * across)) for share in (0.8, 1.3, 1.9)] == [
        "rounded",
        "balled",
        "spat",
    ]
    # A tip that was balled on purpose says something only when it keeps a point or spits.
    assert tip_state(shot(1, "balled", tip="ball")) is None
    assert tip_state(shot(1, ball_mm=3.0, tip="ball")) is None
    assert tip_state(shot(1, "spat", tip="ball")) == "spat"


def test_calibration_and_plans_follow_the_tips():
    made = calibrate(run(0.75, 14))
    assert made.tips.tips == 14
    assert made.coefficients.tungsten_limit == pytest.approx(0.75, rel=0.08)
    assert calibrate([shot(0.7)]).tips is None
    assert calibrate([shot(0.7)]).coefficients.tungsten_limit == 1.0
    weak = nominal().model_copy(update={"tungsten_limit": 0.5})
    assert consequences(JOB, PLANNED, MACHINES[2], weak).tungsten_load == pytest.approx(
        2 * consequences(JOB, PLANNED, MACHINES[2], nominal()).tungsten_load
    )
    kit = Kit()
    planned = worked_out(JOB, None, MACHINES[2], kit, weak)
    assert planned.settings.tungsten.diameter_mm > PLANNED.tungsten.diameter_mm
    assert planned.consequences.tungsten_load <= 0.85 + 1e-9
    reason = next(reason for reason in planned.reasons if reason.setting == "tungsten_mm")
    plain = next(
        reason
        for reason in worked_out(JOB, None, MACHINES[2], kit, nominal()).reasons
        if reason.setting == "tungsten_mm"
    )
    assert reason.numbers["en_limit_a"] < 1.5 * plain.numbers["en_limit_a"]


def test_the_limit_divides_both_halves_alike():
    wave = PLANNED.wave()
    half, whole = load_parts(wave, 2.4, "WLa 20", "point", 0.5), load_parts(wave, 2.4, "WLa 20")
    assert half == (pytest.approx(2 * whole[0]), pytest.approx(2 * whole[1]))
    every = [("WLa 20", size) for size in (1.6, 2.4, 3.2, 4.0, 4.8)]
    sizes = [choose_tungsten(wave, wave, every, "point", limit)[1] for limit in (2.0, 1.0, 0.5)]
    assert sizes == sorted(sizes)


def test_coefficients_stored_before_there_were_tips_are_read():
    old = nominal().model_dump()
    del old["tungsten_limit"]
    assert Coefficients.model_validate(old) == nominal()
