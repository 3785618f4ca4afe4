"""Pedal travel and duty."""

from __future__ import annotations

from typing import Literal

import numpy as np

from anvilsong.core.arc.waveform import Numbers

PedalSchool = Literal["hot", "middle", "patient"]
HEADROOM: dict[PedalSchool, float] = {"hot": 1.45, "middle": 1.25, "patient": 1.10}
TOO_COARSE, NO_RESERVE = 0.35, 0.95
DUTY_CYCLE_S = 600.0


def pedal_used(amps_needed: Numbers, least_a: Numbers, most_a: Numbers) -> Numbers:
    """Share of the pedal's travel: (needed − min)/(max − min)."""
    return (amps_needed - least_a) / np.maximum(most_a - np.asarray(least_a), 1e-9)


def allowed_duty(amps: Numbers, rated_a: float, rated_duty: float) -> Numbers:
    """Share of ten minutes a machine may weld at this current: I1²·D1 = I2²·D2, at most 1. A stated
    approximation.
    """
    return np.minimum(1.0, rated_duty * (rated_a / np.maximum(amps, 1e-9)) ** 2)
