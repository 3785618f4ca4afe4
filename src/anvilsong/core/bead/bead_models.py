"""What the coefficients make of coupons: the bead's width, and the border beside a bead of its own width."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from copy import copy
from dataclasses import dataclass
from typing import Literal

import numpy as np

from anvilsong.core.arc.border import cleaned_width_mm
from anvilsong.core.arc.frequency import arc_width_factor, width_factor
from anvilsong.core.arc.waveform import cycle_means
from anvilsong.core.bead.coupon import Readings
from anvilsong.core.bead.student_fit import Array
from anvilsong.core.coefficients import Coefficients
from anvilsong.core.job import Job
from anvilsong.core.model import pool_width_mm, situation
from anvilsong.core.settings import Settings
from anvilsong.core.torch.cup import bore_mm

CoefficientKey = Literal["heat_factor", "width_frequency_power", "clearing_dose_c_mm2", "foot"]
# Of one hand from coupon to coupon: bead width as a share, border in mm and as a share.
WIDTH_SCATTER, BORDER_SCATTER_MM, BORDER_SCATTER = 0.10, 0.07, 0.07
TRIED = 0.02
THETAS = np.linspace(-1.0, 1.0, 161)  # ln of heat factors


@dataclass(frozen=True)
class Shot:
    """One coupon as it was run: ``settings`` at the speed the hand really went."""

    job: Job
    settings: Settings
    readings: Readings


def moved(start: Coefficients, keys: Iterable[CoefficientKey], theta: Array) -> dict[str, float]:
    """Coefficients at θ, ln from where they start: times e^θ, and the power of frequency plus θ."""
    return {
        key: float(
            getattr(start, key) + t if key == "width_frequency_power" else getattr(start, key) * np.exp(t)
        )
        for key, t in zip(keys, theta, strict=True)
    }


class WidthModel:
    """ln of the bead's width against (ln heat factor, power of frequency), for a hand whose width follows the
    heat ``bend`` times as steeply as the model's.

    ln w = ln w₀ + bend·(ln w_model − ln w₀) + θ₁·ln(f/100 Hz), with w₀ the pool that the job wants. There
    both laws agree: the heat factor says at which amps the wanted pool comes, whatever the slope.
    """

    def __init__(self, shots: Sequence[Shot], start: Coefficients) -> None:
        self.seen = np.log([shot.readings.bead_width_mm for shot in shots])
        self.ln_f = np.log([shot.settings.frequency_hz / 100 for shot in shots])
        self.wanted = np.log([_wanted_mm(shot, start) for shot in shots])
        self.bend = 1.0
        # Asked again and again: each coupon's width over the heat factors that can be.
        hot = start.model_copy(update={"heat_factor": start.heat_factor * np.exp(THETAS)})
        pools = [
            pool_width_mm(situation(shot.job), shot.settings.wave(), shot.settings, hot) for shot in shots
        ]
        self.over = np.log(np.maximum(np.array(pools).reshape(-1, len(THETAS)), 0.1))

    def bent(self, bend: float) -> WidthModel:
        """The same coupons by another slope."""
        other = copy(self)
        other.bend = bend
        return other

    def scatter(self, value: Array) -> Array:
        """The usual scatter of a hand at a ln width."""
        return np.full(value.shape, WIDTH_SCATTER)

    def at(self, theta: Array) -> tuple[Array, Array]:
        """ln width of each coupon, and its slopes."""
        here = float(np.clip(theta[0], THETAS[0] + TRIED, THETAS[-1] - TRIED))
        around = np.array([here - TRIED, here, here + TRIED])
        ln_width = _between(self.over, around)
        bent = self.wanted + self.bend * (ln_width[:, 1] - self.wanted)
        slope = self.bend * (ln_width[:, 2] - ln_width[:, 0]) / (2 * TRIED)
        return bent + theta[1] * self.ln_f, np.column_stack([slope, self.ln_f])


def _between(over: Array, thetas: Array) -> Array:
    """What stands over some θ, straight between those of THETAS: rows as in ``over``, a column for each θ."""
    left = np.clip(np.searchsorted(THETAS, thetas, side="right") - 1, 0, len(THETAS) - 2)
    steep = (over[:, left + 1] - over[:, left]) / (THETAS[left + 1] - THETAS[left])
    return np.asarray(steep * (thetas - THETAS[left]) + over[:, left])


def _wanted_mm(shot: Shot, c: Coefficients) -> float:
    """The pool that the job wants at this speed, mm, at this frequency and arc."""
    at, settings = situation(shot.job), shot.settings
    aimed = float(at.aimed_width_mm(settings.travel_mm_s, settings.preheat_c))
    wide = float(width_factor(settings.frequency_hz, c)) * float(arc_width_factor(shot.job.arc_length_mm))
    return max(aimed * wide, 0.1)


class BorderModel:
    """Border, mm, signed, at the bead's own width against (ln dose, ln foot)."""

    def __init__(self, shots: Sequence[Shot], start: Coefficients) -> None:
        self.start = start
        self.seen = np.array([shot.readings.border_mm for shot in shots])
        self.bead = np.array([shot.readings.bead_width_mm for shot in shots])
        self.travel = np.array([shot.settings.travel_mm_s for shot in shots])
        self.arc = np.array([shot.job.arc_length_mm for shot in shots])
        self.frequency = np.array([shot.settings.frequency_hz for shot in shots])
        self.ep = np.array([float(cycle_means(shot.settings.wave()).ep) for shot in shots])
        self.trim = np.array([shot.settings.ep_trim for shot in shots])
        self.surface = np.array(
            [situation(shot.job).cleaning_factor(shot.settings.preheat_c) for shot in shots]
        )
        self.bore = np.array([bore_mm(shot.settings.cup.number) for shot in shots])

    def scatter(self, value: Array) -> Array:
        """The usual scatter of a hand at a border, mm. Of the model's border: by the one seen, the thin ones
        would count for more.
        """
        return np.asarray(np.hypot(BORDER_SCATTER_MM, BORDER_SCATTER * np.maximum(value, 0.0)))

    def border(self, dose: float, foot: float) -> Array:
        """Border of each coupon, mm; below 0 where the cleaned strip is narrower than the bead."""
        c = self.start.model_copy(
            update={
                "clearing_dose_c_mm2": self.start.clearing_dose_c_mm2 * np.exp(dose),
                "foot": self.start.foot * np.exp(foot),
            }
        )
        cleaned = cleaned_width_mm(
            self.ep,
            self.trim,
            self.bead,
            self.travel,
            self.surface,
            self.bore,
            c,
            self.arc,
            width_factor(self.frequency, c),
        )
        return np.asarray((np.asarray(cleaned) - self.bead) / 2)

    def at(self, theta: Array) -> tuple[Array, Array]:
        """Border of each coupon, mm, and its slopes. What shows no border says only that it is none."""
        here = self.border(*theta)
        slope = np.column_stack(
            [
                (self.border(theta[0] + TRIED, theta[1]) - here) / TRIED,
                (self.border(theta[0], theta[1] + TRIED) - here) / TRIED,
            ]
        )
        hidden = (self.seen <= 0) & (here <= 0)
        return np.where(hidden, self.seen, here), np.where(hidden[:, None], 0.0, slope)


def border_at_mm(job: Job, settings: Settings, bead_mm: float, c: Coefficients) -> float:
    """Border, mm, beside a bead of this width; below 0 where the cleaned strip is narrower than the bead."""
    return float(BorderModel([Shot(job, settings, as_if(settings, bead_mm))], c).border(0.0, 0.0)[0])


def as_if(settings: Settings, pool_width_mm: float) -> Readings:
    """Readings of a coupon whose bead was as wide, at the planned speed."""
    length = min(max(100.0, settings.travel_mm_s), 5000.0)
    return Readings.model_construct(
        bead_width_mm=pool_width_mm,
        border_left_mm=0.0,
        border_right_mm=0.0,
        length_mm=length,
        seconds=length / settings.travel_mm_s,
    )
