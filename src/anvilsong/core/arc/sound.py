"""The sound of the arc: its air follows the power |i|·U, so the spectrum of that power is what is heard.

With equal halves the pitch is twice the AC frequency; any imbalance brings in the frequency itself. An
estimate.
"""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np

from anvilsong.core.arc.sampling import current_a
from anvilsong.core.arc.voltage import arc_voltage_v
from anvilsong.core.arc.waveform import Wave
from anvilsong.core.said import Words
from anvilsong.core.words import sentence

SAMPLES, HIGHEST_HZ, EDGE_S = 4096, 9000.0, 90e-6
QUIET_DB, LOUD_DB = 70.0, 85.0
REFERENCE_DB, REFERENCE_SLOPE_W_S = 68.0, 1.0e6


@lru_cache(maxsize=64)
def _power_w(wave: Wave, arc_length_mm: float) -> np.ndarray[tuple[int], np.dtype[np.float64]]:
    """The arc's power over one AC cycle, W, kept: warnings and figures ask for the same one. No machine turns
    the current round in no time: edges take 90 µs, and in between
    the power dips to nothing, which is what a square wave sounds of."""
    amps = _smoothed_a(wave)
    return np.asarray(amps * arc_voltage_v(amps, arc_length_mm))


@lru_cache(maxsize=64)
def _smoothed_a(wave: Wave) -> np.ndarray[tuple[int], np.dtype[np.float64]]:
    """The amps of one AC cycle without their sign, with edges as a machine makes them."""
    time = np.arange(SAMPLES) / SAMPLES / float(wave.frequency_hz)
    plain = Wave(wave.amps, wave.ep_share, wave.frequency_hz, wave.ep_trim, wave.shape_en, wave.shape_ep)
    current = current_a(plain, time)
    width = max(1, int(EDGE_S * float(wave.frequency_hz) * SAMPLES))
    round_about = np.concatenate([current[-width:], current, current[:width]])
    return np.abs(np.convolve(round_about, np.ones(width) / width, "same")[width:-width])


def power_harmonics(wave: Wave, arc_length_mm: float = 3.0) -> list[tuple[float, float]]:
    """(frequency Hz, amplitude) of what is heard of one AC cycle, loudest is 1: the power's own change drives
    the air, so each
    harmonic of the power counts with its number."""
    frequency = float(wave.frequency_hz)
    count = max(2, int(HIGHEST_HZ / frequency))
    spectrum = np.abs(np.fft.rfft(_power_w(wave, arc_length_mm)))[1 : count + 1] / SAMPLES
    numbers = np.arange(1, count + 1)
    heard = spectrum * numbers
    loudest = float(heard.max()) or 1.0
    return [
        (float(f), float(a / loudest))
        for f, a in zip(numbers * frequency, heard, strict=True)
        if a > 1e-3 * loudest
    ]


@lru_cache(maxsize=64)
def loudness_db(wave: Wave, arc_length_mm: float = 3.0) -> float:
    """A rough figure of loudness, dB: 68 at an rms change of the power of 1 MW/s, 20 dB for each ten times.
    For comparing.
    """
    power_w = _power_w(wave, arc_length_mm)
    steps_w = power_w[1:] - power_w[:-1]
    slope = math.sqrt(float(steps_w @ steps_w) / len(steps_w)) * float(wave.frequency_hz) * SAMPLES
    return REFERENCE_DB + 20 * math.log10(max(slope, 1.0) / REFERENCE_SLOPE_W_S)


def noise_words(db: float) -> Words:
    """What that is like."""
    if db > LOUD_DB:
        return sentence("heat.loud_harsh_wear_ear")
    return "crisp" if db > QUIET_DB else "gentle"
