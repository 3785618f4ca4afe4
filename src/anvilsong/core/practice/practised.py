"""What is kept of an exercise that was done."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from anvilsong.core.errors import Unfit
from anvilsong.core.practice.modes import ModeKey
from anvilsong.core.practice.rhythm import RhythmResult
from anvilsong.core.value import Name, Value
from anvilsong.core.words import sentence

Skill = Literal["pedal", "rhythm", "eye", "panels", "changes"]
MOST_PLACES, MOST_FIGURE = 400, 1e6
Figure = Annotated[float, Field(ge=-MOST_FIGURE, le=MOST_FIGURE)]
Key = Annotated[str, Field(max_length=40)]
Places = Annotated[tuple[Figure, ...], Field(max_length=MOST_PLACES)]
Advice = Literal["off_more", "off_earlier", "on_more", "on_earlier", "slower", "faster", "lit"]


class Trace(Value):
    """A pedal run thinned out for a picture: places along the weld in mm, the pedal from 0 to 1, and the pool
    as a share of the wanted one.
    """

    way_mm: Places
    pedal: Places
    pool: Places

    @model_validator(mode="after")
    def _of_one_length(self) -> Trace:
        if len({len(self.way_mm), len(self.pedal), len(self.pool)}) > 1:
            raise Unfit(sentence("practice.traces_unequal"))
        return self


class WorstSecond(Value):
    """One of the worst seconds of a run: when and where, the pool as a share of the wanted one, the pedal
    there and where Part's own stands, and what would have helped.
    """

    time_s: Figure
    way_mm: Figure
    pool: Figure
    pedal: Figure
    ideal: Figure | None
    advice: Advice


class PedalResult(Value):
    """What a pedal run came to (``judging.judged``), with its trace and that of Part's own pedal."""

    mode: ModeKey
    length_mm: Figure
    wanted_mm: Figure
    counted_s: Figure
    in_band_s: Figure
    wide_s: Figure
    narrow_s: Figure
    started_s: Figure | None
    widest: Figure
    burnt_mm: Figure | None
    way_mm: Figure
    habit: Figure | None
    worst: tuple[WorstSecond, ...] = Field((), max_length=8)
    trace: Trace
    ideal: Trace | None = None


class AnswerResult(Value):
    """One question and what was answered, by the names of what was asked: the answer given, the right one,
    and the figures of both sides. ``turned``: settings by their keys, before and after. ``told``: what the
    answer is shown with later, such as how each change would have ended.
    """

    level: int = Field(1, ge=1, le=9)
    given: dict[Key, Key] = Field({}, max_length=12)
    right: dict[Key, Key] = Field({}, max_length=12)
    figures: dict[Key, tuple[Figure, Figure]] = Field({}, max_length=12)
    turned: dict[Key, tuple[Figure, Figure]] = Field({}, max_length=4)
    told: dict[Key, Key] = Field({}, max_length=12)

    @property
    def is_right(self) -> bool:
        """Whether all of it was said rightly."""
        return self.given == self.right


class Practised(Value):
    """An exercise that was done: its skill, what of it, its score in per cent."""

    skill: Skill
    item: str = Field(min_length=1, max_length=60)
    score: float = Field(ge=0, le=100)
    on: Annotated[str, Field(max_length=120)] = ""
    """What it was done on: a job's title."""
    machine: Name | None = None
    seconds: float = Field(0, ge=0, le=36_000)
    pedal: PedalResult | None = None
    answer: AnswerResult | None = None
    rhythm: RhythmResult | None = None
