"""A few parameters from scattered readings with a prior, where one odd reading pulls little.

θ̂ minimises Σ wᵢ·(rᵢ/σ)² + θᵀ·(n₀·I₁ + T⁻¹)·θ with I₁ the information of one reading: the prior θ = 0
weighs as much as n₀ readings, and holds by itself what no reading shows. wᵢ = (ν + 1)/(ν + rᵢ²/σ²), ν = 4
(Student); fewer than four all count alike, and of four and more what lies beyond 3.5 σ is left out. σ
starts at what is usual and follows the residuals.

The error of θ̂ has two parts, A·H·A from the scatter and A·Λ·T·Λ·A from leaning on the prior, with H the
information of the readings, Λ = n₀·I₁ + T⁻¹, A = (H + Λ)⁻¹ and T the usual spread of θ.

References
----------
Lange, Little & Taylor 1989, Robust statistical modeling using the t distribution.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
SCATTER_WEIGHS = 6.0  # readings that the usual scatter counts for
STUDENT, LEFT_OUT_OVER, LEAST_TO_LEAVE_OUT = 4.0, 3.5, 4
# Means over normal residuals of the slope of r·w, and of (r·w)² over that squared.
STUDENT_SLOPE, PRICE_OF_CARE = 0.7863, 1.0801
ROUNDS, LONGEST_STEP, SETTLED = 6, 0.3, 1e-3


class Model(Protocol):
    """What is fitted: readings, and what the parameters make of them."""

    seen: Array

    def at(self, theta: Array) -> tuple[Array, Array]:
        """The value of each reading (n), and its slopes (n, parameters)."""
        ...

    def scatter(self, value: Array) -> Array:
        """The usual scatter of readings at these values."""
        ...


@dataclass(frozen=True)
class Fit:
    """Parameters, their covariance, each reading's miss in scatters, the scatter in usual ones."""

    theta: Array
    covariance: Array
    misses: Array
    scale: float


def student_fit(model: Model, spread: Array, prior_weighs: float) -> Fit:
    """Gauss-Newton with Student weights.

    Parameters
    ----------
    spread : the covariance T of θ before any reading (parameters, parameters)
    prior_weighs : n₀, how many readings the prior counts for beside that
    """
    theta, scale = np.zeros(len(spread)), 1.0
    usual = np.linalg.inv(spread)
    if len(model.seen) == 0:
        return Fit(theta, spread, np.empty(0), 1.0)
    for number in range(ROUNDS):
        value, slope = model.at(theta)
        sigma = model.scatter(value) * scale
        miss = (model.seen - value) / sigma
        # At first all count: far from the prior no reading is odd by itself.
        weight = _weights(miss) if number else np.ones(miss.shape)
        held, one = _information(slope, sigma, weight)
        leaning = prior_weighs * one + usual
        step = np.linalg.solve(held + leaning, slope.T @ (weight * miss / sigma) - leaning @ theta)
        theta = theta + np.clip(step, -LONGEST_STEP, LONGEST_STEP)
        was, scale = scale, _scatter(miss * scale, weight) if number else scale
        if number > 1 and np.abs(step).max() < SETTLED and abs(scale - was) < SETTLED:
            break
    value, slope = model.at(theta)
    sigma = model.scatter(value) * scale
    miss = (model.seen - value) / sigma
    counts = np.where(is_odd(miss), 0.0, 1.0)
    held, one = _information(slope, sigma, counts)
    leaning = prior_weighs * one + usual
    inverse = np.linalg.inv(held + leaning)
    covariance = inverse @ (PRICE_OF_CARE * held + leaning @ spread @ leaning) @ inverse
    return Fit(theta, covariance, miss, scale)


def _weights(misses: Array) -> Array:
    """Student weights, scaled so that readings without outliers together count as many as they are."""
    if misses.size < LEAST_TO_LEAVE_OUT:
        return np.ones(misses.shape)
    weights = (STUDENT + 1) / (STUDENT + misses**2) / STUDENT_SLOPE
    return np.asarray(np.where(is_odd(misses), 0.0, weights))


def is_odd(misses: Array) -> NDArray[np.bool_]:
    """Which readings are too far off to count, from the fit and from one another: where all miss one way it
    is the prior that is off. Of a few nobody can say which is the odd one.
    """
    if misses.size < LEAST_TO_LEAVE_OUT:
        return np.zeros(misses.shape, dtype=np.bool_)
    apart = np.abs(misses - np.median(misses))
    return (np.abs(misses) > LEFT_OUT_OVER) & (apart > LEFT_OUT_OVER)


def _information(slope: Array, sigma: Array, weight: Array) -> tuple[Array, Array]:
    """What the readings say together, and what one of them says."""
    rows = slope / sigma[:, None]
    return rows.T @ (weight[:, None] * rows), rows.T @ rows / len(rows)


def _scatter(misses: Array, weight: Array) -> float:
    """The scatter in usual ones: residuals together with the usual as so many readings."""
    clear = weight > 0
    total = SCATTER_WEIGHS + float(np.sum(np.minimum(weight[clear], 1.0) * misses[clear] ** 2))
    return float(np.sqrt(total / (SCATTER_WEIGHS + max(int(clear.sum()) - 1, 0))))
