"""What the coefficients make of coupons: the bead's width, and the border beside a bead of its own width."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from anvilsong.core.arc.border import cleaned_width_mm
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
    """ln of the bead's width against (ln heat factor, power of frequency)."""

    def __init__(self, shots: Sequence[Shot], start: Coefficients) -> None:
        self.shots, self.start = shots, start
        self.seen = np.log([shot.readings.bead_width_mm for shot in shots])
        self.ln_f = np.log([shot.settings.frequency_hz / 100 for shot in shots])

    def scatter(self, value: Array) -> Array:
        """The usual scatter of a hand at a ln width."""
        return np.full(value.shape, WIDTH_SCATTER)

    def at(self, theta: Array) -> tuple[Array, Array]:
        """ln width of each coupon, and its slopes."""
        heats = self.start.heat_factor * np.exp(theta[0] + np.array([0.0, TRIED]))
        ln_width = np.empty((len(self.shots), 2))
        for place, shot in enumerate(self.shots):
            hot = self.start.model_copy(update={"heat_factor": heats})
            pool = pool_width_mm(situation(shot.job), shot.settings.wave(), shot.settings, hot)
            ln_width[place] = np.log(np.maximum(pool, 0.1))
        slope = np.column_stack([(ln_width[:, 1] - ln_width[:, 0]) / TRIED, self.ln_f])
        return ln_width[:, 0] + theta[1] * self.ln_f, slope


class BorderModel:
    """Border, mm, signed, at the bead's own width against (ln dose, ln foot)."""

    def __init__(self, shots: Sequence[Shot], start: Coefficients) -> None:
        self.start = start
        self.seen = np.array([shot.readings.border_mm for shot in shots])
        self.bead = np.array([shot.readings.bead_width_mm for shot in shots])
        self.travel = np.array([shot.settings.travel_mm_s for shot in shots])
        self.arc = np.array([shot.job.arc_length_mm for shot in shots])
        self.ep = np.array([float(cycle_means(shot.settings.wave()).ep) for shot in shots])
        self.trim = np.array([shot.settings.ep_trim for shot in shots])
        self.surface = np.array([situation(shot.job).surface.cleaning_factor for shot in shots])
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
            self.ep, self.trim, self.bead, self.travel, self.surface, self.bore, c, self.arc
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
