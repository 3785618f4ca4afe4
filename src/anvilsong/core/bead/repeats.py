"""The scatter of a hand: how far coupons of equal settings lie apart, whatever the model says of them.

Pooled over all groups of coupons with equal job and settings, beside what is usual for a hand:

s² = (n₀·s₀² + Σ (x − x̄ of its group)²)/(n₀ + Σ (n − 1))

with s₀ the usual scatter and n₀ what that counts for, in coupons. How well it is known is told by Student's t
with n₀ + Σ (n − 1) degrees of freedom.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from math import hypot, log, sqrt

import numpy as np

from anvilsong.core.bead.bead_models import BORDER_SCATTER, BORDER_SCATTER_MM, WIDTH_SCATTER, Shot
from anvilsong.core.bead.coupon import Looks, Readings
from anvilsong.core.coefficients import nominal
from anvilsong.core.value import Value

USUAL_WEIGHS = 6.0  # repeats that the usual scatter counts for
TRAVEL_SCATTER = 0.06
JUDGED_SCATTER = 0.5  # places of a scale, from one look to the next; a rule of thumb
TAKEN_BY_THE_BEAD = 0.3  # of its width, from each border: (1 − the growth of the cleaned strip)/2
NINETEEN_OF_TWENTY = 1.959964  # of a normal


class HandScatter(Value):
    """How far one hand's coupons lie apart, one standard deviation; ``repeats`` tells from how many."""

    width: float = WIDTH_SCATTER
    """Of bead widths, as a share."""
    border: float = 1.0
    """Of borders beside beads of equal width and speed, in usual ones."""
    travel: float = TRAVEL_SCATTER
    """Of travel speeds, as a share."""
    repeats: int = 0
    """Σ (n − 1) over the groups of equal settings."""

    @property
    def freedoms(self) -> float:
        """Degrees of freedom that the scatters are known with."""
        return USUAL_WEIGHS + self.repeats

    @property
    def clear_over(self) -> float:
        """Scatters of a difference over which it is more than the hand, in nineteen of twenty pairs."""
        return student_z(self.freedoms)

    def own_border_sd_mm(self, border_mm: float) -> float:
        """Of a border beside beads of equal width, mm."""
        return self.border * hypot(BORDER_SCATTER_MM, BORDER_SCATTER * border_mm)

    def border_sd_mm(self, border_mm: float, bead_mm: float) -> float:
        """Of a border, mm: a bead that came out wider takes it from its borders."""
        return hypot(self.own_border_sd_mm(border_mm), TAKEN_BY_THE_BEAD * self.width * bead_mm)


def student_z(freedoms: float, z: float = NINETEEN_OF_TWENTY) -> float:
    """Student's t that as many lie within as lie within ``z`` of a normal (Cornish and Fisher's expansion).

    >>> round(student_z(6), 2), round(student_z(30), 3)
    (2.45, 2.042)
    """
    first = (z**3 + z) / 4
    second = (5 * z**5 + 16 * z**3 + 3 * z) / 96
    third = (3 * z**7 + 19 * z**5 + 17 * z**3 - 15 * z) / 384
    return z + first / freedoms + second / freedoms**2 + third / freedoms**3


def hand_scatter(shots: Sequence[Shot]) -> HandScatter:
    """The scatter of the hand that ran these coupons, from those of equal settings alone.

    Parameters
    ----------
    shots : coupons with the settings that they were made for, not those that the hand went at
    """
    groups = defaultdict[str, list[Readings]](list)
    for shot in shots:
        groups[shot.job.model_dump_json() + shot.settings.model_dump_json()].append(shot.readings)
    again = [group for group in groups.values() if len(group) > 1]
    repeats = sum(len(group) - 1 for group in again)
    usual = HandScatter()
    if not again:
        return usual

    def pooled(usual_sd: float, squares: float) -> float:
        return sqrt((USUAL_WEIGHS * usual_sd**2 + squares) / (USUAL_WEIGHS + repeats))

    widths = [[log(each.bead_width_mm) for each in group] for group in again]
    speeds = [[log(each.travel_mm_s) for each in group] for group in again]
    return HandScatter(
        width=pooled(WIDTH_SCATTER, sum(map(_squares, widths))),
        border=pooled(1.0, sum(_border_squares(group, usual) for group in again)),
        travel=pooled(TRAVEL_SCATTER, sum(map(_squares, speeds))),
        repeats=repeats,
    )


def _squares(values: Sequence[float]) -> float:
    return float(np.square(np.asarray(values) - np.mean(values)).sum())


def _border_squares(group: Sequence[Readings], usual: HandScatter) -> float:
    """Squares of the borders from their mean, beside beads of equal width and speed, in usual ones."""
    bead = float(np.mean([each.bead_width_mm for each in group]))
    travel = float(np.mean([each.travel_mm_s for each in group]))
    borders = [border_beside_mm(each, bead, travel) for each in group]
    return _squares(borders) / usual.own_border_sd_mm(float(np.mean(borders))) ** 2


def border_beside_mm(readings: Readings, bead_mm: float, travel_mm_s: float) -> float:
    """The border of a coupon as it would stand beside a bead of this width, run at this speed, mm.

    0.3 of what the bead is wider comes off each side; a slower hand leaves more charge a millimetre:
    d border/d ln v = −2σ²/W, σ = 1.0 + 0.13·w, as the cleaned width W = 2σ√(2 ln D), D ~ 1/v, has it.
    """
    bead, border = readings.bead_width_mm, readings.border_mm
    spread = nominal().foot_base_mm + nominal().foot_per_pool * bead
    per_ln_speed = 2 * spread**2 / (bead + 2 * border)
    slower = per_ln_speed * log(readings.travel_mm_s / travel_mm_s) if border > 0 else 0.0
    return border + TAKEN_BY_THE_BEAD * (bead - bead_mm) + slower


def width_apart(one: Looks, other: Looks, hand: HandScatter) -> float | None:
    """How far two bead widths lie apart, in scatters of such a difference; None where one is missing."""
    if one.bead_width_mm is None or other.bead_width_mm is None:
        return None
    return log(other.bead_width_mm / one.bead_width_mm) / (sqrt(2) * hand.width)


def border_apart(one: Looks, other: Looks, hand: HandScatter) -> float | None:
    """How far two borders lie apart, in scatters of such a difference; None where one is missing."""
    if one.border_mm is None or other.border_mm is None:
        return None
    widest = max(one.bead_width_mm or 0.0, other.bead_width_mm or 0.0)
    sd = [hand.border_sd_mm(each.border_mm or 0.0, each.bead_width_mm or widest) for each in (one, other)]
    return (other.border_mm - one.border_mm) / hypot(*sd)
