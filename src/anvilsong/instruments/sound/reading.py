"""What is heard of an arc: its frequency, balance, pulse or dabs, and what changes; or why it cannot be
told.
"""

from __future__ import annotations

from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from anvilsong.core.flow import (
    BANDS_HZ,
    LOUDNESS_PLACES,
    MOST_EVENTS,
    Found,
    SoundReading,
)
from anvilsong.core.said import Words
from anvilsong.core.words import sentence
from anvilsong.instruments.sound.loudness import (
    STEP_S,
    Loudness,
    dabs_heard,
    events_of,
    loudness_of,
    pulse_heard,
    stretches,
)
from anvilsong.instruments.sound.pitch import Comb, comb_of, half_may_be_meant, heard_in
from anvilsong.instruments.sound.recording import Sound
from anvilsong.instruments.sound.spectrum import Spectrum, spectrum_of
from anvilsong.instruments.sound.turns import FRAME_S, turns_heard

Floats = NDArray[np.float64]

TOLD_MARGIN, SURE_MARGIN = 6.5, 9.0  # ln, over any other frequency
TOLD_SHARE, SURE_SHARE = 0.6, 0.75  # of the lines that stand, by weight
HEARD_PART, LEAST_HEARD_S = 0.35, 1.4
MAINS_STANDS = 0.6
CLIPPED, CLIPPED_PART, MOTOR_HZ = 0.985, 2e-3, 40.0  # of the highest sample; of all samples


def read_sound(sound: Sound) -> SoundReading:
    """What is heard in a recording."""
    spectrum = spectrum_of(sound)
    comb = comb_of(spectrum.steady, spectrum.bin_hz)
    loudness = loudness_of(sound) if comb is None else loudness_of(sound, comb.hz)
    base: dict[str, Any] = {
        "seconds": round(sound.seconds, 3),
        "mains_hz": _mains(spectrum),
        "loudness_db": _along(loudness.db),
    }
    heard = np.zeros(0, bool) if comb is None else heard_in(spectrum, comb.hz)
    reason = _no_arc(comb, heard, spectrum)
    if comb is not None and reason is None and comb.hz < MOTOR_HZ and _is_clipped(sound):
        reason = sentence("instruments.sound_motor", hz=comb.hz)
    if comb is None or reason is not None:
        return SoundReading(**base, said=(reason or sentence("instruments.sound_no_arc"),))
    is_open = half_may_be_meant(spectrum.steady, spectrum.bin_hz, comb.hz)
    burning = _burning(loudness, heard, spectrum)
    turns = turns_heard(sound, comb.hz, _steady_places(burning))
    is_open |= turns.only_one or comb.by_one
    said: list[Words] = []
    is_clipped = _is_clipped(sound)
    if is_clipped:
        said.append(sentence("instruments.sound_clipped"))
    if is_open:
        said.append(sentence("instruments.sound_octave", half=comb.hz / 2))
    db = loudness.db[burning]
    share = turns.ep_share
    said.append(
        sentence("instruments.sound_no_share") if share is None else sentence("instruments.sound_shorter")
    )
    pulse = pulse_heard(db) if len(db) else None
    dabs = dabs_heard(db) if pulse is None and len(db) else None
    return SoundReading(
        **base,
        frequency_hz=Found.within(comb.hz, 2.5 * comb.error_hz + 5e-4 * comb.hz),
        ep_share=share,
        pulse=pulse,
        dabs=dabs,
        events=tuple(events_of(Loudness(loudness.db, burning), MOST_EVENTS)),
        arc_s=round(float(burning.sum()) * STEP_S, 2),
        bands_db=_bands(spectrum, heard, comb.hz),
        sure=comb.margin > SURE_MARGIN and comb.share > SURE_SHARE and not is_open and not is_clipped,
        said=tuple(said),
    )


def _no_arc(comb: Comb | None, heard: NDArray[np.bool_], spectrum: Spectrum) -> Words | None:
    """Why no arc is told; None where one is heard."""
    if comb is None or comb.share < TOLD_SHARE:
        return sentence("instruments.sound_no_arc")
    if comb.margin < TOLD_MARGIN:
        return sentence("instruments.sound_open", hz=comb.hz)
    least_s = min(LEAST_HEARD_S, 0.5 * spectrum.step_s * len(heard))
    if heard.mean() < HEARD_PART or heard.sum() * spectrum.step_s < least_s:
        return sentence("instruments.sound_no_arc")
    return None


def _is_clipped(sound: Sound) -> bool:
    """Whether many samples stand at the highest there is: the microphone was too near."""
    size = np.abs(sound.samples)
    return bool((size > CLIPPED * size.max()).mean() > CLIPPED_PART)


def _burning(loudness: Loudness, heard: NDArray[np.bool_], spectrum: Spectrum) -> NDArray[np.bool_]:
    """Where the level and the comb both say that an arc burns."""
    places = ((np.arange(len(loudness.db)) * STEP_S - 0.5) / spectrum.step_s).round().astype(int)
    near = np.convolve(heard.astype(float), np.ones(3), "same") > 0
    return np.asarray(loudness.burns & near[np.clip(places, 0, len(near) - 1)])


def _steady_places(burning: NDArray[np.bool_]) -> list[float]:
    """Where half seconds of arc begin, a little after it lit."""
    found, wide = list[float](), int(FRAME_S / STEP_S)
    for begin, end in stretches(burning):
        found += [at * STEP_S for at in range(begin + wide // 2, end - wide, wide)]
    return found


def _mains(spectrum: Spectrum) -> Literal[50, 60] | None:
    """The mains whose hum is heard, by its first six multiples."""
    best: Literal[50, 60] | None = None
    most = MAINS_STANDS
    for mains in (50, 60):
        places = mains * np.array([2, 4, 6, 1, 3]) / spectrum.bin_hz
        low, near = places.astype(int), np.rint(places).astype(int)
        level = float(np.maximum(spectrum.steady[low], spectrum.steady[near]).mean())
        if level > most:
            best, most = (50 if mains == 50 else 60), level
    return best


def _along(db: Floats) -> tuple[float, ...]:
    """The level along the recording in at most so many steps, against its loudest."""
    count = min(len(db), LOUDNESS_PLACES)
    edges = np.linspace(0, len(db), count + 1).astype(int)[:-1]
    highest = np.maximum.reduceat(db, edges)
    return tuple(np.round(highest - highest.max(), 1).tolist())


def _bands(spectrum: Spectrum, heard: NDArray[np.bool_], hz: float) -> tuple[float, ...]:
    """The arc's level by octaves, against their mean, dB: how it sounds, whatever the distance."""
    powers = np.median(spectrum.powers[heard], axis=0)
    at = np.arange(len(powers)) * spectrum.bin_hz
    levels = []
    for middle in BANDS_HZ:
        inside = (at > middle / 2**0.5) & (at <= middle * 2**0.5)
        if inside.any():
            levels.append(10 * np.log10(float(powers[inside].mean())))
    return tuple(np.round(np.array(levels) - np.mean(levels), 1).tolist())
