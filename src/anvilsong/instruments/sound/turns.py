"""The AC balance by the clicks of the arc: at each turn of the current its power dips, which sounds twice a
cycle; how far apart the two clicks lie is the share of the shorter half.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from anvilsong.core.flow import Found
from anvilsong.instruments.sound.recording import Sound

Floats = NDArray[np.float64]

PLACES, MOST_FRAMES, FRAME_S = 240, 16, 0.5
CLEAR, THIRD, BESIDE = (
    5.0,
    0.5,
    0.12,
)  # spreads of the rest that a click stands over; a third click against the second
CLICK_PLACES = 9
WITHIN, EDGES_S = 0.045, 1e-4  # the corners of a rounded wave click beside its turns


class Turns(NamedTuple):
    """EP share of the cycle, EP taken as the shorter half; None where no two clicks a cycle stand out.
    ``only_one``: one alone stands out, as if the cycle were the half of one.
    """

    ep_share: Found | None
    only_one: bool


def turns_heard(sound: Sound, hz: float, frames: list[float]) -> Turns:
    """What the clicks of a cycle say.

    Parameters
    ----------
    frames : where half seconds of steady arc begin, s
    """
    profile = _folded(sound, hz, frames)
    if profile is None:
        return Turns(None, False)
    smooth = np.real(np.fft.ifft(np.fft.fft(profile) * np.conj(np.fft.fft(_window()))))
    rest = float(np.median(smooth))
    spread = 1.48 * float(np.median(np.abs(smooth - rest))) or 1e-12
    peaks = list[int]()
    for at in np.argsort(smooth)[::-1]:
        if all(_apart(int(at), other) > CLICK_PLACES for other in peaks):
            peaks.append(int(at))
        if len(peaks) == 3:
            break
    first, second, third = (float(smooth[at]) - rest for at in peaks)
    only_one = first > CLEAR * spread and second < max(CLEAR * spread, BESIDE * first)
    if second < CLEAR * spread or third > THIRD * second or only_one:
        return Turns(None, only_one)
    share = min(_apart(peaks[0], peaks[1]), PLACES - _apart(peaks[0], peaks[1])) / PLACES
    return Turns(Found.within(share, WITHIN + EDGES_S * hz) if share > 0.04 else None, False)


def _apart(one: int, other: int) -> int:
    return min(abs(one - other), PLACES - abs(one - other))


def _window() -> Floats:
    window = np.zeros(PLACES)
    window[[0, 1, -1]] = 0.5, 0.25, 0.25
    return window


def _folded(sound: Sound, hz: float, frames: list[float]) -> Floats | None:
    """How sharply the sound changes along the cycle, over many half seconds laid over each other."""
    size, total = int(FRAME_S * sound.rate_hz), None
    chosen = frames if len(frames) <= MOST_FRAMES else frames[:: len(frames) // MOST_FRAMES + 1]
    phase = np.minimum(((np.arange(size) / sound.rate_hz * hz) % 1 * PLACES).astype(int), PLACES - 1)
    counts = np.maximum(np.bincount(phase, minlength=PLACES), 1)
    for begin in chosen:
        start = int(begin * sound.rate_hz)
        piece = sound.samples[start : start + size + 2].astype(float)
        if len(piece) < size + 2:
            continue
        sharp = np.abs(np.diff(piece, 2))
        mean = np.bincount(phase, np.minimum(sharp, 8 * sharp.mean()), PLACES) / counts
        if total is None:
            total = mean
            continue
        like = np.fft.ifft(np.fft.fft(total) * np.conj(np.fft.fft(mean)))
        total = total + np.roll(mean, int(np.argmax(like.real)))
    return total
