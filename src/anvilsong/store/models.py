"""Tables. Values of the core are kept as JSON documents; what is searched or joined has columns of its
own.
"""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import (
    ForeignKey,
    Index,
    LargeBinary,
    String,
    UniqueConstraint,
    false,
)
from sqlalchemy.orm import Mapped, mapped_column, relationship, validates

from anvilsong.core.said import Words
from anvilsong.store.base import Base as Base
from anvilsong.store.base import PutAway
from anvilsong.store.base import fresh_uid as fresh_uid
from anvilsong.store.base import now as now
from anvilsong.store.columns import (
    MOST_KIND,
    Document,
    OptionalDocumentText,
    WordsText,
    kind_of_change,
)
from anvilsong.store.kept_models import ChangeRow as ChangeRow
from anvilsong.store.kept_models import MemoryRow, PartRunRow
from anvilsong.store.kept_models import SentRow as SentRow
from anvilsong.store.kept_models import TermRow as TermRow


class MachineRow(PutAway, Base):
    __tablename__ = "machines"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(60), unique=True)
    document: Mapped[Document]
    made_at: Mapped[datetime] = mapped_column(default=now)


class KitRow(PutAway, Base):
    __tablename__ = "kits"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(60), unique=True)
    document: Mapped[Document]


class GaugeRow(Base):
    """A gauge reading of a cylinder: the log is only added to."""

    __tablename__ = "gauge_readings"

    id: Mapped[int] = mapped_column(primary_key=True)
    cylinder: Mapped[str] = mapped_column(String(60), index=True)
    bar: Mapped[float]
    note: Mapped[str] = mapped_column(default="")
    made_at: Mapped[datetime] = mapped_column(default=now)


class WelderRow(PutAway, Base):
    __tablename__ = "welders"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(60), unique=True)
    school: Mapped[Document]
    note: Mapped[str] = mapped_column(default="")


class JobRow(PutAway, Base):
    """A job of the shop. What is to be welded stands in its plans, so that a change of the job is a new
    revision.

    ``machine`` to ``state`` are what its newest version and its newest coupon say, copied when either
    changes (``store.words``), for lists to be narrowed by.
    """

    __tablename__ = "jobs"
    __table_args__ = (Index("ix_jobs_changed", "put_away_at", "changed_at", "id"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    uid: Mapped[str] = mapped_column(String(32), default=fresh_uid, index=True, unique=True)
    title: Mapped[str] = mapped_column(String(120))
    welder_id: Mapped[int | None] = mapped_column(ForeignKey("welders.id"))
    made_at: Mapped[datetime] = mapped_column(default=now)
    changed_at: Mapped[datetime] = mapped_column(default=now)
    machine: Mapped[str] = mapped_column(String(60), default="", server_default="")
    joint: Mapped[str] = mapped_column(String(40), default="", server_default="")
    alloy_a: Mapped[str] = mapped_column(String(40), default="", server_default="")
    alloy_b: Mapped[str] = mapped_column(String(40), default="", server_default="")
    thickness_a_mm: Mapped[float | None]
    thickness_b_mm: Mapped[float | None]
    state: Mapped[str] = mapped_column(String(20), default="", server_default="")
    welder: Mapped[WelderRow | None] = relationship()
    plans: Mapped[list[PlanRow]] = relationship(back_populates="job", order_by="PlanRow.revision")
    coupons: Mapped[list[CouponRow]] = relationship(back_populates="job", order_by="CouponRow.number")
    ticks: Mapped[list[TickRow]] = relationship()
    heat_runs: Mapped[list[HeatRunRow]] = relationship(order_by="HeatRunRow.id")
    trials: Mapped[list[BenchTrialRow]] = relationship(order_by="BenchTrialRow.id")
    memories: Mapped[list[MemoryRow]] = relationship(order_by="MemoryRow.id")
    part_runs: Mapped[list[PartRunRow]] = relationship(order_by="PartRunRow.id")


class PlanRow(Base):
    """One revision of a job's plan, never overwritten. ``settings`` is None when the job is refused."""

    __tablename__ = "plans"
    __table_args__ = (
        UniqueConstraint("job_id", "revision"),
        Index("ix_plans_recipe_at", "recipe_at"),
        Index("ix_plans_recipe_key", "recipe_key", "recipe_at", "id", "recipe"),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("jobs.id"), index=True)
    revision: Mapped[int]
    origin: Mapped[str] = mapped_column(String(20))
    words: Mapped[Words] = mapped_column(WordsText, default="")
    job_document: Mapped[Document]
    # Large, and wanted for one revision at a time: read when asked for.
    machine_document: Mapped[Document] = mapped_column(deferred=True)
    settings: Mapped[Document | None] = mapped_column(OptionalDocumentText)
    recipe: Mapped[str | None] = mapped_column(String(60))
    """The name it is kept by, to start other jobs from; versions of one recipe have the same."""
    recipe_key: Mapped[str | None] = mapped_column(String(120))
    """The same in small letters, which it is found by."""
    recipe_why: Mapped[str] = mapped_column(String(400), default="", server_default="")
    """What changed against the version before, and why."""
    recipe_at: Mapped[datetime | None] = mapped_column(default=None)
    from_recipe: Mapped[str | None] = mapped_column(String(120), index=True)
    """The recipe that it was begun from, by its name in small letters."""
    plan: Mapped[Document] = mapped_column(deferred=True)
    made_at: Mapped[datetime] = mapped_column(default=now)
    job: Mapped[JobRow] = relationship(back_populates="plans")

    @validates("recipe")
    def _with_key(self, _name: str, recipe: str | None) -> str | None:
        self.recipe_key = recipe.lower() if recipe is not None else None
        return recipe


class CouponRow(Base):
    """One test bead, run with the settings of one plan revision."""

    __tablename__ = "coupons"
    __table_args__ = (
        UniqueConstraint("job_id", "number"),
        Index("ix_coupons_pair", "machine", "kit", "id"),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("jobs.id"), index=True)
    plan_id: Mapped[int] = mapped_column(ForeignKey("plans.id"), index=True)
    uid: Mapped[str] = mapped_column(String(32), default=fresh_uid, index=True, unique=True)
    number: Mapped[int]
    machine: Mapped[str] = mapped_column(String(60), default="", server_default="")
    kit: Mapped[str] = mapped_column(String(60), default="", server_default="")
    """The machine and kit that it was run on, by name; empty where the job names none."""
    left_out: Mapped[bool] = mapped_column(default=False, server_default=false())
    """Whether somebody said that it does not count for what is known of them."""
    made_at: Mapped[datetime] = mapped_column(default=now)
    job: Mapped[JobRow] = relationship(back_populates="coupons")
    plan: Mapped[PlanRow] = relationship()
    readings: Mapped[list[ReadingRow]] = relationship(order_by="ReadingRow.revision")


class ReadingRow(Base):
    """Readings of a coupon. A correction is a new row; the old value stays."""

    __tablename__ = "readings"
    __table_args__ = (
        UniqueConstraint("coupon_id", "revision"),
        Index("ix_readings_kind", "coupon_id", "revision", "kind"),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    coupon_id: Mapped[int] = mapped_column(ForeignKey("coupons.id"))
    revision: Mapped[int]
    document: Mapped[Document]
    verdict: Mapped[Document]
    change: Mapped[Document]
    kind: Mapped[str] = mapped_column(String(MOST_KIND), default="", server_default="")
    """What the change asks for, copied from it: many are counted at once."""
    typed: Mapped[Document | None] = mapped_column(OptionalDocumentText)
    """The measures in the words they were typed, and the unit system of the page they were typed on."""
    made_at: Mapped[datetime] = mapped_column(default=now)

    @validates("change")
    def _with_kind(self, _name: str, change: Document) -> Document:
        self.kind = kind_of_change(change)
        return change


class CalibrationRow(Base):
    """What the coupons of a machine and kit say of the model's coefficients; made anew with every coupon."""

    __tablename__ = "calibrations"
    __table_args__ = (UniqueConstraint("machine", "kit"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    machine: Mapped[str] = mapped_column(String(60))
    kit: Mapped[str] = mapped_column(String(60))
    is_on: Mapped[bool] = mapped_column(default=True)
    document: Mapped[Document]
    members: Mapped[Document]
    """``coupons``: the numbers of the rows it was made from, in the order of the document's misses."""
    made_at: Mapped[datetime] = mapped_column(default=now)


class FaultTrialRow(Base):
    """A cause that was acted on, and whether that helped: counted when causes are ranked."""

    __tablename__ = "fault_trials"

    id: Mapped[int] = mapped_column(primary_key=True)
    sign: Mapped[str] = mapped_column(String(40), index=True)
    cause: Mapped[str] = mapped_column(String(40))
    helped: Mapped[bool]
    made_at: Mapped[datetime] = mapped_column(default=now)


class AttachmentRow(PutAway, Base):
    """What came with a coupon: a photograph, later sound and traces. ``coupon_id`` is None until one is
    recorded.

    ``document`` is what was read from it, by the kind: marks, figures and size of a photograph.
    """

    __tablename__ = "attachments"

    id: Mapped[int] = mapped_column(primary_key=True)
    uid: Mapped[str] = mapped_column(String(32), default=fresh_uid, index=True, unique=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("jobs.id"), index=True)
    coupon_id: Mapped[int | None] = mapped_column(ForeignKey("coupons.id"), index=True)
    part_run_id: Mapped[int | None] = mapped_column(ForeignKey("part_runs.id"), index=True)
    """The weld on a part that it shows, where it shows one; then it belongs to no coupon."""
    kind: Mapped[str] = mapped_column(String(20))
    media_type: Mapped[str] = mapped_column(String(40))
    # Large, and wanted one at a time.
    content: Mapped[bytes] = mapped_column(LargeBinary, deferred=True)
    document: Mapped[Document]
    made_at: Mapped[datetime] = mapped_column(default=now)


class HeatRunRow(Base):
    """A part that was drawn, and what came of welding it in the computer; ``result`` is None until it is
    there.
    """

    __tablename__ = "heat_runs"

    id: Mapped[int] = mapped_column(primary_key=True)
    uid: Mapped[str] = mapped_column(String(32), default=fresh_uid, index=True, unique=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("jobs.id"), index=True)
    revision: Mapped[int]
    part: Mapped[Document]
    result: Mapped[Document | None] = mapped_column(OptionalDocumentText)
    # Large, and wanted one at a time.
    film: Mapped[bytes | None] = mapped_column(LargeBinary, deferred=True)
    made_at: Mapped[datetime] = mapped_column(default=now)


class BenchTrialRow(Base):
    """A trial at the bench: a test series or a blind judgement of a job, or a test of a machine's arc.

    ``document`` is the core's value, by its kind; its coupons are named by their numbers.
    """

    __tablename__ = "trials"

    id: Mapped[int] = mapped_column(primary_key=True)
    uid: Mapped[str] = mapped_column(String(32), default=fresh_uid, index=True, unique=True)
    job_id: Mapped[int | None] = mapped_column(ForeignKey("jobs.id"), index=True)
    machine: Mapped[str] = mapped_column(String(60), default="", server_default="", index=True)
    kind: Mapped[str] = mapped_column(String(20))
    document: Mapped[Document]
    made_at: Mapped[datetime] = mapped_column(default=now)


class TickRow(Base):
    """A step of the run sheet that has been done."""

    __tablename__ = "ticks"
    __table_args__ = (UniqueConstraint("job_id", "step"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("jobs.id"), index=True)
    step: Mapped[str] = mapped_column(String(60))
    done_at: Mapped[datetime] = mapped_column(default=now)
