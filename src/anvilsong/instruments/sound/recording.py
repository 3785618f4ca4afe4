"""A recording of the arc's sound: one channel at a steady rate, out of any common sound file."""

from __future__ import annotations

import io
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from anvilsong.core.errors import CannotRead
from anvilsong.core.said import Words
from anvilsong.core.words import sentence
from anvilsong.instruments.limits import MOST_SOUND_S, MOST_SOUND_SAMPLES, SOUND_BYTES

Samples = NDArray[np.float32]
LEAST_RATE_HZ, MOST_RATE_HZ, LEAST_S, MOST_CHANNELS = 7_000, 200_000, 1.0, 8
BLOCK, MOST_LEVEL = 1 << 18, 100.0
KINDS = ("WAV", "WAVEX", "RF64", "FLAC", "OGG", "MP3", "AIFF", "CAF", "W64")


@dataclass(frozen=True)
class Sound:
    """Samples from -1 to 1."""

    rate_hz: float
    samples: Samples

    @property
    def seconds(self) -> float:
        """How long it is."""
        return len(self.samples) / self.rate_hz


def _cannot(why: Words) -> CannotRead:
    return CannotRead("The recording", why)


def open_sound(data: bytes) -> Sound:
    """The sound in a WAV, FLAC, OGG, MP3, AIFF or CAF file: its loudest channel.

    What a file claims of its length is not believed: it is read block by block, for five minutes at most.

    Raises
    ------
    CannotRead : it is no sound file, too short, too long or of a rate that no arc is heard at
    """
    import soundfile

    if len(data) > SOUND_BYTES:
        raise _cannot(sentence("instruments.sound_too_large", megabytes=SOUND_BYTES / 1e6))
    try:
        with soundfile.SoundFile(io.BytesIO(data)) as file:
            if file.format not in KINDS or not 1 <= file.channels <= MOST_CHANNELS:
                raise _cannot(sentence("instruments.sound_no_file"))
            if not LEAST_RATE_HZ <= file.samplerate <= MOST_RATE_HZ:
                raise _cannot(sentence("instruments.sound_rate", least=LEAST_RATE_HZ / 1000))
            rate, blocks = int(file.samplerate), list[Samples]()
            left, loudest = min(MOST_SOUND_SAMPLES, int(MOST_SOUND_S * rate)), 0
            while left > 0 and len(block := file.read(min(BLOCK, left), "float32", always_2d=True)):
                if not blocks:  # of several channels the one that hears most, by the first seconds
                    loudest = int(np.nanargmax(np.abs(np.nan_to_num(block)).sum(axis=0)))
                blocks.append(np.ascontiguousarray(block[:, loudest]))
                left -= len(block)
    except (soundfile.SoundFileError, RuntimeError, ValueError, OverflowError, MemoryError):
        raise _cannot(sentence("instruments.sound_no_file")) from None
    samples = np.concatenate(blocks) if blocks else np.empty(0, np.float32)
    if len(samples) < LEAST_S * rate:
        raise _cannot(sentence("instruments.sound_too_short", least=LEAST_S))
    samples = np.nan_to_num(samples, copy=False, posinf=1.0, neginf=-1.0)
    return Sound(float(rate), np.clip(samples, -MOST_LEVEL, MOST_LEVEL, out=samples))
