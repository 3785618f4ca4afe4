"""Heat factor and power of frequency from bead widths, whatever law a hand's width follows.

The model's width goes with about the 2.3rd power of the heat where the wanted pool is; beads of real hands
follow from the 0.8th to the 2.5th. How steep this hand's law is stands beside what is asked for: each of some
slopes is fitted by itself (`student_fit`), and they count by how well they explain the coupons and by how
usual they are. The covariance is that of all of them together, Σ w·(C + (θ − θ̂)(θ − θ̂)ᵀ), so that ranges are
as wide as the slope is unknown; it is widened to Student's, since the scatter is estimated too.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from anvilsong.core.bead.bead_models import Shot, WidthModel
from anvilsong.core.bead.student_fit import SCATTER_WEIGHS, STUDENT, Array, Fit, student_fit
from anvilsong.core.coefficients import Coefficients

# ln of a hand's slope over the model's, and how usual each is: most hands' beads follow less steeply.
SLOPES = np.linspace(-1.4, 0.2, 9)
USUAL_SLOPE, SLOPES_APART = -0.5, 0.7
STUDENT_WIDER = 0.93  # (z² + 1)/4 for nine of ten: Student's range over the normal one, by 1/freedoms


@dataclass(frozen=True)
class Tried:
    """A slope, its fit, and how much it counts, in ln."""

    fit: Fit
    counts: float


def fit_widths(shots: Sequence[Shot], start: Coefficients, spread: Array, nominal_weighs: float) -> Fit:
    """θ = (ln heat factor, power of frequency) with its covariance over all slopes; misses and scatter are
    those of the slope that explains most.
    """
    model = WidthModel(shots, start)
    if not shots:
        return student_fit(model, spread, nominal_weighs)
    tried = [_tried(model, spread, nominal_weighs, float(slope)) for slope in SLOPES]
    counts = np.array([each.counts for each in tried])
    weights = np.exp(counts - counts.max())
    weights /= weights.sum()
    theta = sum(weight * each.fit.theta for weight, each in zip(weights, tried, strict=True))
    covariance = np.zeros_like(spread)
    for weight, each in zip(weights, tried, strict=True):
        off = each.fit.theta - theta
        covariance += weight * (each.fit.covariance + np.outer(off, off))
    best = tried[int(np.argmax(counts))].fit
    wider = 1 + STUDENT_WIDER / (SCATTER_WEIGHS + len(shots))
    return replace(best, theta=np.asarray(theta), covariance=wider**2 * covariance)


def _tried(model: WidthModel, spread: Array, nominal_weighs: float, slope: float) -> Tried:
    fit = student_fit(model.bent(float(np.exp(slope))), spread, nominal_weighs)
    # Student's density of the misses, the scatter as its prior has it, θ and slope as usual as they are.
    explained = -(STUDENT + 1) / 2 * np.log1p(fit.misses**2 / STUDENT).sum() - len(fit.misses) * np.log(
        fit.scale
    )
    scatter = -SCATTER_WEIGHS / 2 * (fit.scale**-2 + 2 * np.log(fit.scale))
    usual = -0.5 * (
        fit.theta @ np.linalg.solve(spread, fit.theta) + ((slope - USUAL_SLOPE) / SLOPES_APART) ** 2
    )
    volume = 0.5 * np.linalg.slogdet(fit.covariance)[1]
    return Tried(fit, float(explained + scatter + usual + volume))
