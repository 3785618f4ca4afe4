"""The current against time, sampled: for drawings, export, sound, and as the check on the closed forms."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from anvilsong.core.arc.waveform import SOFT_EDGE, TRAPEZOID_EDGE, Numbers, Shape, Wave

Array = NDArray[np.float64]


def unit_half(shape: Shape, u: Array) -> Array:
    """A unit half wave at places u, 0..1 along the half."""
    nearer = np.minimum(u, 1 - u)
    match shape:
        case "square":
            return np.ones_like(u)
        case "soft":
            return np.asarray((1 - np.cos(np.pi * np.minimum(nearer / SOFT_EDGE, 1))) / 2)
        case "trapezoid":
            return np.minimum(nearer / TRAPEZOID_EDGE, 1)
        case "sine":
            return np.asarray(np.sin(np.pi * u))
    return 2 * nearer


def current_a(wave: Wave, time_s: Array) -> Array:
    """Current, A, at times s: + is electrode positive. A cycle begins with its EP half; pulse and mix begin
    at their peak.

    The AC cycle runs on through pulse and mix without a break; the DC part of a mix is electrode negative.
    """
    share, amps, ep_amps = float(wave.ep_share), float(wave.amps), float(wave.ep_amps)
    phase = np.mod(time_s * float(wave.frequency_hz), 1.0)
    in_ep = phase < share
    u = np.where(in_ep, phase / share, (phase - share) / (1 - share))
    current = np.where(in_ep, ep_amps * unit_half(wave.shape_ep, u), -amps * unit_half(wave.shape_en, u))
    if wave.pulse is not None:
        rate, on, base = (float(part) for part in wave.pulse)
        current = current * np.where(np.mod(time_s * rate, 1.0) < on, 1.0, base)
    if wave.mix is not None:
        ac_share, cycle, level = (float(part) for part in wave.mix)
        current = np.where(np.mod(time_s / cycle, 1.0) < ac_share, current, -level * amps)
    return np.asarray(current)


def whole_period_s(wave: Wave) -> float:
    """The longest repeating stretch, s: a pulse or mix cycle, else an AC cycle."""
    if wave.pulse is not None:
        return 1 / float(wave.pulse[0])
    return float(wave.mix[1]) if wave.mix is not None else 1 / float(wave.frequency_hz)


def ac_cycles_in_shorter_phase(wave: Wave) -> Numbers:
    """Whole AC cycles that fit the shorter phase of the pulse: f·min(on, 1 − on)/rate; two are wanted."""
    if wave.pulse is None:
        return float("inf")
    rate, on, _ = (float(part) for part in wave.pulse)
    return wave.frequency_hz * min(on, 1 - on) / rate
