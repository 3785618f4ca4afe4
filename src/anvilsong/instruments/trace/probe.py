"""A simulated clamp on a simulated arc: what flows is known, so that a reader can be judged by it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.signal import lfilter

from anvilsong.core.arc.waveform import Wave
from anvilsong.instruments.trace.fit import half_shape
from anvilsong.instruments.trace.recording import Recording

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Probe:
    """How the current is taken: samples a second, the clamp's bandwidth, noise and offset in A, what it
    cannot go past, the steps of its bits, and how far its samples lie beside their time, as a share of one.
    """

    rate_hz: float = 20_000.0
    bandwidth_hz: float = 20_000.0
    noise_a: float = 1.0
    offset_a: float = 0.0
    most_a: float = 500.0
    bits: int = 12
    jitter: float = 0.0


def current_of(wave: Wave, times: Floats) -> Floats:
    """The current of an arc at some times, s; 0 before 0. EP is positive."""
    phase = (times * float(wave.frequency_hz)) % 1
    share = float(wave.ep_share)
    ep = float(wave.ep_amps) * half_shape(wave.shape_ep, np.clip(phase / share, 0, 1))
    en = -float(wave.amps) * half_shape(wave.shape_en, np.clip((phase - share) / (1 - share), 0, 1))
    current = np.where(phase < share, ep, en)
    if wave.pulse is not None:
        rate, on, base = (float(each) for each in wave.pulse)
        current = current * np.where((times * rate) % 1 < on, 1.0, base)
    if wave.mix is not None:
        ac, cycle, level = (float(each) for each in wave.mix)
        current = np.where((times / cycle) % 1 < ac, current, -level * float(wave.amps))
    return np.where(times < 0, 0.0, current)


def recorded(wave: Wave, probe: Probe, seconds: float, quiet_s: float, seed: int) -> Recording:
    """What a clamp gives of so many seconds of arc, after so many of none; the same for the same seed."""
    rng = np.random.default_rng(seed)
    times = np.arange(int((seconds + quiet_s) * probe.rate_hz)) / probe.rate_hz - quiet_s
    seen = current_of(wave, times + rng.normal(0, probe.jitter / probe.rate_hz, len(times)))
    keep = float(np.exp(-2 * np.pi * probe.bandwidth_hz / probe.rate_hz))
    seen = np.asarray(lfilter([1 - keep], [1, -keep], seen))
    seen = seen + rng.normal(0, probe.noise_a, len(times)) + probe.offset_a
    step = 2 * probe.most_a / 2**probe.bits
    return Recording(probe.rate_hz, np.clip(np.round(seen / step) * step, -probe.most_a, probe.most_a), True)
