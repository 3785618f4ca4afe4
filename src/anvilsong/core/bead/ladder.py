"""A ladder: coupons of one job, one change at a time, judged together.

One coupon is the settings and the hand of that minute; several of them tell the two apart. What the shop is
believed to do is the calibration on this ladder's coupons, held only by how far jobs lie apart, and the next
rung is chosen from there, not from the newest coupon's luck.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import erf, sqrt

import numpy as np

from anvilsong.core.bead.bead_models import Shot, border_at_mm
from anvilsong.core.bead.calibration import NINE_OF_TEN, border_range_mm, calibrate
from anvilsong.core.bead.change import next_change
from anvilsong.core.bead.coupon import Readings
from anvilsong.core.bead.next import NextChange
from anvilsong.core.bead.verdict import WIDTH_TOLERANCE, Verdict, as_run, read
from anvilsong.core.coefficients import Coefficients
from anvilsong.core.machine import IDEAL, Machine
from anvilsong.core.model import figures, situation
from anvilsong.core.words import sentence

# One job's metal, gas and fit differ more from another's than one shop does.
JOBS_APART = 3.0
NEARER = 0.7  # of the tolerance: a miss counts from here, since what is believed just within may be without
SURE = 0.9  # the chance of both aims at which a rung is kept


@dataclass(frozen=True)
class Belief:
    """What the newest rung's settings do by all the coupons of the ladder: readings without the luck, and how
    far they are known.
    """

    readings: Readings
    bead_sd_mm: float
    border_sd_mm: float

    def chance(self, verdict: Verdict) -> float:
        """That bead and border both are within their aims."""
        tolerance = (verdict.aim_mm[1] - verdict.aim_mm[0]) / 2
        width = WIDTH_TOLERANCE * verdict.wanted_width_mm
        return _within(verdict.width_miss, self.bead_sd_mm / width) * _within(
            verdict.border_miss, self.border_sd_mm / tolerance
        )


def believed(ladder: Sequence[Shot], c: Coefficients | None = None) -> Belief:
    """What is believed after a ladder's coupons; ``c`` is what it started from."""
    newest = ladder[-1]
    made = calibrate([_ran(shot) for shot in ladder], c, 0.0, JOBS_APART, own_law=False)
    ran, best = _ran(newest).settings, made.coefficients
    apart = np.exp(np.sqrt(made.covariance[0][0]) * np.array([0.0, -1.0, 1.0]))
    hotter = best.model_copy(update={"heat_factor": best.heat_factor * apart})
    pools = np.asarray(figures(situation(newest.job), ran.wave(), ran, hotter).pool_width_mm)
    borders = [border_at_mm(newest.job, ran, float(pool), best) for pool in pools]
    known = border_range_mm(made, newest.job, ran, float(pools[0]))
    border = max(borders[0], 0.0)
    readings = newest.readings.model_copy(
        update={"bead_width_mm": float(pools[0]), "border_left_mm": border, "border_right_mm": border}
    )
    return Belief(
        readings,
        bead_sd_mm=float(pools[2] - pools[1]) / 2,
        border_sd_mm=float(
            np.hypot((known.high - known.low) / 2 / NINE_OF_TEN, (borders[2] - borders[1]) / 2)
        ),
    )


def fitted_to(shots: Sequence[Shot], c: Coefficients | None = None) -> Coefficients:
    """Coefficients by coupons of one job alone, each at the speed it was run, held only by how far jobs lie
    apart; ``c`` is what they start from.
    """
    return calibrate([_ran(shot) for shot in shots], c, 0.0, JOBS_APART, own_law=False).coefficients


def next_rung(
    ladder: Sequence[Shot], machine: Machine = IDEAL, c: Coefficients | None = None
) -> tuple[Verdict, NextChange]:
    """The verdict on the newest rung by all of them, and what the next rung is: one change, the same again to
    be sure, or none.

    Parameters
    ----------
    ladder : the coupons of a job in their order, each with the settings it was made for
    machine, c : what they were run on, and the coefficients that the ladder started from
    """
    newest = ladder[-1]
    belief = believed(ladder, c)
    verdict = read(newest.job, newest.settings, belief.readings, machine, c)
    change = next_change(newest.job, newest.settings, belief.readings, _nearer(verdict), machine, c)
    if change.kind == "keep" and belief.chance(verdict) < SURE:
        change = NextChange(
            kind="again",
            settings=newest.settings,
            said=sentence("bead.run_same_settings_once"),
            why=sentence("bead.border_bead_look_wanted"),
        )
    return verdict, change


def _nearer(verdict: Verdict) -> Verdict:
    """The verdict with its misses counted from nearer the aim."""
    border, width = verdict.border_miss / NEARER, verdict.width_miss / NEARER
    state = verdict.border_state
    if state == "as_wanted" and abs(border) > 1:
        state = "thin" if border < 0 else "wide"
    return verdict.model_copy(update={"border_miss": border, "width_miss": width, "border_state": state})


def _within(miss: float, sd: float) -> float:
    """The chance that a miss known to ``sd`` is within 1."""
    return (erf((1 - miss) / (sd * sqrt(2))) - erf((-1 - miss) / (sd * sqrt(2)))) / 2


def _ran(shot: Shot) -> Shot:
    return Shot(shot.job, as_run(shot.settings, shot.readings), shot.readings)
