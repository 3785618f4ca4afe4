"""The hottest moment beside a weld, and the Bessel functions it is made of, against a plain search and the library."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.interpolate import PchipInterpolator
from scipy.optimize import minimize_scalar
from scipy.special import k0e as library_k0e
from scipy.special import k1e as library_k1e

from anvilsong.core.coefficients import nominal
from anvilsong.core.heat.bessel import k0e, k1e
from anvilsong.core.heat.hottest import hottest_xi_mm
from anvilsong.core.heat.moving_source import heat_for_width_w, peak_rise_per_watt, rise_per_watt
from anvilsong.core.heat.plate import Plate
from anvilsong.core.heat.width_curve import contour_width_mm, width_curve
from anvilsong.core.job import read_job
from anvilsong.core.model import figures, situation
from anvilsong.core.monotone import Monotone
from anvilsong.core.plan import make_plan
from anvilsong.core.roots import root

PLATES = st.builds(
    lambda t, v, a: Plate(math.exp(t), math.exp(v), 0.15, a),
    st.floats(math.log(0.3), math.log(30)),
    st.floats(math.log(0.5), math.log(12)),
    st.floats(45, 95),
)


def searched(plate, y, z):
    """The largest rise by looking everywhere behind the source."""
    far = 3 * (6 * y + 6 * plate.thickness_mm + 10)
    places = -np.geomspace(1e-6, far, 3000)
    rise = rise_per_watt(plate, places, y, z)
    top = int(rise.argmax())
    ends = (places[min(top + 1, 2999)], places[max(top - 1, 0)])
    found = minimize_scalar(lambda xi: -float(rise_per_watt(plate, xi, y, z)), bounds=ends, method="bounded")
    return max(-found.fun, float(rise.max()))


@settings(max_examples=80)
@given(PLATES, st.floats(0.05, 60), st.sampled_from([0.0, 0.3, 1.0]))
def test_nothing_beside_the_weld_is_hotter(plate, y, deep):
    z = deep * plate.thickness_mm
    assert float(peak_rise_per_watt(plate, y, z)) == pytest.approx(searched(plate, y, z), rel=1e-4)
    assert float(hottest_xi_mm(plate, y, z)) < 0  # behind the source


def test_under_the_source_the_peak_is_whole():
    plate = Plate(6.0, 3.0, 0.15, 62.0)
    assert float(peak_rise_per_watt(plate, 1e-6, 6.0)) == pytest.approx(searched(plate, 1e-6, 6.0), rel=1e-3)


def test_bessel_functions_agree_with_the_library():
    x = np.geomspace(1e-6, 5000, 4000)
    np.testing.assert_allclose(k0e(x), library_k0e(x), rtol=1e-10)
    np.testing.assert_allclose(k1e(x), library_k1e(x), rtol=1e-10)


@settings(max_examples=80)
@given(st.lists(st.floats(-9, 9), min_size=3, max_size=12, unique=True), st.data())
def test_the_monotone_curve_is_the_librarys(places, data):
    x = np.sort(np.round(places, 3))
    if np.diff(x).min() < 1e-2:
        return
    y = np.array(data.draw(st.lists(st.floats(-50, 50), min_size=x.size, max_size=x.size)))
    at = np.linspace(x[0], x[-1], 41)
    mine, theirs = Monotone(x, y), PchipInterpolator(x, y)
    np.testing.assert_allclose(mine(at), theirs(at), atol=1e-9)
    assert [mine.one(float(place)) for place in at] == pytest.approx(list(mine(at)), abs=1e-9)


def test_arrays_equal_numbers():
    """Travel, thickness, width and rise may all be arrays; none is answered for the first alone."""
    travel, thickness = np.array([1.5, 3.0, 5.5]), np.array([[1.2], [3.0], [8.0]])
    heats = heat_for_width_w(Plate(thickness, travel, 0.15, 62.0), 6.0, np.array([500.0, 560.0, 600.0]))
    widths = contour_width_mm(Plate(thickness, travel, 0.15, 62.0), thickness, 900.0, 560.0)
    for i, t in enumerate(thickness[:, 0]):
        for j, v in enumerate(travel):
            plate = Plate(float(t), float(v), 0.15, 62.0)
            rise = (500.0, 560.0, 600.0)[j]
            assert heats[i, j] == pytest.approx(heat_for_width_w(plate, 6.0, rise), rel=1e-9)
            assert widths[i, j] == pytest.approx(
                width_curve(plate, float(t)).width_mm(900.0, 560.0), rel=1e-9
            )


def test_figures_take_a_grid_of_amps_and_travel():
    plan = make_plan(read_job({"a": {"alloy": "6061", "thickness": 3.2}, "joint": "butt"}))
    at, wave = situation(plan.job), plan.settings.wave()
    amps, travel = np.array([[110.0], [150.0]]), np.array([2.5, 3.6, 5.0])
    grid = figures(
        at, type(wave)(amps, wave.ep_share, wave.frequency_hz), plan.settings, nominal(), travel_mm_s=travel
    )
    for i in range(2):
        for j in range(3):
            slow = plan.settings.model_copy(update={"travel_mm_s": float(travel[j])})
            one = figures(
                at, type(wave)(float(amps[i, 0]), wave.ep_share, wave.frequency_hz), slow, nominal()
            )
            for name in ("pool_width_mm", "root_width_mm", "border_mm", "melt_through", "cleaned_width_mm"):
                assert getattr(grid, name)[i, j] == pytest.approx(float(getattr(one, name)), rel=1e-9), name


def test_roots():
    assert root(lambda x: x**3 - 8, 0, 5) == pytest.approx(2, abs=1e-9)
    with pytest.raises(ValueError, match="sign"):
        root(lambda x: x * x + 1, 0, 5)
