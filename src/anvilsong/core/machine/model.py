"""A machine: its limits, and a panel that says how each canonical quantity is shown and set."""

from __future__ import annotations

from itertools import pairwise
from typing import Annotated, Literal

from pydantic import Field, model_validator

from anvilsong.core import say
from anvilsong.core.arc.waveform import SHAPES, Shape
from anvilsong.core.errors import Unfit
from anvilsong.core.registry import BY_KEY, PANEL
from anvilsong.core.said import Words
from anvilsong.core.torch.kit import Torch
from anvilsong.core.value import Finite, Label, Name, Note, TungstenMm, Value, Word
from anvilsong.core.words import sentence

Basis = Literal[
    "peak", "mean", "rms", "both_halves", "ep_amps", "share_of_set", "amps", "peak_s", "base_s", "per_second",
    "value",
]  # fmt: skip
BASIS_WORDS: dict[str, Words] = {
    "value": "the value itself",
    "peak": sentence("machine.peak_en_half"),
    "mean": sentence("machine.mean_ac_cycle"),
    "rms": sentence("machine.rms_ac_cycle"),
    "both_halves": sentence("machine.middle_both_halves_peaks"),
    "ep_amps": sentence("machine.amps_ep_half"),
    "share_of_set": "share of full amps",
    "amps": "amps",
    "peak_s": sentence("machine.seconds_at_peak"),
    "base_s": sentence("machine.seconds_at_base"),
    "per_second": sentence("machine.cycles_a_second"),
}
BASES: dict[str, tuple[str, ...]] = {
    "amps_set": ("peak", "mean", "rms", "both_halves"),
    "ep_trim": ("value", "ep_amps"),
    "start_amps": ("value", "share_of_set"),
    "finish_amps": ("value", "share_of_set"),
    "pulse_base_share": ("value", "amps"),
    "pulse_peak_share": ("value", "peak_s"),
    "pulse_rate_hz": ("value", "base_s"),
    "mix_cycle_s": ("value", "per_second"),
}
Trigger = Literal["pedal", "switch_2", "switch_4", "switch_4_two_levels", "spot"]
TRIGGER_WORDS: dict[str, str] = {
    "pedal": "a pedal",
    "switch_2": "2-step",
    "switch_4": "4-step",
    "switch_4_two_levels": "4-step with a second level",
    "spot": "spots",
}
NEAR_LOW = 1.2
MOST_POINTS, MOST_CONTROLS, MOST_STEPS = 60, 40, 10_000_000
ShownAs = Literal["digits", "clock", "percent", "names"]


class Scale(Value):
    """How a panel shows one quantity: points of (panel value, canonical value), joined by straight lines or a
    monotone curve.

    Percent EP, percent EN, a signed scale and a knob differ only in their points. ``step`` is in panel units.
    ``names`` gives words to panel values of 0, 1, 2 …
    """

    points: tuple[tuple[Finite, Finite], ...] = Field(min_length=1, max_length=MOST_POINTS)
    step: float = Field(1.0, ge=1e-4, le=1e4)
    decimals: int = Field(0, ge=0, le=3)
    unit: Annotated[Word, Field(max_length=16)] = ""
    shown_as: ShownAs = "digits"
    names: tuple[Label, ...] = Field((), max_length=MOST_POINTS)
    signed: bool = False

    @model_validator(mode="after")
    def _monotone(self) -> Scale:
        panel = [point[0] for point in self.points]
        canonical = [point[1] for point in self.points]
        if any(b <= a for a, b in pairwise(panel)):
            raise Unfit(sentence("machine.panels_values_must_rise"))
        if len(self.points) > 1:
            rises = [b - a for a, b in pairwise(canonical)]
            if not (all(rise > 0 for rise in rises) or all(rise < 0 for rise in rises)):
                raise Unfit(sentence("machine.meaning_must_rise_all"))
        if bool(self.names) != (self.shown_as == "names"):
            raise Unfit(sentence("machine.names_scale_named_places"))
        if self.names and panel != list(range(len(self.names))):
            raise Unfit(sentence("machine.names_each_name_has"))
        if (panel[-1] - panel[0]) / self.step > MOST_STEPS:
            raise Unfit(sentence("machine.step_scale_has_steps", most_steps=MOST_STEPS))
        return self

    @property
    def is_fixed(self) -> bool:
        return len(self.points) == 1


class Control(Value):
    """One control of the panel: which quantity, its label in the owner's words, and its scale."""

    setting: Word
    label: Label
    scale: Scale
    basis: Basis = "value"
    """What the panel's figure means, where there is more than one way to mean it."""

    @model_validator(mode="after")
    def _known(self) -> Control:
        entry = BY_KEY.get(self.setting)
        if entry is None or not entry.panel:
            raise ValueError(f"setting|a panel can set {', '.join(setting.key for setting in PANEL)}")
        allowed = BASES.get(self.setting, ("value",))
        if self.basis != "value" and self.basis not in allowed:
            raise Unfit(
                sentence(
                    "machine.basis_can_shown",
                    words=say.within(entry.words),
                    choices=say.joined(*(BASIS_WORDS[basis] for basis in allowed), by=", "),
                )
            )
        if entry.dimension is None and not self.scale.names:
            raise Unfit(sentence("machine.scale_names_name_shapes"))
        if entry.dimension is None and any(
            meaning not in range(len(SHAPES)) for _, meaning in self.scale.points
        ):
            raise Unfit(
                sentence("machine.scale_points_shape_counted", last=len(SHAPES) - 1, names=", ".join(SHAPES))
            )
        return self


class Duty(Value):
    amps: float = Field(ge=1, le=1000)
    share: float = Field(ge=0.01, le=1)


class Start(Value):
    """The fewest amps that light an arc ten times of ten with a tungsten, as its owner tried it."""

    tungsten_mm: TungstenMm
    least_a: float = Field(ge=0.5, le=400)


TriggerKey = Literal["second_level", "spot_s", "spot_pause_s", "limit_knob"]
TRIGGER_KEYS: dict[TriggerKey, Words] = {
    "second_level": sentence("machine.second_level_words"),
    "spot_s": sentence("machine.spot_s_words"),
    "spot_pause_s": sentence("machine.spot_pause_s_words"),
    "limit_knob": sentence("machine.limit_knob_words"),
}


class TriggerControl(Value):
    """A control of trigger or pedal: its scale means amps of the second level (or their share of the main
    ones), seconds of a spot or between spots, or on a pedal the share of the machine's most amps.
    """

    what: TriggerKey
    label: Label
    scale: Scale
    basis: Literal["value", "share_of_set"] = "value"


StartMode = Literal["high_frequency", "touch", "either"]


class LowSupply(Value):
    """What is left of a machine of two voltages on the lower one."""

    volts: float = Field(ge=80, le=400)
    most_a: float = Field(ge=1, le=1000)
    duty: Duty


class Machine(Value):
    """Limits and panel. Currents are canonical unless a control says otherwise."""

    name: Name
    least_a: float = Field(5, ge=0.5, le=200)
    most_a: float = Field(400, ge=1, le=1000)
    duty: Duty = Duty(amps=400, share=1.0)
    least_frequency_hz: float = Field(20, ge=10, le=1000)
    most_frequency_hz: float = Field(250, ge=10, le=1000)
    least_ep_share: float = Field(0.05, ge=0.01, le=0.99)
    most_ep_share: float = Field(0.75, ge=0.01, le=0.99)
    least_half_ms: float = Field(0.6, ge=0.01, le=20)
    shapes: tuple[Shape, ...] = Field(SHAPES, min_length=1, max_length=len(SHAPES))
    can_trim: bool = True
    least_trim: float = Field(-0.5, ge=-0.9, le=0)
    most_trim: float = Field(0.5, ge=0, le=1)
    can_pulse: bool = True
    can_mix: bool = True
    most_pulse_hz: float = Field(500, ge=0.1, le=5000)
    triggers: tuple[Trigger, ...] = Field(("pedal", "switch_2", "switch_4"), max_length=5)
    can_name_memory: bool = False
    automatic: bool = False
    torch_amps: float = Field(400, ge=1, le=1000)
    torch_duty: float = Field(1.0, ge=0.01, le=1)
    water_cooled: bool = True
    memory_slots: int = Field(0, ge=0, le=200)
    controls: tuple[Control, ...] = Field((), max_length=MOST_CONTROLS)
    starts: tuple[Start, ...] = Field((), max_length=20)
    trigger_controls: tuple[TriggerControl, ...] = Field((), max_length=8)
    start_mode: StartMode = "high_frequency"
    low_supply: LowSupply | None = None
    note: Note = ""

    @model_validator(mode="after")
    def _makes_sense(self) -> Machine:
        for low, high, words in (
            ("least_a", "most_a", "amps"),
            ("least_frequency_hz", "most_frequency_hz", "frequency"),
            ("least_ep_share", "most_ep_share", "balance"),
        ):
            if getattr(self, low) > getattr(self, high):
                raise Unfit(sentence("machine.least_must_not_above", low=low, words=words))
        if len(self.shapes) != len(set(self.shapes)):
            raise Unfit(sentence("machine.shapes_each_shape_stands"))
        seen = [control.setting for control in self.controls]
        if len(seen) != len(set(seen)):
            raise Unfit(sentence("machine.controls_each_quantity_has"))
        if len(self.trigger_controls) != len({one.what for one in self.trigger_controls}):
            raise Unfit(sentence("machine.controls_each_quantity_has"))
        if self.low_supply is not None and self.low_supply.most_a > self.most_a:
            raise Unfit(sentence("machine.low_supply_less"))
        return self

    def control(self, setting: str) -> Control | None:
        """The control that sets a quantity, or None."""
        return next((control for control in self.controls if control.setting == setting), None)

    def least_start_a(self, tungsten_mm: float) -> float | None:
        """The fewest amps that light a tungsten of this size for sure; None where nobody tried."""
        return next((start.least_a for start in self.starts if start.tungsten_mm == tungsten_mm), None)

    def sets(self, setting: str) -> bool:
        """Whether this machine lets a setting be set; a machine without a panel has every control."""
        entry = BY_KEY[setting]
        has = {"ep_trim": self.can_trim, "pulse": self.can_pulse, "mix": self.can_mix}
        if not has.get(entry.group or setting, True):
            return False
        return not entry.panel or not self.controls or self.control(setting) is not None


def at_supply(machine: Machine, volts: float) -> Machine:
    """The machine on a supply: what the lower of its two voltages leaves, where the supply is nearer to that
    (up to a fifth over it); unchanged else.
    """
    low = machine.low_supply
    if low is None or volts > NEAR_LOW * low.volts:
        return machine
    most = max(low.most_a, machine.least_a)
    return machine.model_copy(update={"most_a": most, "duty": low.duty})


def with_torch(machine: Machine, torch: Torch | None) -> Machine:
    """The machine with the kit's torch on it; unchanged when the kit has none."""
    if torch is None:
        return machine
    return machine.model_copy(
        update={
            "torch_amps": torch.rated_a,
            "torch_duty": torch.rated_duty,
            "water_cooled": torch.cooling == "water",
        }
    )


IDEAL = Machine(name="Ideal machine", note=say.in_units(sentence("machine.every_control_planning_before")))
