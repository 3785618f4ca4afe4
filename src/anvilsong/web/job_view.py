"""Everything a page of a job shows around its own content: the plan, the set line, the stations."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from fastapi import HTTPException
from sqlalchemy.orm import Session

from anvilsong.core.coefficients import Coefficients, nominal
from anvilsong.core.errors import BadInput
from anvilsong.core.job import Job
from anvilsong.core.joint import find_joint
from anvilsong.core.machine import Machine
from anvilsong.core.model import Plan, Situation, situation
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.torch.kit import Kit
from anvilsong.core.units import UnitSystem
from anvilsong.core.words import sentence
from anvilsong.store import book, coupons, shop
from anvilsong.store.book import ReadPlan, Revision
from anvilsong.store.models import CouponRow, JobRow, PlanRow
from anvilsong.web.requests import whole
from anvilsong.web.set_line import SetFigure, set_line


@dataclass(frozen=True)
class Station:
    key: str
    number: int
    words: str
    state: str
    mark: str
    address: str


class UnreadableJob(Exception):
    """What is stored of a job's revision is damaged beyond working it out again."""

    def __init__(self, row: JobRow, plan_row: PlanRow | None, revisions: Sequence[Revision] = ()) -> None:
        self.row, self.plan_row, self.revisions = row, plan_row, revisions


@dataclass(frozen=True)
class JobView:
    """Everything a page of a job shows around its own content."""

    row: JobRow
    plan_row: PlanRow
    job: Job
    machine: Machine
    plan: Plan
    planned: Settings | None
    set_line: list[SetFigure]
    stations: list[Station]
    revisions: list[Revision]
    coupons: int
    """How many coupons there are."""
    notices: list[Words] = field(default_factory=list)
    """What of this job could not be read, and what is shown instead."""

    @property
    def settings(self) -> Settings:
        """The settings; only pages that have checked for a refusal ask."""
        assert self.plan.settings is not None
        return self.plan.settings

    @property
    def c(self) -> Coefficients:
        """The coefficients that this revision was made with."""
        return self.plan.coefficients or nominal()

    @property
    def situation(self) -> Situation:
        """The job as numbers."""
        return situation(self.job)

    @property
    def joint_words(self) -> str:
        return find_joint(self.job.joint).words.lower()

    @property
    def metal_words(self) -> str:
        a, b = self.job.a, self.job.b
        if (a.alloy, a.thickness_mm) == (b.alloy, b.thickness_mm):
            return (
                f"{a.thickness} {a.alloy}"
                if isinstance(a.thickness, str)
                else f"{a.thickness:g} mm {a.alloy}"
            )
        return f"{a.alloy} {a.thickness} to {b.alloy} {b.thickness}"


def job_view(
    session: Session, job_id: int, system: UnitSystem = "mm", revision: int | None = None
) -> JobView:
    """The view of a job, at a revision or the newest; 404 when there is no such job.

    Raises
    ------
    UnreadableJob : nothing of the revision can be read; ``register_errors`` makes a page of it
    """
    row = book.get_job(session, job_id)
    if row is None:
        raise HTTPException(404)
    revisions = book.revisions(session, job_id)
    wanted = book.find_plan(session, job_id, revision or None)
    if wanted is None:
        if revisions:
            raise HTTPException(404)
        raise UnreadableJob(row, None)
    read = book.read_plan(wanted)
    if read is None:
        raise UnreadableJob(row, wanted, revisions)
    planned = book.planned_settings(session, job_id, wanted.revision)
    last = coupons.find_coupons(session, job_id, 1)
    count = coupons.count_coupons(session, job_id)
    return JobView(
        row=row,
        plan_row=wanted,
        job=read.plan.job,
        machine=read.machine,
        plan=read.plan,
        planned=planned,
        set_line=set_line(read.plan, planned, read.machine, system) if read.plan.settings else [],
        stations=_stations(row, read.plan, revisions, count, last[0] if last else None),
        revisions=revisions,
        coupons=count,
        notices=list(read.notices),
    )


def opened_plan(session: Session, job_id: int, given: str | None) -> tuple[JobRow, PlanRow, ReadPlan]:
    """The job and the revision that a form was opened on, without what its page shows around them.

    Raises
    ------
    BadInput, UnreadableJob : as ``opened_view``
    """
    row, revision = session.get(JobRow, job_id), whole(given)
    if row is None:
        raise HTTPException(404)
    wanted = book.find_plan(session, job_id, revision or None)
    read = book.read_plan(wanted) if wanted is not None else None
    if wanted is None or read is None:
        view = opened_view(session, job_id, given)  # says what is wrong
        return view.row, view.plan_row, ReadPlan(view.plan, view.machine)
    return row, wanted, read


def opened_view(session: Session, job_id: int, given: str | None, system: UnitSystem = "mm") -> JobView:
    """The view that a form was opened on, by the revision it carries; the newest where it carries none.

    Raises
    ------
    BadInput : the revision is not there any more; the form comes back on the newest, with what was typed
    """
    revision = whole(given)
    if revision and book.find_plan(session, job_id, revision) is None and book.get_job(session, job_id):
        raise BadInput.one(
            "revision",
            f"version {revision}",
            sentence("web.gone_from_logbook_what"),
        )
    return job_view(session, job_id, system, revision)


def kit_of(session: Session, view: JobView) -> Kit:
    """The kit a job names; everything on the shelf, and a word about it, when that kit cannot be had."""
    try:
        return shop.find_kit(session, view.job.kit)
    except BadInput:
        view.notices.append(sentence("web.kit_not_workshop_cannot", kit=view.job.kit))
        return Kit()


# How the newest version came about, in a word for the rail.
ORIGINS = {
    "plan": "as planned",
    "tuned": "by you",
    "rung": "next change",
    "recipe": "recipe",
    "swap": "from a memory",
}


def _stations(
    row: JobRow, plan: Plan, revisions: Sequence[Revision], run: int, last: CouponRow | None
) -> list[Station]:
    base = f"/jobs/{row.id}"
    steps = [step for step in plan.run_sheet if step.station == "prep"]
    torch = [step for step in plan.run_sheet if step.station == "torch"]
    ticked = {tick.step for tick in row.ticks}
    done, torch_done = (
        sum(f"{step.station}:{step.key}" in ticked for step in group) for group in (steps, torch)
    )
    stops = sum(warning.level == "stop" for warning in plan.warnings)
    verdict, keep = _last_read(last) if last else ("no coupon", False)
    rows = [
        (
            "job",
            "Job",
            "look" if plan.refused else "done",
            "refused" if plan.refused else f"version {len(revisions)}",
        ),
        ("prep", "Prep", _state(done, len(steps)), f"{done} of {len(steps)}" if steps else "—"),
        ("torch", "Torch", _state(torch_done, len(torch)), f"{torch_done} of {len(torch)}" if torch else "—"),
        (
            "tune",
            "Tune",
            "look" if stops else "open",
            f"{stops} stop" if stops else ORIGINS.get(revisions[-1].origin, "") if not plan.refused else "—",
        ),
        ("coupon", "Coupon", "done" if last else "open", f"{run} run" if last else "none yet"),
        ("read", "Result", "done" if keep else "look" if last else "open", verdict),
    ]
    return [
        Station(key, number, words, state, mark, f"{base}/{key}")
        for number, (key, words, state, mark) in enumerate(rows, 1)
    ]


def _last_read(coupon: CouponRow) -> tuple[str, bool]:
    """The newest coupon's border in words, and whether its settings are to be kept."""
    reading = coupon.readings[-1] if coupon.readings else None
    state = reading.verdict.get("border_state", "") if reading else ""
    state = "by sight" if state is None else state  # looked at, and no border measured
    change = reading.change.get("kind") if reading else None
    return str(state or "not readable").replace("_", " "), change == "keep"


def _state(done: int, all_of_them: int) -> str:
    return "done" if all_of_them and done == all_of_them else "open"
