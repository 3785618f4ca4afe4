"""What an export holds, entry by entry (docs/formats.md). Every document in it is checked against the core's
own model.
"""

from __future__ import annotations

import hashlib
import json
from datetime import datetime
from typing import Annotated, Any

from pydantic import Base64Bytes, Field, ValidationInfo, model_validator

from anvilsong.core.bead import Looks, LooksVerdict, NextChange, Readings, Verdict
from anvilsong.core.errors import Unfit
from anvilsong.core.job import Job, School
from anvilsong.core.machine import Machine, Panel
from anvilsong.core.model import Plan
from anvilsong.core.practice import Practised
from anvilsong.core.said import Said, in_units
from anvilsong.core.settings import Settings
from anvilsong.core.shop import PartRun
from anvilsong.core.torch.kit import Kit
from anvilsong.core.trials import Blind, MachineTrial, Series
from anvilsong.core.value import LongNote, Name, Note, Title, Value
from anvilsong.core.warming import PartDrawing, PartResult
from anvilsong.core.words import sentence
from anvilsong.instruments.bead_values import BeadOnPicture
from anvilsong.store.columns import NO_MOMENT
from anvilsong.store.heat_runs import MOST_OF_A_JOB
from anvilsong.store.models import fresh_uid, now

FORMAT, FORMAT_VERSION = "anvilsong-book", 4
READ_VERSIONS = (1, 2, 3, 4)
MOST_PICTURE = 12_000_000  # bytes of one that is kept
MOST_PLANS, MOST_COUPONS, MOST_READINGS, MOST_TRIALS = 2000, 5000, 200, 500
MOST_MEMORIES, MOST_PART_RUNS, MOST_PRACTISED = 1000, 20_000, 200_000

# What an export does not carry, and why. A test holds that all else comes back as it was.
NOT_CARRIED = {
    "heat_runs.film": in_units(sentence("store.large_computed_again_from")),
    "calibrations.document": in_units(sentence("store.worked_out_from_coupons")),
    "calibrations.members": in_units(sentence("store.worked_out_from_coupons")),
    "calibrations.made_at": in_units(sentence("store.moment_was_worked_out")),
    "attachments.document.measured_on": in_units(sentence("store.window_measured_which_closed")),
    "changes": in_units(sentence("store.who_changed_what_here")),
    "sent_forms": in_units(sentence("store.forms_pages_are_open")),
}

Uid = Annotated[str, Field(pattern=r"^[0-9a-f]{32}$")]
When = Annotated[datetime, Field(default_factory=now)]


class MachineEntry(Value):
    document: Machine
    made_at: datetime = NO_MOMENT
    put_away_at: datetime | None = None


class KitEntry(Value):
    document: Kit
    put_away_at: datetime | None = None


class GaugeEntry(Value):
    cylinder: Name
    bar: float = Field(ge=0, le=1000)
    note: Note = ""
    made_at: datetime


class TrialEntry(Value):
    sign: str = Field(max_length=40)
    cause: str = Field(max_length=40)
    helped: bool
    made_at: datetime


class PracticeEntry(Value):
    """An exercise that somebody did."""

    uid: Uid = Field(default_factory=fresh_uid)
    welder: str = Field("", max_length=60)
    document: Practised
    made_at: datetime


class CalibrationEntry(Value):
    """Whether what the coupons of a machine and kit say is used; it is worked out from them again."""

    machine: Name
    kit: Annotated[str, Field(max_length=60)] = ""
    is_on: bool


class WelderEntry(Value):
    name: Name
    school: School
    note: Note = ""
    put_away_at: datetime | None = None


class PlanEntry(Value):
    revision: int = Field(ge=1, le=10**9)
    origin: str = Field(max_length=20)
    words: LongNote | Said = ""
    job_document: Job
    machine_document: Machine
    settings: Settings | None
    recipe: Name | None = None
    recipe_why: Note = ""
    recipe_at: datetime | None = None
    from_recipe: str | None = Field(None, max_length=120)
    plan: Plan
    made_at: datetime = Field(default_factory=now)

    @model_validator(mode="after")
    def _of_one_piece(self) -> PlanEntry:
        if self.plan.job != self.job_document:
            raise Unfit(sentence("store.plan_job_must_job"))
        if self.plan.settings != self.settings:
            raise Unfit(sentence("store.plan_settings_they_must"))
        if self.recipe is not None and self.settings is None:
            raise Unfit(sentence("store.recipe_refused_plan_has"))
        return self


class ReadingEntry(Value):
    document: Readings | Looks
    verdict: Verdict | LooksVerdict
    change: NextChange
    typed: dict[str, Annotated[str, Field(max_length=200)]] | None = Field(None, max_length=20)
    made_at: datetime = Field(default_factory=now)


class CouponEntry(Value):
    uid: Uid = Field(default_factory=fresh_uid)
    number: int = Field(ge=1, le=10**9)
    revision: int
    left_out: bool = False
    made_at: datetime = Field(default_factory=now)
    readings: list[ReadingEntry] = Field(min_length=1, max_length=MOST_READINGS)


class PhotographEntry(Value):
    """A photograph of a job in the same file, with what was measured on it."""

    uid: Uid
    job: Uid
    coupon: Uid | None = None
    run: Uid | None = None
    content: Base64Bytes = Field(min_length=100, max_length=MOST_PICTURE)
    width_px: int = Field(ge=1, le=20_000)
    height_px: int = Field(ge=1, le=20_000)
    bead: BeadOnPicture | None = None
    made_at: datetime = Field(default_factory=now)
    put_away_at: datetime | None = None


class TickEntry(Value):
    step: str = Field(min_length=1, max_length=60)
    done_at: datetime = Field(default_factory=now)


class HeatEntry(Value):
    """A part that was drawn and what came of it. Its film is not carried along: it is computed again."""

    uid: Uid = Field(default_factory=fresh_uid)
    revision: int = Field(ge=1, le=10**9)
    part: PartDrawing
    result: PartResult | None = None
    made_at: When


class JobTrialEntry(Value):
    """A test series or a blind judgement of a job, which names coupons and versions by their numbers."""

    uid: Uid = Field(default_factory=fresh_uid)
    document: Annotated[Series | Blind, Field(discriminator="kind")]
    made_at: When


class MachineTrialEntry(Value):
    """A test of a machine's arc on scrap."""

    uid: Uid = Field(default_factory=fresh_uid)
    machine: Name
    document: MachineTrial
    made_at: datetime


class RecipeEntry(Value):
    """What is said of a recipe beside its versions, which stand in their jobs."""

    name: Name
    tags: Annotated[str, Field(max_length=200)] = ""
    favourite: bool = False
    retired_at: datetime | None = None


class MemoryEntry(Value):
    """A version of the job in a numbered memory of a machine, since when, and until when."""

    uid: Uid = Field(default_factory=fresh_uid)
    revision: int = Field(ge=1, le=10**9)
    machine: Name
    slot: int = Field(ge=1, le=200)
    label: Annotated[str, Field(max_length=40)] = ""
    gone_at: datetime | None = None
    panel: Panel | None = None
    made_at: When


class PartRunEntry(Value):
    """A weld on a part, run with a version of the job."""

    uid: Uid = Field(default_factory=fresh_uid)
    revision: int = Field(ge=1, le=10**9)
    document: PartRun
    made_at: When


class JobEntry(Value):
    """One job with all its revisions, coupons and ticks. A file of version 1 gives no uid: it gets one from
    its content.
    """

    uid: Uid
    title: Title
    welder: Name | None = None
    made_at: datetime = Field(default_factory=now)
    changed_at: datetime = Field(default_factory=now)
    put_away_at: datetime | None = None
    plans: list[PlanEntry] = Field(min_length=1, max_length=MOST_PLANS)
    coupons: list[CouponEntry] = Field([], max_length=MOST_COUPONS)
    ticks: list[TickEntry] = Field([], max_length=1000)
    heat_runs: list[HeatEntry] = Field([], max_length=MOST_OF_A_JOB)
    trials: list[JobTrialEntry] = Field([], max_length=MOST_TRIALS)
    memories: list[MemoryEntry] = Field([], max_length=MOST_MEMORIES)
    part_runs: list[PartRunEntry] = Field([], max_length=MOST_PART_RUNS)

    @model_validator(mode="before")
    @classmethod
    def _named_by_content(cls, given: Any, info: ValidationInfo) -> Any:
        if isinstance(given, dict) and "uid" not in given:
            text = json.dumps(given, sort_keys=True, default=str)
            return {**given, "uid": hashlib.sha256(text.encode("utf-8", "replace")).hexdigest()[:32]}
        return given

    @model_validator(mode="after")
    def _references(self) -> JobEntry:
        revisions = {plan.revision: plan for plan in self.plans}
        if len(revisions) != len(self.plans):
            raise Unfit(sentence("store.plans_each_version_has"))
        numbers = [coupon.number for coupon in self.coupons]
        if len(numbers) != len(set(numbers)):
            raise Unfit(sentence("store.coupons_each_coupon_has"))
        for place, coupon in enumerate(self.coupons):
            if coupon.revision not in revisions or revisions[coupon.revision].settings is None:
                raise Unfit(sentence("store.coupons_revision_must_version", place=place))
        for place, trial in enumerate(self.trials):
            made = trial.document
            versions = made.revisions if isinstance(made, Blind) else (made.revision,)
            named = () if isinstance(made, Blind) else tuple(n for run in made.runs for n in run.coupons)
            if not {*versions} <= revisions.keys() or not {*named} <= {*numbers}:
                raise Unfit(sentence("store.trials_version_and_coupons", place=place))
        for words in ("memories", "part_runs"):
            if any(one.revision not in revisions for one in getattr(self, words)):
                raise Unfit(sentence("store.names_version_of_job", words=words))
        steps = [tick.step for tick in self.ticks]
        if len(steps) != len(set(steps)):
            raise Unfit(sentence("store.ticks_each_step_stands"))
        return self
