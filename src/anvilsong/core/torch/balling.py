"""Balling a tungsten on scrap: amps, seconds, and how the ball should look.

On AC the tip is melted where its load is 1.15, between balling and melting; at load 1 it loses as much as it
takes up. What is left over melts the ball: seconds = m·H/(P(amps) − P(amps at load 1)), P = 2·Ī_n + 7·Ī_p W,
m the mass of a ball of 1.15 diameters and H = 0.9 kJ/g from cold to melted. On electrode positive the
amps are 0.6 of what the size bears there and go no further: arc length and time do the rest, at least
m·H/(7·amps) seconds.

References
----------
Heat into the electrode: usual anode and cathode fractions of an argon arc, nominal, as the work's.
NIST-JANAF tables: enthalpy of tungsten.
"""

from __future__ import annotations

import math
from dataclasses import replace
from typing import NamedTuple

from anvilsong.core.arc.waveform import Wave, ac_means
from anvilsong.core.torch.tungsten import (
    LOAD_MELTS,
    balling_start_a,
    find_size,
    limit_factor,
    tungsten_load,
)

WIDTH_SHARES = (1.0, 1.15, 1.3)  # of the diameter: least, wanted, most
BALLS_AT_LOAD = 1.15
TIP_W_PER_A_EN, TIP_W_PER_A_EP = 2.0, 7.0
DENSITY_G_MM3, MELTING_J_G = 0.01925, 900.0


class BallRun(NamedTuple):
    """Amps to begin with, amps not to pass, and the seconds until the ball is there."""

    start_a: float
    most_a: float
    seconds: float


class Balling(NamedTuple):
    """How a tungsten is balled: on AC with a wave, None where the machine has not the amps; on electrode
    positive; and the widths of the ball, mm: least, wanted, most.
    """

    on_ac: BallRun | None
    on_positive: BallRun
    widths_mm: tuple[float, float, float]


def balling(diameter_mm: float, class_key: str, wave: Wave, most_a: float, limit: float = 1.0) -> Balling:
    """What balls a tungsten on a machine.

    Parameters
    ----------
    wave : the one to ball it with, of any amps: that with the most positive share the machine has
    limit : what this shop's tips bear of nominal, the coefficient ``tungsten_limit``
    """
    size = find_size(diameter_mm)
    per_amp = float(tungsten_load(replace(wave, amps=1.0), size.diameter_mm, class_key, "point", limit))
    joules = DENSITY_G_MM3 * math.pi / 6 * (WIDTH_SHARES[1] * size.diameter_mm) ** 3 * MELTING_J_G
    melts, loses = BALLS_AT_LOAD / per_amp, 1.0 / per_amp
    on_ac = None
    if melts <= most_a:
        spare = _tip_w(replace(wave, amps=melts)) - _tip_w(replace(wave, amps=loses))
        on_ac = BallRun(0.8 * melts, min(LOAD_MELTS / per_amp, most_a), joules / spare)
    factor = limit_factor(class_key, "point") * limit
    positive = balling_start_a(size.diameter_mm) * factor
    on_positive = BallRun(positive, positive, joules / (TIP_W_PER_A_EP * positive))
    first, wanted, last = (share * size.diameter_mm for share in WIDTH_SHARES)
    return Balling(on_ac, on_positive, (first, wanted, last))


def _tip_w(wave: Wave) -> float:
    """Heat into the tip, W."""
    means = ac_means(wave)
    return float(TIP_W_PER_A_EN * means.en + TIP_W_PER_A_EP * means.ep)
