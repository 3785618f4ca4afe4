"""Coupons over a setting: the line is the model, the dots are the coupons, and nine of ten lie in the band."""

from datetime import datetime

import numpy as np
import pytest

from anvilsong.core.bead import (
    Calibration,
    Shot,
    as_run,
    border_over_share,
    calibrate,
    hand_by_month,
    width_over_amps,
)
from anvilsong.core.bead.calibration import Miss
from anvilsong.core.bead.simulated import Hand, run_coupon
from anvilsong.core.coefficients import nominal
from anvilsong.core.job import read_job
from anvilsong.core.model import consequences
from anvilsong.core.plan import make_plan
from anvilsong.demo.machines import MACHINES

JOB = read_job({"a": {"alloy": "6061", "thickness": 3.2}, "joint": "butt"})
TEE = read_job({"a": {"alloy": "5083", "thickness": 2}, "joint": "tee"})
SETTINGS = make_plan(JOB, MACHINES[2]).settings
TEE_SETTINGS = make_plan(TEE, MACHINES[2]).settings


def shots(count, hand, job=JOB, settings=SETTINGS, seed=4):
    rng = np.random.default_rng(seed)
    run = []
    for _ in range(count):
        changed = settings.model_copy(
            update={
                "ep_share": float(rng.uniform(0.22, 0.45)),
                "amps_run": settings.amps_run * float(rng.uniform(0.85, 1.15)),
            }
        )
        readings = run_coupon(job, changed, nominal(), rng, hand)
        run.append(Shot(job, as_run(changed, readings), readings))
    return run


def at(trend, where):
    return float(np.interp(where, trend.at, trend.line))


def test_the_lines_are_the_model():
    run = shots(1, Hand(1e-6))
    made = calibrate([])
    border, width = border_over_share(run, made), width_over_amps(run, made)
    for share in (0.25, 0.4):
        settings = run[0].settings.model_copy(update={"ep_share": share})
        assert at(border, share) == pytest.approx(
            consequences(JOB, settings, MACHINES[2], nominal()).border_mm, abs=0.01
        )
    for amps in (0.8, 1.2):
        settings = run[0].settings.model_copy(update={"amps_run": amps * run[0].settings.amps_run})
        assert at(width, settings.amps_run) == pytest.approx(
            consequences(JOB, settings, MACHINES[2], nominal()).pool_width_mm, rel=0.005
        )
    assert all(
        low <= line <= high for low, line, high in zip(border.low, border.line, border.high, strict=True)
    )
    assert list(border.line) == sorted(border.line)


def test_a_hand_without_scatter_stands_on_the_line_whatever_it_welds():
    """Coupons of another job and other settings are set beside their own prediction."""
    near = TEE_SETTINGS.model_copy(update={"amps_run": 0.8 * SETTINGS.amps_run})
    run = [*shots(4, Hand(1e-6), TEE, near), *shots(4, Hand(1e-6))]
    made = calibrate([])
    assert len(width_over_amps(run, made).dots) == 8
    for dot in width_over_amps(run, made).dots:
        assert dot.value == pytest.approx(at(width_over_amps(run, made), dot.at), rel=0.02)
    for dot in border_over_share(run, made).dots:
        assert dot.value == pytest.approx(at(border_over_share(run, made), dot.at), abs=0.03)


@pytest.mark.parametrize("trend_of", [border_over_share, width_over_amps])
def test_nine_of_ten_lie_in_the_band(trend_of):
    run = shots(300, Hand(), seed=9)
    sure = calibrate([])
    # As if everything were known of the shop: what is left is the hand.
    known = sure.model_copy(update={"covariance": tuple((0.0,) * 4 for _ in range(4))})
    trend = trend_of(run, known)
    inside = [
        np.interp(dot.at, trend.at, trend.low) <= dot.value <= np.interp(dot.at, trend.at, trend.high)
        for dot in trend.dots
        if trend.at[0] <= dot.at <= trend.at[-1]
    ]
    assert 0.85 < np.mean(inside) < 0.96


def test_more_coupons_make_a_narrower_band_and_an_odd_one_is_marked():
    run = shots(20, Hand())
    few, many = width_over_amps(run, calibrate(run[:1])), width_over_amps(run, calibrate(run))
    assert many.high[-1] - many.low[-1] < few.high[-1] - few.low[-1]
    odd = run[3].readings.model_copy(update={"bead_width_mm": 25.0})
    bent = [*run[:3], Shot(JOB, run[3].settings, odd), *run[4:]]
    assert [dot.left_out for dot in width_over_amps(bent, calibrate(bent)).dots].index(True) == 3


def calibrated(misses):
    return Calibration(
        coefficients=nominal(),
        fitted=(),
        misses=tuple(Miss(width=width, border=0, left_out=out) for width, out in misses),
        width_scatter=0.08,
        covariance=(),
    )


def test_the_hand_by_month():
    when = [datetime(2026, month, 3) for month in (9, 9, 9, 10, 10, 11, 11, 11, 11)]
    misses = [(1.0, False), (-1.0, False), (1.0, False), (3.0, False), (2.0, False)]
    misses += [(0.5, False), (-0.5, False), (0.5, False), (9.0, True)]
    months = hand_by_month(when, calibrated(misses))
    assert [(month.year, month.month, month.coupons) for month in months] == [(2026, 9, 3), (2026, 11, 3)]
    assert [month.width_scatter for month in months] == pytest.approx([0.08, 0.04])
    assert hand_by_month([], calibrated([])) == ()
