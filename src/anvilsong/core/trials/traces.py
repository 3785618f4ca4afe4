"""A trace of a machine's current, beside what its panel showed while it was recorded."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from pydantic import Field, model_validator

from anvilsong.core.errors import BadInput, Unfit
from anvilsong.core.flow import (
    ENDS,
    Beside,
    Counted,
    Shown,
    TracePicture,
    TraceReading,
    beside,
    how_counted,
    point_of,
)
from anvilsong.core.machine import KnobPoint, Machine, read_panel, to_canonical
from anvilsong.core.registry import BY_KEY
from anvilsong.core.settings import Cup, Gas, Settings
from anvilsong.core.value import Finite, Label, Value, Word
from anvilsong.core.words import sentence

NOTHING_SET = Settings(
    amps_run=100, amps_set=100, tungsten=None, cup=Cup(number=7, stick_out_mm=6), gas=Gas(flow_l_min=8),
    filler=None, travel_mm_s=3,
)  # fmt: skip
"""What stands for settings that a panel does not have, and that no current tells."""


class TraceTest(Value):
    """A trace that was read: what the panel showed, by setting, in the panel's own figures; what flowed; and
    what a page draws of it. ``file`` is the name of the file; ``counts``: whether it counts for how the
    machine counts its amps.
    """

    kind: Literal["trace"] = "trace"
    file: Label | None = None
    panel: dict[Word, Finite] = Field({}, max_length=40)
    counts: bool = True
    reading: TraceReading
    picture: TracePicture

    @model_validator(mode="after")
    def _of_a_panel(self) -> TraceTest:
        if any(key not in BY_KEY or not BY_KEY[key].panel for key in self.panel):
            raise Unfit(sentence("trials.proposal_of_panel"))
        return self


def was_set(test: TraceTest, machine: Machine) -> Settings | None:
    """What the panel was set to, as the machine is written down now; None where the panel has changed so that
    its figures can no longer be read.
    """
    values = {key: value for key, value in test.panel.items() if machine.control(key) is not None}
    try:
        before = read_panel(values, machine, NOTHING_SET, "switch_2")
    except BadInput:
        return None
    control, en = machine.control("amps_set"), test.reading.en_a
    counted = None if control is None else test.reading.amps_counted(control.basis)
    if control is None or counted is None or en is None or "amps_set" not in test.panel:
        return before
    # The same figure means other amps with another wave: here with the one that flowed.
    amps = to_canonical(control.scale, test.panel["amps_set"]) * en.value / counted.value
    return before.model_copy(update={"amps_set": amps})


def flowing_beside(test: TraceTest, machine: Machine) -> list[Beside]:
    """What flowed beside what the panel was set to, for the quantities that were typed or that the machine
    leaves no choice in.
    """
    before = was_set(test, machine)
    if before is None:
        return []
    return [row for row in beside(test.reading, before) if _is_known(row.setting, test, machine)]


def _is_known(setting: str, test: TraceTest, machine: Machine) -> bool:
    """Whether it is known what a quantity was set to: typed, of a control that the panel does not have, or of
    a pulse or mix, which is off where nothing was typed.
    """
    if BY_KEY[setting].group or setting in test.panel:
        return True
    if setting in ENDS:
        return False
    if setting == "shape_ep" and machine.control("shape_en") is not None:
        return "shape_en" in test.panel  # both halves have one control
    return machine.control(setting) is None and bool(machine.controls) and setting != "amps_set"


def measured_point(test: TraceTest, machine: Machine, setting: str) -> KnobPoint | None:
    """Where a control stood and what it means there; None where the trace or the form does not tell it."""
    control, before = machine.control(setting), was_set(test, machine)
    if control is None or before is None or setting not in test.panel:
        return None
    if control.scale.names or control.scale.is_fixed:
        return None
    return point_of(test.reading, before, control, test.panel[setting])


def amps_basis(machine: Machine) -> str | None:
    """How the machine's amps are counted, as it is written down; None without such a control."""
    control = machine.control("amps_set")
    return None if control is None else "peak" if control.basis == "value" else control.basis


def counted_by(tests: Sequence[TraceTest], machine: Machine) -> Counted | None:
    """How the panel counts its amps, from traces; None from too few of them."""
    control = machine.control("amps_set")
    if control is None or control.scale.names:
        return None
    return how_counted(
        [
            Shown(to_canonical(control.scale, test.panel["amps_set"]), test.reading)
            for test in tests
            if "amps_set" in test.panel
        ]
    )
