"""What the sound of an arc told: figures with their ranges, what happened along the run, and what could not
be told, with the reason.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from anvilsong.core.arc.waveform import Shape
from anvilsong.core.flow.reading import AboveNothing, Mix, Share
from anvilsong.core.said import Words
from anvilsong.core.value import Finite, Value

MOST_EVENTS, BANDS_HZ = 60, (125.0, 250.0, 500.0, 1000.0, 2000.0, 4000.0, 8000.0)
LOUDNESS_PLACES = 600


class HeardPulse(Value):
    """A pulse as it is heard: its rate and the share of the time at peak. A sound does not tell the amps."""

    rate_hz: AboveNothing
    peak_share: Share | None = None
    base_share: None = None


class Dabs(Value):
    """Dabs of the filler rod: how many a second, and how even: one spread of the times between them over
    their mean.
    """

    per_s: AboveNothing
    spread: float = Field(ge=0, le=10)
    count: int = Field(ge=0, le=100_000)


class Event(Value):
    """What changed at a time of the recording: the arc lit or went out, or got longer or shorter for good."""

    at_s: Finite
    kind: Literal["lit", "out", "louder", "quieter"]


class SoundReading(Value):
    """What is heard. ``bands_db``: the arc's level in bands round `BANDS_HZ` against their mean, for
    comparing one day with another; ``loudness_db``: the level along the recording, against its loudest.
    """

    frequency_hz: AboveNothing | None = None
    ep_share: Share | None = None
    en_a: None = None
    ep_a: None = None
    pulse: HeardPulse | None = None
    mix: Mix | None = None
    shape_en: Shape | None = None
    shape_ep: Shape | None = None
    dabs: Dabs | None = None
    events: tuple[Event, ...] = Field((), max_length=MOST_EVENTS)
    arc_s: Finite = 0.0
    """How long an arc is heard."""
    seconds: Finite = 0.0
    mains_hz: Literal[50, 60] | None = None
    bands_db: Annotated[tuple[Finite, ...], Field(max_length=len(BANDS_HZ))] = ()
    loudness_db: Annotated[tuple[Finite, ...], Field(max_length=LOUDNESS_PLACES)] = ()
    sure: bool = False
    said: tuple[Words, ...] = Field((), max_length=12)
