"""The spectrum of a recording, frame by frame: what stands still in it is an arc, what comes and goes is
not.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy.fft import next_fast_len, rfft

from anvilsong.instruments.sound.recording import Sound

Floats = NDArray[np.float64]

FRAME_S, TOP_HZ = 1.0, 5000.0
FLOOR_HZ, FLOOR_AT = 70.0, 25.0  # the noise is what a quarter of the bins of so wide a band lie under
MOST_OVER = 2.5  # decades over the noise that one line may count for


class Spectrum(NamedTuple):
    """How far each bin lies over the noise beside it, in decades of power: of each frame, and of the frames'
    median, which keeps only what is there most of the time.
    """

    bin_hz: float
    frames: Floats
    steady: Floats
    powers: Floats
    step_s: float


def spectrum_of(sound: Sound) -> Spectrum:
    """Spectra of frames of one second, half over each other where the recording is short."""
    size = next_fast_len(int(FRAME_S * sound.rate_hz), real=True)
    size = min(size, len(sound.samples))
    step = size if len(sound.samples) >= 12 * size else max(1, size // 4)
    starts = np.arange(0, len(sound.samples) - size + 1, step)
    window = np.hanning(size).astype(np.float32)
    bin_hz = sound.rate_hz / size
    top = int(min(TOP_HZ, 0.45 * sound.rate_hz) / bin_hz)
    powers = np.empty((len(starts), top))
    for place, start in enumerate(starts):
        spectrum = rfft(sound.samples[start : start + size] * window)[:top]
        powers[place] = spectrum.real**2 + spectrum.imag**2
    powers += 1e-12 * powers.max(initial=1e-12) + 1e-20
    steady = _over_noise(np.median(powers, axis=0)[None], bin_hz)[0]
    return Spectrum(bin_hz, _over_noise(powers, bin_hz), steady, powers, step / sound.rate_hz)


def _over_noise(powers: Floats, bin_hz: float) -> Floats:
    """Decades of each bin over the noise about it."""
    wide = max(8, int(FLOOR_HZ / bin_hz))
    count = powers.shape[1] // wide
    levels = np.log10(powers)
    blocks = levels[:, : count * wide].reshape(len(levels), count, wide)
    floors = np.partition(blocks, int(wide * FLOOR_AT / 100), axis=2)[:, :, int(wide * FLOOR_AT / 100)]
    middles = (np.arange(count) + 0.5) * wide
    places = np.arange(powers.shape[1])
    floor = np.stack([np.interp(places, middles, each) for each in floors])
    return np.asarray(np.clip(levels - floor, 0.0, MOST_OVER))
