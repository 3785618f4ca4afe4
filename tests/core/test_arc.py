"""Waveform, cleaning border, tungsten load, gas: the check figures, by hand and by integration."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from anvilsong.core.arc.border import border_mm, cleaned_width_mm
from anvilsong.core.arc.frequency import width_factor
from anvilsong.core.arc.waveform import (
    SHAPES,
    Wave,
    cycle_means,
    heat_per_amp_w,
    shape_mean,
    shape_rms,
    shortest_half_s,
    tip_means,
    work_heat_w,
)
from anvilsong.core.coefficients import nominal
from anvilsong.core.torch.cup import bore_mm, outer_radius_mm, stick_out_needed_mm
from anvilsong.core.torch.gas import flow_for, post_flow_s, reynolds
from anvilsong.core.torch.tungsten import choose_tungsten, load_state, tungsten_load

C = nominal()


@pytest.mark.parametrize(
    ("shape", "mean", "rms"),
    [
        ("square", 1, 1),
        ("soft", 0.85, 0.901),
        ("trapezoid", 0.75, 0.816),
        ("sine", 0.637, 0.707),
        ("triangle", 0.5, 0.577),
    ],
)
def test_shape_table(shape, mean, rms):
    assert shape_mean(shape) == pytest.approx(mean, abs=0.001)
    assert shape_rms(shape) == pytest.approx(rms, abs=0.001)


@pytest.mark.parametrize(("share", "watts"), [(0.2, 7.27), (0.3, 7.105), (0.5, 6.775)])
def test_heat_per_ampere(share, watts):
    assert heat_per_amp_w(Wave(100, share, 100), C) == pytest.approx(watts, abs=0.005)


@pytest.mark.parametrize(
    ("amps", "share", "trim", "load"),
    [
        (100, 0.3, 0, 0.539),
        (100, 0.5, 0, 0.631),
        (100, 0.7, 0, 0.723),
        (150, 0.3, 0, 0.808),
        (150, 0.3, -0.3, 0.692),
    ],
)
def test_tungsten_load(amps, share, trim, load):
    assert tungsten_load(Wave(amps, share, 100, trim), 2.4, "WLa 20") == pytest.approx(load, abs=6e-4)


def test_tip_follows_slow_pulses_and_averages_fast_ones():
    slow, fast = Wave(100, 0.3, 100, pulse=(2.0, 0.4, 0.3)), Wave(100, 0.3, 100, pulse=(40.0, 0.4, 0.3))
    assert tip_means(slow).both == 100
    assert tip_means(fast).both == pytest.approx(100 * (0.4 + 0.3 * 0.6))
    assert load_state(0.9) == "rounds"
    stocked = [("WTh 20", 1.6), ("WTh 20", 2.4), ("WCe 20", 2.4), ("WLa 20", 2.4), ("WLa 20", 3.2)]
    assert choose_tungsten(Wave(100, 0.3, 100), Wave(125, 0.3, 100), stocked, "point") == ("WLa 20", 2.4)
    assert choose_tungsten(Wave(100, 0.3, 100), Wave(125, 0.3, 100), stocked[:2], "point") == ("WTh 20", 2.4)
    assert choose_tungsten(Wave(300, 0.3, 100), Wave(375, 0.3, 100), stocked, "point") is None


BORDERS = [
    (0.30, 0, 3, 1.0, 9.13, 1.065),
    (0.30, -0.30, 3, 1.0, 7.61, 0.307),
    (0.30, -0.45, 3, 1.0, 6.72, 0.0),
    (0.50, 0, 3, 1.0, 9.91, 1.457),
    (0.30, 0, 6, 1.0, 7.95, 0.473),
    (0.05, 0, 3, 1.0, 5.57, 0.0),
    (0.30, 0, 3, 0.7, 8.54, 0.771),
    (0.30, 0, 3, 0.45, 7.75, 0.375),
    (0.30, 0, 3, 0.05, 0.0, 0.0),
]


@pytest.mark.parametrize(("share", "trim", "v", "s", "width", "border"), BORDERS)
def test_border_figures(share, trim, v, s, width, border):
    """Bead 7 mm, 150 A."""
    ep = share * 150 * (1 + trim)
    cleaned = cleaned_width_mm(ep, trim, 7.0, v, s, 50.0, C)
    assert cleaned == pytest.approx(width, rel=0.02, abs=0.01)
    assert border_mm(cleaned, 7.0) == pytest.approx(border, abs=0.02)


def test_border_never_passes_the_cup_and_takes_arrays():
    assert cleaned_width_mm(45.0, 0.0, 7.0, 3.0, 1.0, 5.0, C) == pytest.approx(8.0)
    shares = np.array([0.2, 0.3, 0.4])
    many = cleaned_width_mm(shares * 150, 0.0, 7.0, 3.0, 1.0, 50.0, C)
    one = [cleaned_width_mm(float(share) * 150, 0.0, 7.0, 3.0, 1.0, 50.0, C) for share in shares]
    np.testing.assert_allclose(many, one)
    assert width_factor(200.0, C) == pytest.approx(2**-0.12)


def sampled(wave, n=20_000):
    """|i| and sign over the AC cycle, sampled from the shapes' own definitions."""
    x = (np.arange(n) + 0.5) / n
    ep = x < wave.ep_share
    u = np.where(ep, x / wave.ep_share, (x - wave.ep_share) / (1 - wave.ep_share))
    unit = {
        "square": lambda u: np.ones_like(u),
        "soft": lambda u: (1 - np.cos(np.pi * np.minimum(np.minimum(u, 1 - u) / 0.15, 1))) / 2,
        "trapezoid": lambda u: np.minimum(np.minimum(u, 1 - u) / 0.25, 1),
        "sine": lambda u: np.sin(np.pi * u),
        "triangle": lambda u: 1 - np.abs(2 * u - 1),
    }
    height = np.where(ep, wave.ep_amps * unit[wave.shape_ep](u), wave.amps * unit[wave.shape_en](u))
    return height, ep


WAVES = st.builds(
    Wave,
    st.floats(10, 400),
    st.floats(0.1, 0.7),
    st.floats(30, 250),
    st.floats(-0.5, 0.5),
    st.sampled_from(SHAPES),
    st.sampled_from(SHAPES),
)


@settings(max_examples=60, deadline=None)
@given(WAVES)
def test_means_agree_with_sampling(wave):
    height, ep = sampled(wave)
    means = cycle_means(wave)
    assert means.ep == pytest.approx(height[ep].sum() / height.size, rel=0.002)
    assert means.en == pytest.approx(height[~ep].sum() / height.size, rel=0.002)
    assert means.rms == pytest.approx(math.sqrt((height**2).mean()), rel=0.002)
    assert shortest_half_s(wave) == pytest.approx(min(wave.ep_share, 1 - wave.ep_share) / wave.frequency_hz)


def test_pulse_and_mix_means():
    pulse = cycle_means(Wave(100, 0.3, 100, pulse=(2.0, 0.4, 0.3)))
    assert pulse.both == pytest.approx(100 * (0.4 + 0.3 * 0.6))
    mix = cycle_means(Wave(100, 0.3, 100, mix=(0.6, 0.5, 0.7)))
    assert mix.ep == pytest.approx(0.6 * 30)
    assert mix.en == pytest.approx(0.6 * 70 + 0.4 * 70)
    assert work_heat_w(Wave(100, 0.3, 100), C, 4.0) == pytest.approx(710.5 * 1.03)


@pytest.mark.parametrize(
    ("cup", "flow"), [(4, 4.8), (5, 6.0), (6, 7.2), (7, 8.4), (8, 9.6), (10, 12.0), (12, 14.4)]
)
def test_flow_for_reynolds_1200(cup, flow):
    assert flow_for(1200, bore_mm(cup)) == pytest.approx(flow, rel=0.02)
    assert reynolds(flow, bore_mm(cup)) == pytest.approx(1200, rel=0.02)


def test_helium_wants_more_flow_and_cups_need_room():
    assert flow_for(1200, 11.0, 0.25) / flow_for(1200, 11.0) == pytest.approx(1 / (1 - 0.225))
    for cup in range(4, 13):
        assert stick_out_needed_mm(cup, 90, 3.0) == pytest.approx(max(0, outer_radius_mm(cup) - 3.0))
    # A second for each 15 A, the tungsten's own least, 4 to 20 s.
    assert [post_flow_s(amps, least) for amps, least in ((150, 5), (30, 5), (30, 3), (400, 12))] == [
        10,
        5,
        4,
        20,
    ]
