"""The values a plan is made of. A reason is data made where the number is made; a broken limit is a value
too.
"""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator

from anvilsong.core.coefficients import Coefficients
from anvilsong.core.errors import Unfit
from anvilsong.core.formula import Formula
from anvilsong.core.job import Job
from anvilsong.core.machine import Panel
from anvilsong.core.metal.fillers import Ranked, Refusal
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.value import STRICT, Value
from anvilsong.core.words import sentence

Level = Literal["note", "watch", "stop"]


MOST_PASSES = 5000  # a V of 120° in 200 mm plate
MOST_LINES = 200  # of reasons, warnings or steps: a plan that a person could read


class PlanPart(Value):
    """A part of a plan. What a later version adds is passed over, so that its plans can still be read."""

    model_config = STRICT | {"extra": "ignore"}


LONGEST_FORMULA = 300


class Reason(PlanPart):
    """Why a setting is what it is.

    ``formula`` is an expression in the names of ``numbers`` that gives ``value``; ``said`` is the one line
    under a lane.
    """

    setting: str
    rule: Words
    formula: str = ""
    numbers: dict[str, float] = {}
    source: Words = ""
    school: str | None = None
    value: float | str | None = None
    said: Words = ""

    @property
    def worked(self) -> str:
        """The formula with its numbers filled in; nothing where what is stored is no formula."""
        if not 0 < len(self.formula) <= LONGEST_FORMULA:
            return ""
        try:
            return Formula(self.formula).filled(self.numbers)
        except (ValueError, SyntaxError, KeyError, RecursionError, MemoryError):
            return ""


class LimitWarning(PlanPart):
    """A limit that is broken or near: what, how bad, and a sentence with the numbers."""

    code: str
    level: Level
    message: Words
    setting: str | None = None
    numbers: dict[str, float] = {}


class Step(PlanPart):
    """One line of the run sheet."""

    station: str
    text: Words
    key: str = ""
    why: Words = ""
    caution: Words = ""
    minutes: float | None = None
    after_arc: bool = False
    """For between the passes and after the last: it stands under the steps that come before the arc."""


class Consequences(PlanPart):
    """What these settings do. Heat W, widths mm, shares 0..1; worked out at amps_run unless the name says
    set.
    """

    work_heat_w: float
    pool_width_mm: float
    root_width_mm: float
    cleaned_width_mm: float
    border_mm: float
    tungsten_load: float
    tungsten_load_set: float
    reynolds: float
    filler_heat_share: float
    pedal_used: float
    duty_used: float
    heat_wanted_w: float
    melt_through: float
    en_mean_a: float
    ep_mean_a: float
    rms_a: float
    rms_set_a: float
    shortest_half_ms: float
    arc_time_s: float
    run_time_s: float
    gas_l: float
    finish_share: float
    rod_feed_mm_s: float
    shield_used: float
    ripple_mm: float


class Margin(PlanPart):
    """One bar: how much of a limit is used, 0..1 and beyond, and what that means in words."""

    key: str
    words: str
    used: float
    state: Literal["good", "near", "over"]
    said: Words


class Pass(PlanPart):
    """One pass: filler section mm², pool width mm, amps under the foot, rod mm."""

    number: int
    kind: Literal["single", "root", "fill", "cap", "clean", "tack", "edge", "bridge", "wait", "level"]
    section_mm2: float
    pool_width_mm: float
    amps_run: float
    amps_window: tuple[float, float]
    rod_mm: float | None


class FillerRows(PlanPart):
    """The fillers for this pair: ranked, turned down, and how much of the weld metal was base metal."""

    ranked: list[Ranked] = Field(max_length=MOST_LINES)
    refused: list[Refusal] = Field(max_length=MOST_LINES)
    dilution: float


class Plan(PlanPart):
    """Everything worked out for a job; ``windows`` are sound, ``best`` is where its aims are met, None where
    nothing satisfies.

    ``ends`` says in a word what gives below and above each window, ``empty`` why there is none and what
    else must move.
    ``settings`` and ``consequences`` are None when the job is refused.
    """

    job: Job
    settings: Settings | None
    windows: dict[str, tuple[float, float] | None] = Field(max_length=MOST_LINES)
    best: dict[str, tuple[float, float] | None] = Field({}, max_length=MOST_LINES)
    ends: dict[str, tuple[str, str]] = Field({}, max_length=MOST_LINES)
    empty: dict[str, str] = Field({}, max_length=MOST_LINES)
    consequences: Consequences | None
    reasons: list[Reason] = Field(max_length=MOST_LINES)
    warnings: list[LimitWarning] = Field(max_length=MOST_LINES)
    panel: Panel
    run_sheet: list[Step] = Field(max_length=MOST_LINES)
    margins: list[Margin] = Field([], max_length=MOST_LINES)
    passes: list[Pass] = Field([], max_length=MOST_PASSES)
    travel_for_amps: list[tuple[float, float]] = Field([], max_length=MOST_LINES)
    """Amps under the foot and the travel, mm/s, that hold the same pool."""
    amps_for_warmth: list[tuple[float, float]] = Field([], max_length=MOST_LINES)
    """Part temperature, °C, and the amps that hold the same pool."""
    fillers: FillerRows | None = None
    coefficients: Coefficients | None = None
    """Those the plan was made with."""

    @model_validator(mode="after")
    def _whole(self) -> Plan:
        if (self.settings is None) != (self.consequences is None):
            raise Unfit(sentence("joint.consequences_plan_has_settings"))
        return self

    @property
    def refused(self) -> bool:
        return self.settings is None

    def reason(self, setting: str) -> Reason | None:
        return next((reason for reason in self.reasons if reason.setting == setting), None)
