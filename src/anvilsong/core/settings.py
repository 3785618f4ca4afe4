"""Settings: one canonical description of everything that is set, used by planner, board, panels, coupons alike."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from anvilsong.core.arc.waveform import Shape, Wave


class _Value(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class Pulse(_Value):
    """Pulse: rate Hz, share of time at peak, base as share of peak amps."""

    rate_hz: float = Field(gt=0, le=500)
    peak_share: float = Field(gt=0, lt=1)
    base_share: float = Field(ge=0, lt=1)


class Mix(_Value):
    """Mixed AC and DC: share of each cycle that is AC, cycle s, DC level as share of amps."""

    ac_share: float = Field(gt=0, lt=1)
    cycle_s: float = Field(gt=0, le=5)
    dc_level: float = Field(gt=0, le=1)


class Tungsten(_Value):
    class_: str = Field("WLa 20", alias="class")
    diameter_mm: float = Field(gt=0, le=8)
    tip: Literal["point", "ball"] = "point"
    angle_deg: float | None = 45
    flat_mm: float | None = 0.4

    model_config = ConfigDict(frozen=True, extra="forbid", populate_by_name=True, serialize_by_alias=True)


class Cup(_Value):
    number: int = Field(ge=3, le=24)
    gas_lens: bool = True
    stick_out_mm: float = Field(gt=0, le=40)


class Gas(_Value):
    kind: str = "argon"
    flow_l_min: float = Field(gt=0, le=60)


class Filler(_Value):
    class_: str = Field(alias="class")
    diameter_mm: float = Field(gt=0, le=8)

    model_config = ConfigDict(frozen=True, extra="forbid", populate_by_name=True, serialize_by_alias=True)


class Settings(_Value):
    """Everything that is set. Amps are the peak of the EN half; EP peak = amps × (1 + ep_trim); shares 0..1."""

    amps_run: float = Field(gt=0, le=2000)
    amps_set: float = Field(gt=0, le=2000)
    ep_trim: float = Field(0.0, ge=-0.9, le=1.0)
    ep_share: float = Field(0.3, gt=0, lt=1)
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
    post_flow_s: float = Field(8, ge=0, le=120)
    tungsten: Tungsten | None
    cup: Cup
    gas: Gas
    filler: Filler | None
    preheat_c: float | None = Field(None, ge=0, le=400)
    travel_mm_s: float = Field(gt=0, le=50)

    @model_validator(mode="after")
    def _not_both(self) -> Settings:
        if self.pulse is not None and self.mix is not None:
            raise ValueError("mix|a pulse and mixed AC/DC do not go together: switch one off")
        return self

    def wave(self, amps: float | None = None) -> Wave:
        """The wave at ``amps`` (canonical), or at amps_run."""
        pulse = (self.pulse.rate_hz, self.pulse.peak_share, self.pulse.base_share) if self.pulse else None
        mix = (self.mix.ac_share, self.mix.cycle_s, self.mix.dc_level) if self.mix else None
        return Wave(self.amps_run if amps is None else amps, self.ep_share, self.frequency_hz, self.ep_trim, self.shape_en, self.shape_ep, pulse, mix)
