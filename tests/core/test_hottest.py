"""The hottest moment beside a weld, and the Bessel functions it is made of, against a plain search and the library."""

import math

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st
from scipy.interpolate import PchipInterpolator
from scipy.optimize import minimize_scalar
from scipy.special import k0e as library_k0e
from scipy.special import k1e as library_k1e

from anvilsong.core.coefficients import nominal
from anvilsong.core.heat.bessel import k0e, k1e
from anvilsong.core.heat.hottest import contour_at_depth_mm, hottest_places_mm
from anvilsong.core.heat.moving_source import rise_per_watt
from anvilsong.core.heat.plate import Plate
from anvilsong.core.heat.similar import contour_width_mm, heat_for_width_w
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
@given(PLATES, st.floats(0.05, 60))
def test_the_table_has_the_largest_rise_beside_the_weld(plate, y):
    """Made by other code, of other sums: what nothing beside the weld is hotter than is Θ/q."""
    assert 1 / heat_for_width_w(plate, 2 * y, 1.0) == pytest.approx(searched(plate, y, 0.0), rel=1e-3)


@settings(max_examples=40)
@example(Plate(25.0, 10.0, 0.15, 60.0), 0.3, 4.0)  # thick: by mirror sources
@example(Plate(12.0, 9.5, 0.15, 75.0), 0.8, 12.0)  # just thick
@example(Plate(12.0, 9.2, 0.15, 75.0), 0.8, 12.0)  # just not
@given(PLATES, st.floats(0.1, 1.0), st.floats(0.3, 20))
def test_in_the_depth_the_contour_is_where_the_largest_rise_says(plate, deep, y):
    z = deep * plate.thickness_mm
    rise = searched(plate, y, z)
    assert float(contour_at_depth_mm(plate, z, 1 / rise, 1.0)) == pytest.approx(2 * y, rel=0.01)
    under = searched(plate, 1e-6, z)
    assert float(contour_at_depth_mm(plate, z, 0.99 / under, 1.0)) == 0
    places, behind = hottest_places_mm(plate, z)
    assert (np.diff(places) > 0).all()
    assert (behind < 0).all()


def test_beyond_what_is_told_the_ends_hold():
    plate = Plate(3.0, 3.0, 0.15, 62.0)
    assert contour_width_mm(plate, 1e7, 500.0) == 120
    assert contour_width_mm(plate, 1e-3, 500.0) == 0.1
    assert contour_width_mm(plate, 0.0, 500.0) == 0
    np.testing.assert_array_equal(
        contour_width_mm(plate, np.array([1e7, 1e-3, 0.0, -5.0]), 500.0), [120, 0.1, 0, 0]
    )


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
    widths = contour_width_mm(Plate(thickness, travel, 0.15, 62.0), 900.0, 560.0)
    for i, t in enumerate(thickness[:, 0]):
        for j, v in enumerate(travel):
            plate = Plate(float(t), float(v), 0.15, 62.0)
            rise = (500.0, 560.0, 600.0)[j]
            assert heats[i, j] == pytest.approx(heat_for_width_w(plate, 6.0, rise), rel=1e-9)
            assert widths[i, j] == pytest.approx(contour_width_mm(plate, 900.0, 560.0), rel=1e-9)
    plate = Plate(3.0, 3.0, 0.15, 62.0)
    some = np.array([[3.0, 6.0], [9.0, 12.0]])
    one_by_one = [heat_for_width_w(plate, float(each), 560.0) for each in some.ravel()]
    np.testing.assert_allclose(np.ravel(heat_for_width_w(plate, some, 560.0)), one_by_one, rtol=1e-9)


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
    assert root(lambda x: 1 - x, 1, 5) == 1
    for flat in (1, 3, 9):  # steep, and ever flatter at its zero
        asked = []

        def error(x, flat=flat, asked=asked):
            asked.append(x)
            return math.copysign(abs(x - 0.3) ** flat, x - 0.3) + math.tanh(9 * (x - 0.3)) / 9

        assert root(error, -6, 40, near=1e-12) == pytest.approx(0.3, abs=1e-9)
        assert len(asked) < 30
    with pytest.raises(ValueError, match="sign"):
        root(lambda x: x * x + 1, 0, 5)
