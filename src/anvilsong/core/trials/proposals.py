"""What a machine proposes by itself, by thickness: written down once, read for a job, held against the plan.

A row is in the panel's own figures, so that it stays what the panel showed. Between two rows of a table the
figures are interpolated, as the tables of a panel are; names and sizes that come in steps are those of the
nearer row. Past the ends of the table the nearest row stands, and that is said.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal, NamedTuple

from pydantic import Field, model_validator

from anvilsong.core.checks import newly_broken, outcome
from anvilsong.core.coefficients import Coefficients
from anvilsong.core.errors import Unfit
from anvilsong.core.job import Job, JointName, Position
from anvilsong.core.machine import Machine, read_panel
from anvilsong.core.metal.fillers import find_filler
from anvilsong.core.model import Consequences, situation
from anvilsong.core.plan import with_cup, with_tungsten
from anvilsong.core.registry import BY_KEY, get_value, with_value
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.typed import FLOW, LENGTH, SPEED
from anvilsong.core.value import (
    LEAST_THICKNESS_MM,
    MOST_THICKNESS_MM,
    CupNumber,
    Finite,
    RodMm,
    TravelMmS,
    TungstenMm,
    Value,
    Word,
)
from anvilsong.core.words import sentence

MOST_PROPOSALS = 40
# Values of a row that are none of the panel's controls, and whether they come in steps.
BESIDE = {"tungsten_mm": True, "cup": True, "flow_l_min": False, "rod_mm": True, "travel_mm_s": False}


class Proposal(Value):
    """What the panel proposes for one thickness; ``panel`` by setting, in the panel's own figures."""

    thickness_mm: Annotated[float, LENGTH] = Field(ge=LEAST_THICKNESS_MM, le=MOST_THICKNESS_MM)
    joint: JointName | None = None
    position: Position | None = None
    panel: dict[Word, Finite] = Field({}, max_length=40)
    tungsten_mm: Annotated[TungstenMm | None, LENGTH] = None
    cup: CupNumber | None = None
    flow_l_min: Annotated[float | None, FLOW] = Field(None, ge=0.5, le=100)
    rod_mm: Annotated[RodMm | None, LENGTH] = None
    travel_mm_s: Annotated[TravelMmS | None, SPEED] = None

    @model_validator(mode="after")
    def _says_something(self) -> Proposal:
        if any(key not in BY_KEY or not BY_KEY[key].panel for key in self.panel):
            raise Unfit(sentence("trials.proposal_of_panel"))
        if not self.panel and all(getattr(self, name) is None for name in BESIDE):
            raise Unfit(sentence("trials.proposal_says_nothing"))
        return self


class Proposals(Value):
    """The table of one machine, as it was typed."""

    kind: Literal["proposals"] = "proposals"
    rows: tuple[Proposal, ...] = Field((), max_length=MOST_PROPOSALS)

    @model_validator(mode="after")
    def _once_each(self) -> Proposals:
        places = [(row.thickness_mm, row.joint, row.position) for row in self.rows]
        if len(set(places)) != len(places):
            raise Unfit(sentence("trials.proposals_stand_once"))
        return self


class Found(NamedTuple):
    """A row for a job: interpolated, and between which thicknesses of the table, mm; ``beyond`` where the
    table ends before the job's.
    """

    row: Proposal
    thickness_mm: float
    between_mm: tuple[float, float]
    beyond: bool


def proposal_for(table: Proposals, job: Job, machine: Machine) -> Found | None:
    """What the table says of a job; None where no row is for such a joint and position.

    Rows that name the joint and the position win over those that name fewer of them. The thickness is the
    joint's effective one, (a + b)/2 or (2a + b)/3.
    """
    fitting = [
        row for row in table.rows if row.joint in (None, job.joint) and row.position in (None, job.position)
    ]
    if not fitting:
        return None
    nearest = max(_named(row) for row in fitting)
    rows = sorted(
        (row for row in fitting if _named(row) == nearest),
        key=lambda row: row.thickness_mm,
    )
    thickness = situation(job).mean_thickness_mm
    below = [row for row in rows if row.thickness_mm <= thickness + 1e-9]
    above = [row for row in rows if row.thickness_mm >= thickness - 1e-9]
    low, high = (below or rows)[-1 if below else 0], (above or rows)[0 if above else -1]
    between = (low.thickness_mm, high.thickness_mm)
    wide = between[1] - between[0]
    share = (thickness - between[0]) / wide if wide > 0 else 0.0
    return Found(_mixed(low, high, share, machine), thickness, between, not (below and above))


def _named(row: Proposal) -> tuple[bool, bool]:
    return row.joint is not None, row.position is not None


def _mixed(low: Proposal, high: Proposal, share: float, machine: Machine) -> Proposal:
    """A row between two; what only one of them says stands as it says it."""
    near = low if share <= 0.5 else high
    panel = {}
    for key in {**low.panel, **high.panel}:
        control, ends = machine.control(key), (low.panel.get(key), high.panel.get(key))
        stepped = control is not None and bool(control.scale.names)
        value = _between(ends, share, stepped)
        if value is not None:
            panel[key] = value if control is None or stepped else _on_step(value, control.scale.step)
    beside = {
        name: _between((getattr(low, name), getattr(high, name)), share, stepped)
        for name, stepped in BESIDE.items()
    }
    return near.model_copy(update={"panel": panel, **beside})


def _between(ends: tuple[float | None, float | None], share: float, stepped: bool) -> float | None:
    low, high = ends
    if low is None or high is None:
        return low if high is None else high
    return (low if share <= 0.5 else high) if stepped else low + share * (high - low)


def _on_step(value: float, step: float) -> float:
    return round(round(value / step) * step, 6)


def as_proposed(row: Proposal, job: Job, machine: Machine, base: Settings) -> Settings:
    """The settings that a row makes of ``base``, which keeps what the row does not speak of.

    Controls that the panel has no more are passed over. A tungsten brings its tip and post-flow along, a cup
    its stick-out and flow; what the row says of them itself stands.

    Raises
    ------
    BadInput : figures that cannot be set together
    """
    settings = base
    if row.tungsten_mm is not None and base.tungsten is not None:
        settings = with_tungsten(settings, base.tungsten.class_, row.tungsten_mm)
    if row.cup is not None:
        settings = with_cup(situation(job), settings, row.cup, base.cup.gas_lens)
    if row.rod_mm is not None and settings.filler is not None:
        filler = settings.filler.model_copy(update={"diameter_mm": row.rod_mm})
        find_filler(filler.class_)
        settings = settings.model_copy(update={"filler": filler})
    for key, value in (("flow_l_min", row.flow_l_min), ("travel_mm_s", row.travel_mm_s)):
        if value is not None:
            settings = with_value(settings, key, value, job.control)
    known = {key: value for key, value in row.panel.items() if machine.control(key) is not None}
    return read_panel(known, machine, settings, job.control)


class Difference(NamedTuple):
    """One setting that the proposal has otherwise, and what it alone does: heat as a share of the plan's,
    bead, border, mm, tungsten load and share of the pedal, each before and after, and the limits it breaks.
    """

    key: str
    planned: float | str | None
    proposed: float | str | None
    heat: float
    bead_mm: tuple[float, float]
    border_mm: tuple[float, float]
    load: tuple[float, float]
    pedal: tuple[float, float]
    brings: tuple[Words, ...]


class Compared(NamedTuple):
    """The plan against the proposal, setting by setting and whole; what differs by less than a step of the
    registry is the same.
    """

    settings: Settings
    differences: tuple[Difference, ...]
    whole: Difference


def held_against(
    planned: Settings, proposed: Settings, job: Job, machine: Machine, c: Coefficients
) -> Compared:
    """What each difference does by itself, all else as planned, and what they do together."""
    plan = _Planned(job, machine, c, planned, outcome(job, planned, machine, c=c).consequences)
    found = []
    for key in BY_KEY:
        before, after = get_value(planned, key), get_value(proposed, key)
        if key != "amps_run" and _differs(key, before, after):
            found.append(plan.against(_alone(planned, proposed, key, job), key, before, after))
    return Compared(proposed, tuple(found), plan.against(proposed))


def _differs(key: str, before: float | str | None, after: float | str | None) -> bool:
    if isinstance(before, float | int) and isinstance(after, float | int):
        return abs(after - before) > 0.4 * BY_KEY[key].step
    return before != after


def _alone(planned: Settings, proposed: Settings, key: str, job: Job) -> Settings:
    """The plan with one setting of the proposal; a pulse or a mix comes whole, and so does the foot with the
    amps.
    """
    group = BY_KEY[key].group
    if group:
        return planned.model_copy(update={"pulse": None, "mix": None} | {group: getattr(proposed, group)})
    return with_value(planned, key, get_value(proposed, key), job.control)


@dataclass(frozen=True)
class _Planned:
    """The plan that proposals are held against."""

    job: Job
    machine: Machine
    c: Coefficients
    settings: Settings
    seen: Consequences

    def against(
        self,
        after: Settings,
        key: str = "",
        before: float | str | None = None,
        proposed: float | str | None = None,
    ) -> Difference:
        """What other settings do, and what they break that is whole as planned."""
        was, now = self.seen, outcome(self.job, after, self.machine, c=self.c).consequences
        brought = newly_broken(self.job, self.settings, after, self.machine, c=self.c)
        return Difference(
            key=key,
            planned=before,
            proposed=proposed,
            heat=now.work_heat_w / was.work_heat_w,
            bead_mm=(was.pool_width_mm, now.pool_width_mm),
            border_mm=(was.border_mm, now.border_mm),
            load=(was.tungsten_load, now.tungsten_load),
            pedal=(was.pedal_used, now.pedal_used),
            brings=tuple(warning.message for warning in brought),
        )
