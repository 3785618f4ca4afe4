"""A recording of a machine's arc, beside what its panel showed."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator

from anvilsong.core.errors import BadInput, Unfit
from anvilsong.core.flow import Beside, SoundReading, heard_beside
from anvilsong.core.machine import KnobPoint, Machine, read_panel
from anvilsong.core.registry import BY_KEY
from anvilsong.core.trials.traces import NOTHING_SET
from anvilsong.core.value import Finite, Label, Value, Word
from anvilsong.core.words import sentence


class SoundTest(Value):
    """A recording that was read: what the panel showed, by setting, in the panel's own figures, and what was
    heard. ``counts``: whether it is one of those that tell how the machine usually sounds.
    """

    kind: Literal["sound"] = "sound"
    file: Label | None = None
    panel: dict[Word, Finite] = Field({}, max_length=40)
    counts: bool = True
    reading: SoundReading

    @model_validator(mode="after")
    def _of_a_panel(self) -> SoundTest:
        if any(key not in BY_KEY or not BY_KEY[key].panel for key in self.panel):
            raise Unfit(sentence("trials.proposal_of_panel"))
        return self


def sound_beside(test: SoundTest, machine: Machine) -> list[Beside]:
    """What was heard beside what the panel showed, for what was typed and what a sound tells."""
    values = {key: value for key, value in test.panel.items() if machine.control(key) is not None}
    try:
        before = read_panel(values, machine, NOTHING_SET, "switch_2")
    except BadInput:
        return []
    return [row for row in heard_beside(test.reading, before) if row.setting in test.panel]


def heard_point(test: SoundTest, machine: Machine, setting: str) -> KnobPoint | None:
    """Where the frequency's control stood and what it means there: of all settings, a sound tells the
    frequency alone so well; None for others, and where it is not sure.
    """
    control, found = machine.control(setting), test.reading.frequency_hz
    if setting != "frequency_hz" or control is None or found is None or not test.reading.sure:
        return None
    if control.scale.names or control.scale.is_fixed or setting not in test.panel:
        return None
    return KnobPoint(position=test.panel[setting], value=found.value, sd=found.half_range / 2)
