"""A simulated arc before a simulated microphone: what sounds is known, so that a reader can be
judged by it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.signal import fftconvolve, lfilter

from anvilsong.core.arc.sampling import current_a
from anvilsong.core.arc.voltage import arc_voltage_v
from anvilsong.core.arc.waveform import Wave
from anvilsong.instruments.sound.recording import Sound

Floats = NDArray[np.float64]

EDGE_S, TABLE = 90e-6, 8192
MORE_IN_EP_V = 4.0  # the arc takes more volts while the aluminium is its cathode
HEARD_HZ = 18_000.0
HISS, DAB_S, DAB_QUIETER = 0.25, 0.16, 0.5


@dataclass(frozen=True)
class Room:
    """What is heard beside the arc, each against the arc's own level: noise, mains hum with its harmonics, a
    fan, and how long the room rings, s. The microphone: how loud it may get, whether it turns itself up and
    down, and its rate.
    """

    noise: float = 0.1
    hum: float = 0.0
    mains_hz: float = 50.0
    fan: float = 0.0
    rings_s: float = 0.25
    echo: float = 0.5
    clips_at: float = 0.0
    turns_itself: bool = False
    rate_hz: float = 48_000.0


def arc_sound(wave: Wave, times: Floats, arc_mm: float = 3.0) -> Floats:
    """The pressure that an arc makes: the change of its power, in units of its own rms; without its hiss."""
    phase = np.arange(TABLE) / TABLE
    plain = Wave(wave.amps, wave.ep_share, 1.0, wave.ep_trim, wave.shape_en, wave.shape_ep)
    current = current_a(plain, phase)
    wide = max(1, int(EDGE_S * float(wave.frequency_hz) * TABLE))
    kernel = np.ones(wide) / wide
    current = np.real(np.fft.ifft(np.fft.fft(current) * np.fft.fft(np.roll(_padded(kernel), -(wide // 2)))))
    volts = arc_voltage_v(np.abs(current), arc_mm) + MORE_IN_EP_V * (current > 0)
    power = np.abs(current) * volts
    heard = np.fft.rfft(np.gradient(power))
    heard[int(HEARD_HZ / float(wave.frequency_hz)) :] = 0  # what a microphone's rate cannot carry
    change = np.fft.irfft(heard, TABLE)
    at = (times * float(wave.frequency_hz)) % 1
    return np.interp(at, phase, change / max(float(change.std()), 1e-12), period=1.0)


def _padded(kernel: Floats) -> Floats:
    return np.concatenate([kernel, np.zeros(TABLE - len(kernel))])


def levels_of(wave: Wave, times: Floats, dabs_s: Sequence[float] = ()) -> Floats:
    """How loud the arc is along a recording: a pulse's base is quieter, and so is each dab of the rod."""
    level = np.ones(len(times))
    if wave.pulse is not None:
        rate, on, base = (float(each) for each in wave.pulse)
        level = np.where((times * rate) % 1 < on, 1.0, base)
    for at in dabs_s:
        level = np.where((times >= at) & (times < at + DAB_S), DAB_QUIETER * level, level)
    return np.where(times < 0, 0.0, level)


def recorded(
    wave: Wave, room: Room, seconds: float, quiet_s: float, dabs_s: Sequence[float], seed: int
) -> Sound:
    """What a microphone takes of so much arc, after so much without, s; the same for the same seed."""
    rng = np.random.default_rng(seed)
    rate = room.rate_hz
    times = np.arange(int((seconds + quiet_s) * rate)) / rate - quiet_s
    arc = arc_sound(wave, times) + HISS * rng.normal(0, 1, len(times))
    arc *= levels_of(wave, times, dabs_s)
    if room.rings_s > 0:
        length = int(room.rings_s * rate)
        ring = rng.normal(0, 1, length) * np.exp(-6.9 * np.arange(length) / length)
        ring *= room.echo / np.sqrt((ring**2).sum())
        ring[0] += 1.0
        arc = fftconvolve(arc, ring)[: len(times)]
    arc /= max(float(arc[times >= 0].std()), 1e-9)
    whole = arc + room.noise * rng.normal(0, 1, len(times))
    for number, share in enumerate((0.4, 1.0, 0.3, 0.6, 0.15, 0.3), 1):
        angle = 2 * np.pi * (number * room.mains_hz * times + rng.random())
        whole += room.hum * share * np.sin(angle)
    if room.fan:
        whole += room.fan * 3 * np.asarray(lfilter([0.02], [1, -0.98], rng.normal(0, 4, len(times))))
    # A phone hears little under a hundred hertz.
    keep = float(np.exp(-2 * np.pi * 90 / rate))
    whole = np.asarray(lfilter([keep, -keep], [1, -keep], whole))
    if room.turns_itself:
        size = int(0.4 * rate)
        loud = np.sqrt(np.asarray(lfilter([1 / size], [1, -(1 - 1 / size)], whole**2)) + 1e-4)
        whole = whole / loud
    if room.clips_at:
        whole = np.clip(whole, -room.clips_at, room.clips_at)
    return Sound(rate, (0.2 * whole / max(float(np.abs(whole).max()), 1e-9) * 4).astype(np.float32))
