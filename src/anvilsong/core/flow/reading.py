"""What flows in an arc, as a trace of its current showed it: figures with their ranges, and what could not be
told, with the reason.
"""

from __future__ import annotations

from typing import Annotated

from pydantic import AfterValidator, Field, model_validator

from anvilsong.core import settings
from anvilsong.core.arc.waveform import Shape
from anvilsong.core.errors import Unfit
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.value import Finite, Value
from anvilsong.core.words import sentence


class Found(Value):
    """A figure with the range that it lies in, nineteen times out of twenty."""

    value: Finite
    low: Finite
    high: Finite

    @model_validator(mode="after")
    def _within_its_range(self) -> Found:
        if not self.low <= self.value <= self.high:
            raise Unfit(sentence("machine.found_in_range"))
        return self

    @property
    def half_range(self) -> float:
        """How far the figure may lie from the true one."""
        return (self.high - self.low) / 2

    @classmethod
    def within(cls, value: float, spread: float) -> Found:
        """A figure give or take so much."""
        return cls(value=value, low=value - spread, high=value + spread)


def _above_nothing(found: Found) -> Found:
    if found.value <= 0:
        raise Unfit(sentence("machine.found_above_nothing"))
    return found


def _share(found: Found) -> Found:
    if not 0 <= found.value <= 1:
        raise Unfit(sentence("machine.found_a_share"))
    return found


AboveNothing = Annotated[Found, AfterValidator(_above_nothing)]
Share = Annotated[Found, AfterValidator(_share)]
SomeAmps = Annotated[float, Field(gt=0)]


class Pulse(Value):
    """Pulse: rate in Hz, share of time at peak, base as share of peak amps."""

    rate_hz: AboveNothing
    peak_share: Share
    base_share: Found


class Mix(Value):
    """Mixed AC and DC: share of each cycle that is AC, cycle in s, DC level as share of EN amps."""

    ac_share: Share
    cycle_s: AboveNothing
    dc_level: Found


class Slope(Value):
    """A rise or a fall of the current: the amps of the EN half's peak that it begins or ends with, and how
    long it takes.
    """

    amps: float = Field(ge=0)
    seconds: float = Field(ge=0)


class TraceReading(Value):
    """What flows. Amps are the peaks of the halves, at the peak of a pulse; where the recording is in no
    amps, ``en_a`` and ``ep_a`` are in the file's own numbers and ``is_scaled`` is false. ``mean_a`` and
    ``rms_a`` are of the whole arc, ``cycle_mean_a`` and ``cycle_rms_a`` of one AC cycle at the peak of a
    pulse. ``said``: what could not be told, and why.
    """

    frequency_hz: AboveNothing | None = None
    ep_share: Share | None = None
    en_a: AboveNothing | None = None
    ep_a: AboveNothing | None = None
    pulse: Pulse | None = None
    mix: Mix | None = None
    shape_en: Shape | None = None
    shape_ep: Shape | None = None
    fit: Finite | None = None
    """What the fitted wave leaves, as a share of the current's rms; 0 is a perfect fit."""
    mean_a: Finite | None = None
    rms_a: Finite | None = None
    cycle_mean_a: SomeAmps | None = None
    cycle_rms_a: SomeAmps | None = None
    zero_a: Finite = 0.0
    """What was taken for no current, in amps of the recording."""
    dc_a: Finite | None = None
    """The mean of the current itself over a cycle: below nothing where EN weighs more."""
    rise: Slope | None = None
    fall: Slope | None = None
    went_out: int = Field(0, ge=0)
    missing_ep: float = Field(0.0, ge=0, le=1)
    missing_en: float = Field(0.0, ge=0, le=1)
    """The share of the cycles in which a half hardly flows."""
    volts: Finite | None = None
    power_w: Finite | None = None
    arc_mm: Found | None = None
    """Where a voltage was recorded: its mean, the power, and the arc length with how it wanders."""
    starts_s: Finite | None = None
    ends_s: Finite | None = None
    dropped: int = 0
    is_scaled: bool = True
    sure: bool = False
    said: tuple[Words, ...] = Field((), max_length=12)

    def flowing(self, base: Settings) -> Settings | None:
        """The settings with what flows in place of what was set, as far as it was told; None where the wave
        was not. A figure that no machine has stays within what settings may be.
        """
        if self.frequency_hz is None or self.ep_share is None or self.en_a is None or self.ep_a is None:
            return None
        amps = self.en_a.value
        told: dict[str, object] = {
            "amps_set": amps,
            "ep_trim": min(max(self.ep_a.value / amps - 1, -0.9), 1.0),
            "ep_share": min(max(self.ep_share.value, 0.01), 0.99),
            "frequency_hz": min(max(self.frequency_hz.value, 10.0), 1000.0),
            "shape_en": self.shape_en or base.shape_en,
            "shape_ep": self.shape_ep or base.shape_ep,
        }
        for slope, end, long in (
            (self.rise, "start_amps", "up_slope_s"),
            (self.fall, "finish_amps", "down_slope_s"),
        ):
            if slope is not None:
                told |= {end: slope.amps, long: slope.seconds}
        if self.pulse is not None:
            told["pulse"] = settings.Pulse(
                rate_hz=min(max(self.pulse.rate_hz.value, 0.1), 500.0),
                peak_share=min(max(self.pulse.peak_share.value, 0.02), 0.98),
                base_share=min(max(self.pulse.base_share.value, 0.0), 0.999),
            )
        if self.mix is not None:
            told["mix"] = settings.Mix(
                ac_share=min(max(self.mix.ac_share.value, 0.02), 0.98),
                cycle_s=min(max(self.mix.cycle_s.value, 0.02), 5.0),
                dc_level=min(max(self.mix.dc_level.value, 0.01), 1.0),
            )
        return base.model_copy(update=told)

    def amps_counted(self, basis: str) -> Found | None:
        """What a panel that counts its amps in this way should show: the peak of EN, the middle of both
        peaks, the mean of |i| or the rms of one AC cycle; with the range of the halves' amps.
        """
        if self.en_a is None or self.ep_a is None:
            return None
        spread = max(self.en_a.half_range / abs(self.en_a.value), self.ep_a.half_range / abs(self.ep_a.value))
        values = {
            "both_halves": (self.en_a.value + self.ep_a.value) / 2,
            "mean": self.cycle_mean_a,
            "rms": self.cycle_rms_a,
        }
        value = values.get(basis, self.en_a.value)
        return None if value is None else Found.within(value, spread * value)


MOST_COLUMNS_DRAWN, MOST_PLACES, MOST_TURNS = 3000, 240, 400
Columns = Annotated[tuple[Finite, ...], Field(min_length=1, max_length=MOST_COLUMNS_DRAWN)]


class TracePicture(Value):
    """What a page draws of a trace, in amps past the zero that was found: least and most of each of so many
    equal stretches; the mean cycle as (place from 0 to 1, amps); and where some cycles begin.
    """

    seconds: float = Field(gt=0, le=1e6)
    lows: Columns
    highs: Columns
    cycle: tuple[tuple[Finite, Finite], ...] = Field((), max_length=MOST_PLACES)
    begins_s: tuple[Finite, ...] = Field((), max_length=MOST_TURNS)

    @model_validator(mode="after")
    def _both_ends(self) -> TracePicture:
        if len(self.lows) != len(self.highs):
            raise Unfit(sentence("machine.trace_columns"))
        return self
