"""The cleaned border: how wide the positive half clears the oxide.

The form is a fit to what welders report, not to laboratory data; coupons move ``clearing_dose_c_mm2`` and
``foot``.
"""

from __future__ import annotations

import numpy as np

from anvilsong.core.arc.waveform import Numbers
from anvilsong.core.coefficients import Coefficients

REACH_PER_BORE = 1.6
SQRT_TWO_PI = 2.507


def cleaned_width_mm(
    ep_mean_a: Numbers,
    ep_trim: Numbers,
    pool_width_mm: Numbers,
    travel_mm_s: Numbers,
    surface_factor: Numbers,
    cup_bore_mm: Numbers,
    c: Coefficients,
    arc_length_mm: Numbers = 3.0,
    narrowed: Numbers = 1.0,
) -> Numbers:
    """Width cleaned across the weld, mm: both borders and the bead.

    σ = (1.0·n + 0.13·w)·(1 + t)^0.4·foot·(1 + 0.1·(arc − 3))
    D = s·Ī_p/(√(2π)·v·σ·d0),  W = 2σ·√(2·ln D) for D > 1 else 0, at most 1.6 × cup bore

    Parameters
    ----------
    narrowed : n, by which the frequency narrows arc and bead alike, 1 at 100 Hz; so a higher frequency at the
        same heat leaves the border as it is, or a little thinner

    Notes
    -----
    A Gaussian foot drops charge across the path; metal is clean where the dose passed d0. Charge (time
    share) widens
    slowly, while the EP half's amplitude also sets how far the cathode spots wander: trim is the stronger
    lever.
    """
    foot = c.foot * (1 + 0.1 * (arc_length_mm - 3))
    spread = (
        (c.foot_base_mm * np.asarray(narrowed) + c.foot_per_pool * pool_width_mm)
        * (1 + np.asarray(ep_trim)) ** c.foot_trim_power
        * foot
    )
    dose = surface_factor * ep_mean_a / (SQRT_TWO_PI * travel_mm_s * spread * c.clearing_dose_c_mm2)
    width = 2 * spread * np.sqrt(2 * np.log(np.maximum(dose, 1.0)))
    reached = np.minimum(width, REACH_PER_BORE * np.asarray(cup_bore_mm))
    return float(reached) if reached.ndim == 0 else reached


def border_mm(cleaned_mm: Numbers, bead_mm: Numbers) -> Numbers:
    """Border on each side, mm: max(0, (W − bead)/2)."""
    return np.maximum(0.0, (np.asarray(cleaned_mm) - bead_mm) / 2) * 1.0
