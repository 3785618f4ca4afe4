"""The current of one AC cycle, by its halves: means, rms, and where the heat goes.

EP (electrode positive) cleans and heats the tungsten; EN (electrode negative) heats the work.
Every function takes plain numbers or numpy arrays and returns the same.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from anvilsong.core.coefficients import Coefficients

Shape = Literal["square", "soft", "trapezoid", "sine", "triangle"]
Numbers = float | NDArray[np.float64]

SHAPES: tuple[Shape, ...] = ("square", "soft", "trapezoid", "sine", "triangle")
SOFT_EDGE = 0.15
TRAPEZOID_EDGE = 0.25
PULSE_FOLLOWED_BELOW_HZ = 5.0

# Mean m and mean square of each unit half. Soft: raised-cosine edges over 15 % at each end (mean 1/2, mean
# square 3/8
# on an edge); trapezoid: straight edges over 25 % (1/2 and 1/3); sine 2/π and 1/2; triangle 1/2 and 1/3.
_MEAN: dict[Shape, float] = {
    "square": 1.0,
    "soft": 1 - SOFT_EDGE,
    "trapezoid": 1 - TRAPEZOID_EDGE,
    "sine": 2 / np.pi,
    "triangle": 0.5,
}
_MEAN_SQUARE: dict[Shape, float] = {
    "square": 1.0,
    "soft": 1 - 2 * SOFT_EDGE * (1 - 3 / 8),
    "trapezoid": 1 - 2 * TRAPEZOID_EDGE * (1 - 1 / 3),
    "sine": 0.5,
    "triangle": 1 / 3,
}


def shape_mean(shape: Shape) -> float:
    """Mean of a unit half wave."""
    return _MEAN[shape]


def shape_rms(shape: Shape) -> float:
    """Root mean square of a unit half wave."""
    return float(np.sqrt(_MEAN_SQUARE[shape]))


@dataclass(frozen=True)
class Wave:
    """One arc, canonically. Currents in A (peak of the EN half), frequency in Hz, shares 0..1.

    ``pulse`` is (rate_hz, peak_share, base_share); ``mix`` is (ac_share, cycle_s, dc_level). Not both.
    """

    amps: Numbers
    ep_share: Numbers
    frequency_hz: Numbers
    ep_trim: Numbers = 0.0
    shape_en: Shape = "square"
    shape_ep: Shape = "square"
    pulse: tuple[Numbers, Numbers, Numbers] | None = None
    mix: tuple[Numbers, Numbers, Numbers] | None = None

    @property
    def ep_amps(self) -> Numbers:
        """Peak of the EP half, A: I_n·(1 + t)."""
        return self.amps * (1 + self.ep_trim)


@dataclass(frozen=True)
class Means:
    """Means over the whole cycle, A, and the rms of the current, A."""

    en: Numbers
    ep: Numbers
    rms: Numbers

    @property
    def both(self) -> Numbers:
        """Mean of |i|, A."""
        return self.en + self.ep


def ac_means(wave: Wave) -> Means:
    """Means of the AC (peak) phase alone.

    Ī_p = p·I_p·m_ep,  Ī_n = (1 − p)·I_n·m_en,  rms² = p·I_p²·r_ep² + (1 − p)·I_n²·r_en²
    """
    p, ep_amps = wave.ep_share, wave.ep_amps
    square = (
        p * ep_amps**2 * _MEAN_SQUARE[wave.shape_ep] + (1 - p) * wave.amps**2 * _MEAN_SQUARE[wave.shape_en]
    )
    return Means(
        en=(1 - p) * wave.amps * _MEAN[wave.shape_en],
        ep=p * ep_amps * _MEAN[wave.shape_ep],
        rms=np.sqrt(square),
    )


def cycle_means(wave: Wave) -> Means:
    """Means over everything: AC cycle, pulse or mix.

    Pulse: every mean × (on + base·(1 − on)), mean square × (on + base²·(1 − on)).
    Mix: Ī_p = a·p·I_p·m_ep,  Ī_n = a·(1 − p)·I_n·m_en + (1 − a)·d·I_n.
    """
    ac = ac_means(wave)
    if wave.pulse is not None:
        _, on, base = wave.pulse
        factor = on + base * (1 - on)
        return Means(ac.en * factor, ac.ep * factor, ac.rms * np.sqrt(on + base**2 * (1 - on)))
    if wave.mix is not None:
        a, _, level = wave.mix
        direct = level * wave.amps
        return Means(a * ac.en + (1 - a) * direct, a * ac.ep, np.sqrt(a * ac.rms**2 + (1 - a) * direct**2))
    return ac


def tip_means(wave: Wave) -> Means:
    """The means the tungsten's tip feels: it answers in about 0.1 s, so a slow pulse or mix counts at its
    peak phase.

    Slower than 5 Hz: the AC phase alone. Faster: the whole cycle.
    """
    rate: Numbers = np.inf
    if wave.pulse is not None:
        rate = wave.pulse[0]
    elif wave.mix is not None:
        rate = 1 / np.asarray(wave.mix[1], dtype=float)
    slow, whole = ac_means(wave), cycle_means(wave)
    followed = np.asarray(rate) < PULSE_FOLLOWED_BELOW_HZ
    if followed.ndim == 0:
        return slow if followed else whole
    return Means(
        *(
            np.where(followed, s, w)
            for s, w in ((slow.en, whole.en), (slow.ep, whole.ep), (slow.rms, whole.rms))
        )
    )


def work_heat_w(
    wave: Wave, c: Coefficients, arc_length_mm: Numbers = 3.0, helium_share: Numbers = 0.0
) -> Numbers:
    """Heat into the work, W: q = (h_n·Ī_n + h_p·Ī_p) · (1 + 0.03·(arc − 3)) · (1 + 0.2·x + 0.3·x²).

    Source: nominal split at a 3 mm argon arc; x = helium share of the gas.
    """
    means = cycle_means(wave)
    return (
        c.heat_factor
        * (c.work_w_per_a_en * means.en + c.work_w_per_a_ep * means.ep)
        * (1 + 0.03 * (arc_length_mm - 3))
        * helium_heat(helium_share)
    )


def helium_heat(helium_share: Numbers) -> Numbers:
    """Heat of an argon-helium arc against argon: 1 + 0.2·x + 0.3·x²."""
    return 1 + 0.2 * helium_share + 0.3 * helium_share**2


def heat_per_amp_w(
    wave: Wave, c: Coefficients, arc_length_mm: float = 3.0, helium_share: float = 0.0
) -> float:
    """Heat into the work per canonical ampere, W/A, of this wave whatever its amps.

    >>> from anvilsong.core.coefficients import nominal
    >>> round(heat_per_amp_w(Wave(100, 0.3, 100), nominal()), 2)
    7.1
    """
    one = Wave(
        1.0,
        wave.ep_share,
        wave.frequency_hz,
        wave.ep_trim,
        wave.shape_en,
        wave.shape_ep,
        wave.pulse,
        wave.mix,
    )
    return float(work_heat_w(one, c, arc_length_mm, helium_share))


def shortest_half_s(wave: Wave) -> Numbers:
    """The shorter of the two halves, s: min(p, 1 − p)/f. Panels need about 0.6 ms."""
    shorter: Numbers = np.minimum(wave.ep_share, 1 - np.asarray(wave.ep_share))
    return shorter / wave.frequency_hz
