"""The moving source: published-style reference figures, limits, and there and back."""

import numpy as np
import pytest

from anvilsong.core.heat.hottest import contour_at_depth_mm
from anvilsong.core.heat.moving_source import rise_per_watt, thin_plate_rise_per_watt
from anvilsong.core.heat.pedal import allowed_duty, pedal_used
from anvilsong.core.heat.plate import Plate
from anvilsong.core.heat.similar import contour_width_mm, heat_for_width_w
from anvilsong.core.metal.alloys import find_alloy


def plate_of(name, thickness, travel):
    alloy = find_alloy(name)
    k = alloy.hot_conductivity_w_mk / 1000
    return Plate(thickness, travel, k, k / (alloy.density_g_cm3 / 1000)), alloy.contour_c - 20


@pytest.mark.parametrize(
    ("name", "t", "v", "w", "heat", "root", "amps"),
    [
        ("6061", 0.8, 4.2, 3.38, 190, 3.36, 29),
        ("6061", 1.6, 4.0, 4.26, 400, 4.08, 61),
        ("6061", 2.4, 3.8, 5.14, 622, 4.60, 95),
        ("6061", 3.2, 3.6, 6.02, 851, 4.92, 130),
        ("6061", 4.8, 3.4, 7.78, 1345, 5.12, 206),
        ("6061", 6.4, 3.2, 9.54, 1864, 4.76, 286),
        ("6061", 9.5, 2.7, 12.95, 2856, 0.0, 438),
        ("5083", 3.2, 3.6, 6.02, 748, None, 115),
        ("5083", 6.4, 3.2, 9.54, 1646, None, 252),
        ("1100", 3.2, 3.6, 6.02, 984, None, 151),
    ],
)
def test_reference_results(name, t, v, w, heat, root, amps):
    plate, contour = plate_of(name, t, v)
    q = heat_for_width_w(plate, w, contour)
    assert q == pytest.approx(heat, rel=0.02)
    assert q / 7.09 / 0.92 == pytest.approx(amps, rel=0.02)
    if root is not None:
        assert float(contour_at_depth_mm(plate, t, q, contour)) == pytest.approx(root, rel=0.02, abs=0.01)


def test_thin_plate_limit():
    """Far from the source, against the thickness, images and K0 agree."""
    plate, _ = plate_of("6061", 0.8, 4.0)
    for xi, y in ((-3.0, 4.0), (0.0, 6.0), (2.0, 5.0)):
        images = float(rise_per_watt(plate, xi, y, 0.0))
        assert images == pytest.approx(thin_plate_rise_per_watt(plate, xi, y), rel=0.01)


def test_thick_plate_limit_is_a_single_source_twice():
    """In a very thick plate only the source at the face counts: q/(2πkR) at ξ = 0 on a line across."""
    plate, _ = plate_of("6061", 50.0, 3.0)
    half = plate.travel_mm_s / (2 * plate.diffusivity_mm2_s)
    closed = np.exp(-half * 2.0) / (2 * np.pi * plate.conductivity_w_mm_k * 2.0)
    assert float(rise_per_watt(plate, 0.0, 2.0, 0.0)) == pytest.approx(closed, rel=0.05)


def long_image_sum(t, v, k, a, xi, y, z):
    """Mirror sources until nothing is added: the slow form, with no other code in common."""
    kappa, m = v / (2 * a), np.arange(-200_000, 200_001)
    m = m[np.abs(m) <= max(40, np.ceil(14 / (kappa * t)))]
    r = np.sqrt(xi**2 + y**2 + (z - 2 * m * t) ** 2)
    return float(np.sum(np.exp(-kappa * (xi + r)) / r)) / (2 * np.pi * k)


def test_the_fast_form_is_the_image_sum():
    """1,000 random plates, speeds, places and depths, foil to block, creeping to racing: within 0.1 %."""
    rng, worst = np.random.default_rng(7), 0.0
    for _ in range(1000):
        t, v = (
            float(np.exp(rng.uniform(np.log(0.3), np.log(40)))),
            float(np.exp(rng.uniform(np.log(0.5), np.log(12)))),
        )
        a, k = float(rng.uniform(50, 95)), float(rng.uniform(0.12, 0.24))
        xi, y, z = (
            float(rng.uniform(-30, 4)),
            float(np.exp(rng.uniform(np.log(0.3), np.log(30)))),
            t * float(rng.choice([0, 0.5, 1])),
        )
        slow = long_image_sum(t, v, k, a, xi, y, z)
        fast = rise_per_watt(Plate(t, v, k, a), xi, y, z).item()
        worst = max(worst, abs(fast / slow - 1))
    assert worst < 1e-3


@pytest.mark.parametrize("xi", [-3.0, 0.0, 1.0])
def test_a_very_thick_plate_is_half_a_space(xi):
    """ΔT = q·exp(−κ(ξ + R))/(2πkR)."""
    t, v, k, a, y = 150.0, 3.6, 0.2, 74.0, 3.0
    r, kappa = np.hypot(xi, y), v / (2 * a)
    closed = np.exp(-kappa * (xi + r)) / (2 * np.pi * k * r)
    assert rise_per_watt(Plate(t, v, k, a), xi, y, 0.0).item() == pytest.approx(closed, rel=0.01)


@pytest.mark.parametrize("t", [0.3, 0.8, 3.2, 9.5, 25.0])
def test_width_for_heat_inverts_heat_for_width(t):
    plate, contour = plate_of("5083", t, 3.0)
    widths = np.array([1.0, 3.0, 6.0, 12.0, 20.0])
    heats = np.array([heat_for_width_w(plate, w, contour) for w in widths])
    assert (np.diff(heats) > 0).all()
    np.testing.assert_allclose(contour_width_mm(plate, heats, contour), widths, rtol=3e-4)
    assert contour_width_mm(plate, float(heats[2]), contour) == pytest.approx(6.0, rel=3e-4)


def test_pedal_and_duty():
    assert pedal_used(120.0, 10.0, 150.0) == pytest.approx(110 / 140)
    assert allowed_duty(200.0, 200.0, 0.3) == pytest.approx(0.3)
    assert allowed_duty(100.0, 200.0, 0.3) == 1.0
    assert allowed_duty(150.0, 200.0, 0.3) == pytest.approx(0.3 * (200 / 150) ** 2)
