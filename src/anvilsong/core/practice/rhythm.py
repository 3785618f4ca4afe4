"""Dabs in time: the beats of a bead worked out from travel and the ripple wanted, and taps against them.

A bead is a row of dabs one ripple apart, then a crater that is filled: the torch stands, and the last dabs go
to one place. With a stop in it the bead is broken off, and begun again over its last two ripples.
"""

from __future__ import annotations

from typing import Annotated, Literal

import numpy as np
from pydantic import Field, model_validator

from anvilsong.core.errors import Unfit
from anvilsong.core.model import Situation
from anvilsong.core.plan import dab_pulse
from anvilsong.core.settings import Settings
from anvilsong.core.value import Value
from anvilsong.core.words import sentence

Bead = Literal["straight", "stopped"]
DABS, CRATER, STOP_BEATS, LAPS_BACK = 24, 3, 4, 2
MOST_TAPS, LONGEST_S = 400, 120.0
IN_TIME, OUT_OF_TIME = 0.10, 0.40  # of a beat: a tap this near counts whole, one this far not at all

Second = Annotated[float, Field(ge=-5, le=LONGEST_S)]


class Beat(Value):
    """One dab: when, and where along the bead."""

    at_s: float
    way_mm: float


class RhythmResult(Value):
    """What tapping came to. ``tempo``: of the wanted rate; ``spread_s``: how far taps scatter about their own
    steady beat; ``late_s``: in the mean behind the beat.
    """

    bead: Bead
    rate_hz: float = Field(ge=0.05, le=20)
    pitch_mm: float = Field(ge=0, le=100)
    taps_s: Annotated[tuple[Second, ...], Field(max_length=MOST_TAPS)]
    beats: int = Field(ge=1, le=1000)
    missed: int = Field(ge=0, le=1000)
    extra: int = Field(ge=0, le=1000)
    tempo: float | None = Field(None, ge=0, le=1000)
    spread_s: float | None = Field(None, ge=0, le=LONGEST_S)
    late_s: float | None = Field(None, ge=-LONGEST_S, le=LONGEST_S)

    @model_validator(mode="after")
    def _in_order(self) -> RhythmResult:
        if any(after < before for before, after in zip(self.taps_s, self.taps_s[1:], strict=False)):
            raise Unfit(sentence("practice.taps_order"))
        return self


def rhythm_of(at: Situation, settings: Settings) -> tuple[float, float]:
    """Dabs a second and the ripple they make, mm: with the machine's pulse where it can be followed."""
    dabs = dab_pulse(at, settings.travel_mm_s)
    own = settings.pulse
    rate = own.rate_hz if own is not None and own.rate_hz <= 2 * dabs.rate_hz else dabs.rate_hz
    return rate, settings.travel_mm_s / rate


def beats_of(bead: Bead, rate_hz: float, pitch_mm: float) -> tuple[Beat, ...]:
    """When each dab is due, from the first at 0 s, and where it lands."""
    found, at, place = list[Beat](), 0, 0
    for dab in range(DABS + CRATER):
        if bead == "stopped" and dab == DABS // 2:
            at, place = at + STOP_BEATS, place - LAPS_BACK
        found.append(Beat(at_s=at / rate_hz, way_mm=place * pitch_mm))
        at += 1
        place += dab < DABS - 1
    return tuple(found)


def judge_taps(
    bead: Bead, rate_hz: float, pitch_mm: float, taps_s: tuple[float, ...]
) -> tuple[int, RhythmResult]:
    """The score, per cent, and what it is made of.

    Each beat takes the tap nearest to it within half a beat; a beat without one is missed, a tap without a
    beat is extra. A tap within a tenth of a beat counts whole, falling to nothing at four tenths.
    """
    beats = np.array([beat.at_s for beat in beats_of(bead, rate_hz, pitch_mm)])
    beat_s = 1 / rate_hz
    taken: dict[int, float] = {}
    extra = 0
    for tap in taps_s:
        nearest = int(np.argmin(np.abs(beats - tap)))
        off = tap - float(beats[nearest])
        if abs(off) > beat_s / 2:
            extra += 1
        elif nearest in taken:
            extra += 1
            taken[nearest] = min(taken[nearest], off, key=abs)
        else:
            taken[nearest] = off
    worth = sum(
        float(np.interp(abs(off), (IN_TIME * beat_s, OUT_OF_TIME * beat_s), (1.0, 0.0)))
        for off in taken.values()
    )
    score = round(100 * max(0.0, worth - 0.5 * extra) / beats.size)
    tempo, spread, late = _steadiness(beats, taken)
    result = RhythmResult(
        bead=bead,
        rate_hz=rate_hz,
        pitch_mm=pitch_mm,
        taps_s=taps_s,
        beats=int(beats.size),
        missed=int(beats.size) - len(taken),
        extra=extra,
        tempo=tempo,
        spread_s=spread,
        late_s=late,
    )
    return score, result


def _steadiness(
    beats: np.ndarray, taken: dict[int, float]
) -> tuple[float | None, float | None, float | None]:
    """Tempo against the wanted one, scatter about a steady beat, and the mean lateness; None of too few."""
    if len(taken) < 4:
        return None, None, None
    due = beats[sorted(taken)]
    tapped = due + np.array([taken[place] for place in sorted(taken)])
    slope, offset = np.polyfit(due, tapped, 1)
    spread = float(np.std(tapped - (slope * due + offset)))
    return round(float(1 / max(slope, 1e-3)), 4), round(spread, 4), round(float(np.mean(tapped - due)), 4)


def laid(result: RhythmResult) -> tuple[float, ...]:
    """Where along the bead each tap would lay its dab, mm: the torch travels as the beats say."""
    beats = beats_of(result.bead, result.rate_hz, result.pitch_mm)
    at, way = [beat.at_s for beat in beats], [beat.way_mm for beat in beats]
    return tuple(float(np.interp(tap, at, way)) for tap in result.taps_s)
