"""The fit of a few parameters, against what a plain search and plain sums say of the same readings."""

from dataclasses import dataclass

import numpy as np
import pytest
from scipy import integrate, optimize

from anvilsong.core.bead import student_fit as fitting
from anvilsong.core.bead.student_fit import is_odd, student_fit


@dataclass
class Lines:
    """Readings of a + b·x with a scatter that is known."""

    x: np.ndarray
    seen: np.ndarray
    usual: float = 0.1

    def at(self, theta):
        slope = np.column_stack([np.ones(self.x.size), self.x])
        return slope @ theta, slope

    def scatter(self, value):
        return np.full(value.shape, self.usual)


@dataclass
class Level:
    """Readings of one level."""

    seen: np.ndarray
    usual: float = 0.1

    def at(self, theta):
        return np.full(self.seen.shape, theta[0]), np.ones((self.seen.size, 1))

    def scatter(self, value):
        return np.full(value.shape, self.usual)


def normal(x):
    return np.exp(-(x**2) / 2) / np.sqrt(2 * np.pi)


def weight(r):
    return (fitting.STUDENT + 1) / (fitting.STUDENT + r**2)


def test_the_two_means_over_normal_residuals():
    """What the weights take from the readings, and what they add to the error, by integration."""

    def slope(r):
        small = 1e-5
        return ((r + small) * weight(r + small) - (r - small) * weight(r - small)) / (2 * small)

    mean = integrate.quad(lambda r: slope(r) * normal(r), -12, 12)[0]
    square = integrate.quad(lambda r: (r * weight(r)) ** 2 * normal(r), -12, 12)[0]
    assert pytest.approx(mean, rel=1e-4) == fitting.STUDENT_SLOPE
    assert pytest.approx(square / mean**2, rel=1e-4) == fitting.PRICE_OF_CARE


@pytest.mark.parametrize("prior_weighs", [0.0, 3.0])
def test_three_readings_are_a_ridge(prior_weighs):
    """Fewer than four count alike: the answer is a linear system, solved here on its own."""
    x, seen = np.array([0.0, 1.0, 2.0]), np.array([0.02, 0.05, 0.11])
    spread = np.array([[0.04, 0.01], [0.01, 0.09]])
    made = student_fit(Lines(x, seen), spread, prior_weighs)
    sigma = 0.1 * made.scale
    rows = np.column_stack([np.ones(3), x]) / sigma
    leaning = prior_weighs * rows.T @ rows / 3 + np.linalg.inv(spread)
    whole = rows.T @ rows + leaning
    assert made.theta == pytest.approx(np.linalg.solve(whole, rows.T @ (seen / sigma)), rel=2e-3)
    inverse = np.linalg.inv(whole)
    expected = inverse @ (fitting.PRICE_OF_CARE * rows.T @ rows + leaning @ spread @ leaning) @ inverse
    assert made.covariance == pytest.approx(expected, rel=1e-9)
    assert made.misses == pytest.approx((seen - made.theta[0] - made.theta[1] * x) / sigma, rel=1e-9)


def test_the_scatter_is_the_residuals_and_six_usual_ones():
    """√((6 + Σ m²)/(6 + n − 1)) in usual scatters, of readings that count alike."""
    seen = np.array([-0.2, 0.0, 0.2])
    made = student_fit(Level(seen), np.array([[1e6]]), 0.0)
    assert made.theta[0] == pytest.approx(0.0, abs=1e-9)
    assert made.scale == pytest.approx(np.sqrt((6 + 8) / (6 + 2)), rel=1e-6)
    calm = student_fit(Level(np.zeros(3)), np.array([[1e6]]), 0.0)
    assert calm.scale == pytest.approx(np.sqrt(6 / 8), rel=1e-6)


def test_of_many_readings_the_weights_are_students():
    """The level at which Σ w(r)·r is nothing, found by a search of its own; scatter and weights as they end."""
    rng = np.random.default_rng(5)
    seen = 0.05 + 0.1 * rng.standard_t(4, 25)
    seen = seen[np.abs(seen - 0.05) < 0.3]
    made = student_fit(Level(seen), np.array([[1e8]]), 0.0)
    sigma = 0.1 * made.scale
    found = optimize.brentq(lambda level: np.sum(weight((seen - level) / sigma) * (seen - level)), -1, 1)
    assert made.theta[0] == pytest.approx(found, abs=2e-4)
    r = (seen - made.theta[0]) / sigma
    counted = np.minimum(weight(r) / fitting.STUDENT_SLOPE, 1.0)
    again = np.sqrt((6 + np.sum(counted * (r * made.scale) ** 2)) / (6 + seen.size - 1))
    assert made.scale == pytest.approx(again, rel=2e-3)
    assert made.theta[0] != pytest.approx(seen.mean(), abs=2e-4)  # it is no mean


def test_the_prior_weighs_as_many_readings_as_it_says():
    """With no spread to speak of, n readings of 0.2 move the level to 0.2·n/(n + n₀)."""
    for n in (1, 3):
        made = student_fit(Level(np.full(n, 0.2), usual=0.5), np.array([[1e9]]), 3.0)
        assert made.theta[0] == pytest.approx(0.2 * n / (n + 3), rel=1e-6)


def test_no_reading_leaves_the_prior_as_it_was():
    spread = np.array([[0.04]])
    made = student_fit(Level(np.empty(0)), spread, 3.0)
    assert (made.theta.tolist(), made.scale, made.misses.size) == ([0.0], 1.0, 0)
    assert made.covariance is spread


def test_a_far_shop_is_reached_in_steps():
    """Each round goes 0.3 at most, six rounds at most: 1.8 is as far as a fit goes."""
    near = student_fit(Level(np.full(9, 1.5), usual=0.5), np.array([[1e9]]), 0.0)
    far = student_fit(Level(np.full(9, 50.0), usual=0.5), np.array([[1e9]]), 0.0)
    assert near.theta[0] == pytest.approx(1.5, abs=1e-3)
    assert far.theta[0] == pytest.approx(6 * 0.3)


@pytest.mark.parametrize(
    ("misses", "odd"),
    [
        ([0, 0.1, -0.1, 3.6], [0, 0, 0, 1]),
        ([0, 0.1, -0.1, 3.4], [0, 0, 0, 0]),
        ([0, 0.1, 3.6], [0, 0, 0]),  # of three nobody can say
        ([5, 5.1, 4.9, 5.0], [0, 0, 0, 0]),  # all miss one way: the prior is off
        ([1, 1.1, 0.9, 3.9], [0, 0, 0, 0]),  # far from the fit, near the others
        ([0.5, 0.4, 0.6, -3.2, -3.6], [0, 0, 0, 0, 1]),
        ([0, 0, 0, -3.6], [0, 0, 0, 1]),
    ],
)
def test_which_readings_are_odd(misses, odd):
    assert is_odd(np.array(misses, dtype=float)).tolist() == [bool(each) for each in odd]


def test_an_odd_reading_is_as_if_it_were_not_there():
    sound = np.array([0.1, 0.12, 0.08, 0.11, 0.09, 0.1])
    without = student_fit(Level(sound), np.array([[1.0]]), 1.0)
    with_it = student_fit(Level(np.append(sound, 3.0)), np.array([[1.0]]), 1.0)
    assert with_it.theta == pytest.approx(without.theta, abs=2e-3)
    assert with_it.scale == pytest.approx(without.scale, rel=2e-3)
    # What one reading says is a mean over all seven: the prior weighs the same, what the six hold too.
    assert with_it.covariance == pytest.approx(without.covariance, rel=5e-3)
