"""Settings: one canonical description of everything that is set, used by planner, board, panels, coupons
alike.
"""

from __future__ import annotations

from typing import Literal

from pydantic import Field, field_validator, model_validator

from anvilsong.core.arc.waveform import Shape, Wave
from anvilsong.core.errors import BadInput, Unfit
from anvilsong.core.metal.fillers import find_filler
from anvilsong.core.torch.tungsten import TungstenKey
from anvilsong.core.value import Amps, CupNumber, RodMm, TravelMmS, TungstenMm, Value, Word
from anvilsong.core.words import sentence


class AliasedValue(Value, populate_by_name=True, serialize_by_alias=True):
    """A value with a field whose JSON name is a word of Python."""


class Pulse(Value):
    """Pulse: rate Hz, share of time at peak, base as share of peak amps."""

    rate_hz: float = Field(ge=0.1, le=500)
    peak_share: float = Field(ge=0.02, le=0.98)
    base_share: float = Field(ge=0, lt=1)


class Mix(Value):
    """Mixed AC and DC: share of each cycle that is AC, cycle s, DC level as share of amps."""

    ac_share: float = Field(ge=0.02, le=0.98)
    cycle_s: float = Field(ge=0.02, le=5)
    dc_level: float = Field(gt=0, le=1)


class Tungsten(AliasedValue):
    class_: TungstenKey = Field("WLa 20", alias="class")
    diameter_mm: TungstenMm
    tip: Literal["point", "ball"] = "point"
    angle_deg: float | None = Field(45, ge=5, le=180)
    flat_mm: float | None = Field(0.4, ge=0, le=8)


class Cup(Value):
    number: CupNumber
    gas_lens: bool = True
    stick_out_mm: float = Field(ge=0.5, le=60)


class Gas(Value):
    kind: Word = "argon"
    flow_l_min: float = Field(ge=0.5, le=100)


class Filler(AliasedValue):
    class_: Word = Field(alias="class")
    diameter_mm: RodMm

    @field_validator("class_")
    @classmethod
    def _known(cls, name: str) -> str:
        try:
            return find_filler(name).name
        except BadInput as problem:
            raise Unfit(problem.problems[0].allowed) from None


class Settings(Value):
    """Everything that is set. Amps are the peak of the EN half; EP peak = amps × (1 + ep_trim); shares
    0..1.
    """

    amps_run: Amps
    amps_set: Amps
    ep_trim: float = Field(0.0, ge=-0.9, le=1.0)
    ep_share: float = Field(0.3, ge=0.01, le=0.99)
    frequency_hz: float = Field(100, ge=10, le=1000)
    shape_en: Shape = "square"
    shape_ep: Shape = "square"
    pulse: Pulse | None = None
    mix: Mix | None = None
    start_amps: float = Field(10, ge=0, le=1000)
    finish_amps: float = Field(10, ge=0, le=1000)
    up_slope_s: float = Field(0, ge=0, le=30)
    down_slope_s: float = Field(0, ge=0, le=60)
    pre_flow_s: float = Field(0.5, ge=0, le=60)
    post_flow_s: float = Field(8, ge=0, le=300)
    tungsten: Tungsten | None
    cup: Cup
    gas: Gas
    filler: Filler | None
    preheat_c: float | None = Field(None, ge=-40, le=400)
    travel_mm_s: TravelMmS

    @model_validator(mode="after")
    def _not_both(self) -> Settings:
        if self.pulse is not None and self.mix is not None:
            raise Unfit(sentence("job.mix_pulse_mixed_ac"))
        return self

    def wave(self, amps: float | None = None) -> Wave:
        """The wave at ``amps`` (canonical), or at amps_run."""
        pulse = (self.pulse.rate_hz, self.pulse.peak_share, self.pulse.base_share) if self.pulse else None
        mix = (self.mix.ac_share, self.mix.cycle_s, self.mix.dc_level) if self.mix else None
        return Wave(
            self.amps_run if amps is None else amps,
            self.ep_share,
            self.frequency_hz,
            self.ep_trim,
            self.shape_en,
            self.shape_ep,
            pulse,
            mix,
        )
