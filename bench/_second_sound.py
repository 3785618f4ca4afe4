"""A second generator of the sound of an arc, written otherwise than the product's reader and its simulated
microphone: the current's corners, the power they make at four times the rate, its change brought down; echoes
off a few walls; voices, music, hum, fans and a compressor about; and files of four kinds.
"""

from __future__ import annotations

import io
import math
from dataclasses import dataclass, replace

import numpy as np
import soundfile
from numpy.typing import NDArray
from scipy.signal import butter, decimate, lfilter, sosfilt

from _second_probe import SHAPES, Truth, current_of

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Heard:
    """What sounds, and where."""

    frequency_hz: float
    ep_share: float
    ep_over_en: float
    shape: str
    pulse: tuple[float, float, float] | None
    rate_hz: int
    seconds: float
    snr_db: float
    mains_hz: float
    beside: tuple[str, ...]
    kind: str
    levels_itself: bool
    clips: bool


def some_sound(rng: np.random.Generator) -> Heard:
    """A recording as a shop might take it."""
    frequency = float(np.exp(rng.uniform(np.log(20), np.log(400))))
    pulse = None
    if rng.random() < 0.2:
        pulse = (
            float(np.exp(rng.uniform(np.log(0.6), np.log(8)))),
            float(rng.uniform(0.3, 0.6)),
            float(rng.uniform(0.25, 0.6)),
        )
    about = [name for name in ("hum", "fan", "compressor", "speech", "radio") if rng.random() < 0.3]
    return Heard(
        frequency_hz=frequency,
        ep_share=float(rng.uniform(0.10, 0.60)),
        ep_over_en=float(rng.uniform(0.7, 1.3)),
        shape=str(rng.choice(SHAPES)),
        pulse=pulse,
        rate_hz=int(rng.choice([16_000, 22_050, 44_100, 48_000])),
        seconds=float(rng.uniform(3, 9)),
        snr_db=float(rng.uniform(10, 30)),
        mains_hz=float(rng.choice([50, 60])) * float(1 + rng.normal(0, 2e-4)),
        beside=tuple(about),
        kind=str(rng.choice(["WAV", "FLAC", "OGG", "MP3"])),
        levels_itself=bool(rng.random() < 0.3),
        clips=bool(rng.random() < 0.2),
    )


def arc_of(heard: Heard, rng: np.random.Generator) -> Floats:
    """The change of the arc's power, with its hiss."""
    times_over = 4
    fine = times_over * heard.rate_hz
    truth = Truth(
        heard.frequency_hz, heard.ep_share, 100.0, 100.0 * heard.ep_over_en, heard.shape, heard.shape,
        heard.pulse, None, float(fine), heard.seconds, 99.0, 24, 0.0, 0.4 * fine, 0.0, 1.0, 0,
    )  # fmt: skip
    _, current = current_of(replace(truth, bandwidth_hz=4000.0), rng)
    current = current[int(0.06 * fine) :]
    volts = 12.0 + 0.02 * np.abs(current) + np.where(current > 0, rng.uniform(2, 7), 0.0)
    wander = np.cumsum(rng.normal(0, 1, len(current) // 2000 + 2))
    wander = 1 + 0.04 * (wander - wander.mean()) / max(float(wander.std()), 1e-9)
    along = np.interp(np.arange(len(current)), np.arange(len(wander)) * 2000, wander)
    power = np.abs(current) * volts * along
    change = np.asarray(decimate(np.diff(power, prepend=power[0]), times_over, ftype="fir"))
    smooth = np.asarray(decimate(power, times_over, ftype="fir"))
    hiss = rng.normal(0, 1, len(change)) * smooth / smooth.mean()
    return change / change.std() + rng.uniform(0.1, 0.4) * hiss


def _walls(sound: Floats, rate: int, rng: np.random.Generator) -> Floats:
    """A few echoes, and many faint ones after them."""
    out = sound.copy()
    for _ in range(int(rng.integers(3, 9))):
        late, gain = int(rng.uniform(0.001, 0.04) * rate), float(rng.uniform(-0.5, 0.5))
        out[late:] += gain * sound[: len(sound) - late]
    return out


def speech(count: int, rate: int, rng: np.random.Generator) -> Floats:
    """Somebody talks: a voice that glides, through formants that move, with stops between."""
    out, at = np.zeros(count), 0
    voice = float(rng.uniform(90, 220))
    while at < count:
        length = int(rng.uniform(0.08, 0.35) * rate)
        glide = voice * np.linspace(1, float(rng.uniform(0.8, 1.25)), length)
        phase = np.cumsum(glide * (1 + 0.01 * np.cumsum(rng.normal(0, 0.1, length))) / rate)
        source = (np.diff(np.floor(phase), prepend=0.0)) + 0.05 * rng.normal(0, 1, length)
        for centre in (rng.uniform(300, 800), rng.uniform(900, 2300), rng.uniform(2400, 3200)):
            turn, keep = 2 * math.pi * centre / rate, math.exp(-math.pi * 90 / rate)
            source = (
                source
                + np.asarray(lfilter([1.0], [1, -2 * keep * math.cos(turn), keep * keep], source)) * 0.3
            )
        piece = source * np.hanning(length)
        end = min(at + length, count)
        out[at:end] += piece[: end - at]
        at += length + int(rng.exponential(0.06) * rate)
    return out / max(float(out.std()), 1e-9)


def music(count: int, rate: int, rng: np.random.Generator) -> Floats:
    """A radio: chords that change, a bass and a beat."""
    out, at = np.zeros(count), 0
    beat = float(rng.uniform(0.3, 0.7))
    while at < count:
        length = int(beat * rate * rng.choice([1, 2]))
        time = np.arange(length) / rate
        root = 110 * 2 ** (int(rng.integers(0, 12)) / 12)
        piece = np.zeros(length)
        for step in (0, 4, 7, 12):
            hz = root * 2 ** (step / 12) * (1 + 0.003 * np.sin(2 * math.pi * 5 * time))
            angle = 2 * math.pi * np.cumsum(hz) / rate
            piece += sum(np.sin(n * angle) / n for n in range(1, 9))
        piece *= np.exp(-2 * time / beat)
        piece[: int(0.02 * rate)] += rng.normal(0, 2, int(0.02 * rate))
        end = min(at + length, count)
        out[at:end] += piece[: end - at]
        at += length
    return out / max(float(out.std()), 1e-9)


def noise_beside(heard: Heard, count: int, rng: np.random.Generator) -> Floats:
    """All that is heard beside the arc."""
    rate, time = heard.rate_hz, np.arange(count) / heard.rate_hz
    out = rng.normal(0, 1, count)
    if "hum" in heard.beside:
        for n in (1, 2, 3, 4, 6, 8):
            out += (
                rng.uniform(0.3, 1.5)
                / math.sqrt(n)
                * np.sin(2 * math.pi * (n * heard.mains_hz * time + rng.random()))
            )
    if "fan" in heard.beside:
        out += 1.5 * np.sin(2 * math.pi * rng.uniform(110, 340) * time + 2 * np.sin(2 * math.pi * 0.3 * time))
        low = butter(2, 500, fs=rate, output="sos")
        out += 4 * np.asarray(sosfilt(low, rng.normal(0, 1, count)))
    if "compressor" in heard.beside:
        turns = 2 * math.pi * np.cumsum(rng.uniform(22, 28) * (1 + 0.01 * rng.normal(0, 1, count))) / rate
        out += sum(np.cos(n * turns) for n in range(1, 12)) * 0.5
    if "speech" in heard.beside:
        out += 1.5 * speech(count, rate, rng)
    if "radio" in heard.beside:
        out += 1.2 * music(count, rate, rng)
    return out / out.std()


def recorded(heard: Heard, rng: np.random.Generator) -> bytes:
    """The file: a moment without arc, then the arc in its room, as the microphone took it."""
    rate = heard.rate_hz
    quiet = int(0.5 * rate)
    arc = _walls(arc_of(heard, rng), rate, rng)
    arc /= arc.std()
    whole = np.concatenate([np.zeros(quiet), arc])
    whole += 10 ** (-heard.snr_db / 20) * noise_beside(heard, len(whole), rng)
    return as_file(heard, whole, rng)


def as_file(heard: Heard, whole: Floats, rng: np.random.Generator) -> bytes:
    """Through a microphone that hears little of the lowest, perhaps turns itself up, perhaps clips; coded."""
    rate = heard.rate_hz
    whole = np.asarray(sosfilt(butter(1, 100, "highpass", fs=rate, output="sos"), whole))
    if heard.levels_itself:
        loud = np.sqrt(np.convolve(whole**2, np.ones(rate // 4) / (rate // 4), "same") + 1e-4)
        whole = whole / loud
    whole = whole / np.abs(whole).max()
    if heard.clips:
        whole = np.clip(3 * whole, -1, 1)
    file = io.BytesIO()
    stereo = np.column_stack([0.7 * whole, 0.3 * whole]) if rng.random() < 0.3 else 0.7 * whole
    soundfile.write(file, stereo, rate, format=heard.kind)
    return file.getvalue()


def no_arc(number: int, rng: np.random.Generator) -> bytes:
    """Speech, music, both, a fan, hum or nothing but noise."""
    heard = some_sound(rng)
    count = int(heard.seconds * heard.rate_hz)
    match number % 6:
        case 0:
            whole = speech(count, heard.rate_hz, rng) + 0.03 * rng.normal(0, 1, count)
        case 1:
            whole = music(count, heard.rate_hz, rng) + 0.03 * rng.normal(0, 1, count)
        case 2:
            whole = speech(count, heard.rate_hz, rng) + music(count, heard.rate_hz, rng)
        case 3:
            whole = noise_beside(replace(heard, beside=("fan", "hum")), count, rng)
        case 4:
            whole = noise_beside(replace(heard, beside=("compressor", "hum")), count, rng)
        case _:
            whole = noise_beside(replace(heard, beside=("hum",)), count, rng)
    return as_file(heard, whole, rng)
