"""What this shop's tungsten tips bear: from how they looked after coupons of known load."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from anvilsong.core.bead.bead_models import Shot
from anvilsong.core.bead.coupon import TipState
from anvilsong.core.torch.tungsten import LOAD_AT_RUN, LOAD_BALLS, LOAD_MELTS, tungsten_load
from anvilsong.core.value import Value

# Between shops, as a standard deviation of ln(limit): grinding, brand and cooling. An assumption, stated.
SHOPS_APART = 0.15
# How sharply one state is told from the next, in ln(load), and how often a tip is misjudged altogether.
READ_APART, MISREAD = 0.08, 0.05
NINE_OF_TEN = (0.05, 0.95)
# A ground tip's ball, in diameters of the tungsten, where nobody said how the tip looked.
ROUND_UNDER, BALL_UNDER = 1.0, 1.6
MOST_LOAD = 1e6
BOUNDS: dict[TipState, tuple[float, float]] = {
    "sharp": (1e-6, LOAD_AT_RUN),
    "rounded": (LOAD_AT_RUN, LOAD_BALLS),
    "balled": (LOAD_BALLS, LOAD_MELTS),
    "spat": (LOAD_MELTS, MOST_LOAD),
}
GRID = np.linspace(-0.7, 0.7, 561)


class TipFit(Value):
    """What tips bear of the published limits, with where it lies in nine of ten shops, and from how many."""

    limit: float
    low: float
    high: float
    tips: int


def tip_state(shot: Shot) -> TipState | None:
    """How the tip looked: as judged, else by its ball; None where neither was recorded, and where a tip that
    was balled on purpose is only balled.
    """
    tungsten, readings = shot.settings.tungsten, shot.readings
    if tungsten is None:
        return None
    state = readings.tip
    if state is None and readings.ball_mm is not None and tungsten.tip == "point":
        ratio = readings.ball_mm / tungsten.diameter_mm
        state = "rounded" if ratio < ROUND_UNDER else "balled" if ratio < BALL_UNDER else "spat"
    if tungsten.tip == "ball" and state in ("rounded", "balled"):
        return None
    return state


def fit_tips(shots: Sequence[Shot], balled_at: Sequence[float] = ()) -> TipFit:
    """The factor on the published limits that makes these tips likely.

    Parameters
    ----------
    balled_at : loads, by the published limits, at which a tip was seen to ball on scrap

    Notes
    -----
    A tip is in the state whose bounds hold x = ln(load/κ), read with a scatter s:
    P = Φ((hi − x)/s) − Φ((lo − x)/s), and one in twenty is misjudged. ln κ is normal about 0 between shops;
    its posterior is summed on a grid.
    """
    ln_p = -0.5 * (GRID / SHOPS_APART) ** 2
    judged = [(shot, state) for shot in shots if (state := tip_state(shot)) is not None]
    for shot, state in judged:
        seen = _likely(_load(shot), BOUNDS[state])
        ln_p = ln_p + np.log((1 - MISREAD) * seen + MISREAD / len(BOUNDS))
    for load in balled_at:
        seen = _likely(load, (LOAD_BALLS, MOST_LOAD))
        ln_p = ln_p + np.log((1 - MISREAD) * seen + MISREAD / len(BOUNDS))
    weights = np.exp(ln_p - ln_p.max())
    weights /= weights.sum()
    low, high = np.interp(NINE_OF_TEN, np.cumsum(weights), GRID)
    return TipFit(
        limit=float(np.exp(np.sum(weights * GRID))),
        low=float(np.exp(low)),
        high=float(np.exp(high)),
        tips=len(judged) + len(balled_at),
    )


def _load(shot: Shot) -> float:
    """By the published limits."""
    tungsten = shot.settings.tungsten
    assert tungsten is not None  # a shot without one has no tip
    wave = shot.settings.wave()
    return float(tungsten_load(wave, tungsten.diameter_mm, tungsten.class_, tungsten.tip))


def _likely(load: float, bounds: tuple[float, float]) -> np.ndarray:
    """How likely a state is, for each factor of the grid."""
    # Read only when a tip was looked at: the library takes longer to come than the fit.
    from scipy.special import ndtr

    x = np.log(max(load, 1e-6)) - GRID
    low, high = np.log(bounds)
    return np.asarray(ndtr((high - x) / READ_APART) - ndtr((low - x) / READ_APART))
