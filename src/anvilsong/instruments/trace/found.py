"""What was read out of a trace: figures with their ranges, and what could not be told, with the reason."""

from __future__ import annotations

from pydantic import Field

from anvilsong.core.arc.waveform import Shape
from anvilsong.core.said import Words
from anvilsong.core.value import Value


class Found(Value):
    """A figure with the range that it lies in, nineteen times out of twenty."""

    value: float
    low: float
    high: float

    @classmethod
    def within(cls, value: float, spread: float) -> Found:
        """A figure give or take so much."""
        return cls(value=value, low=value - spread, high=value + spread)


class Pulse(Value):
    """Pulse: rate in Hz, share of time at peak, base as share of peak amps."""

    rate_hz: Found
    peak_share: Found
    base_share: Found


class Mix(Value):
    """Mixed AC and DC: share of each cycle that is AC, cycle in s, DC level as share of EN amps."""

    ac_share: Found
    cycle_s: Found
    dc_level: Found


class TraceReading(Value):
    """What flows. Amps are the peaks of the halves, at the peak of a pulse; where the recording is in no
    amps, ``en_a`` and ``ep_a`` are in the file's own numbers and ``is_scaled`` is false. ``mean_a`` and
    ``rms_a`` are of the whole arc. ``said``: what could not be told, and why.
    """

    frequency_hz: Found | None = None
    ep_share: Found | None = None
    en_a: Found | None = None
    ep_a: Found | None = None
    pulse: Pulse | None = None
    mix: Mix | None = None
    shape_en: Shape | None = None
    shape_ep: Shape | None = None
    fit: float | None = None
    """What the fitted wave leaves, as a share of the current's rms; 0 is a perfect fit."""
    mean_a: float | None = None
    rms_a: float | None = None
    zero_a: float = 0.0
    """What was taken for no current, in amps of the recording."""
    starts_s: float | None = None
    ends_s: float | None = None
    dropped: int = 0
    is_scaled: bool = True
    sure: bool = False
    said: tuple[Words, ...] = Field((), max_length=12)
