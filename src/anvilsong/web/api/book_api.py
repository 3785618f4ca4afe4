"""What the logbook keeps, to be read by other programs: jobs, coupons, recipes and runs, page by page."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Annotated

from fastapi import APIRouter, Query, Request
from pydantic import BaseModel, Field
from sqlalchemy import func, select
from sqlalchemy.orm import Session, selectinload

from anvilsong.core.bead import Looks, Readings
from anvilsong.core.job import Job
from anvilsong.core.said import in_units
from anvilsong.core.settings import Settings
from anvilsong.core.shop import PartRun, State
from anvilsong.core.words import sentence
from anvilsong.store import part_runs, recipes
from anvilsong.store.kept_models import PartRunRow
from anvilsong.store.lines import JOB_STATES, Narrowed, book_page
from anvilsong.store.models import CouponRow
from anvilsong.store.narrowing import JobState
from anvilsong.store.reading import readable
from anvilsong.web.api.bodies import PROBLEMS

router = APIRouter(tags=["logbook"])

A_PAGE = 50
PageOf = Annotated[int, Query(ge=1, le=10**6, description=in_units(sentence("web.pages_begin_at_one")))]
OfJob = Annotated[int | None, Query(ge=1, le=2**53, description=in_units(sentence("web.of_one_job")))]


class Paged(BaseModel):
    """One page of something, and how much there is."""

    page: int = Field(ge=1)
    pages: int = Field(ge=1)
    count: int = Field(ge=0)


class JobLine(BaseModel):
    """A job as its newest version has it; null where what is stored cannot be read."""

    id: int
    uid: str
    title: str
    welder: str
    changed_at: datetime
    state: JobState | None
    revision: int | None
    job: Job | None
    settings: Settings | None
    refused: bool
    coupons: int


class JobLines(Paged):
    jobs: list[JobLine]


class JobsAsked(BaseModel):
    """Which jobs: of a machine, a joint, an alloy, in a state, with a sheet between two thicknesses, changed
    since a moment (UTC).
    """

    q: str = Field("", max_length=200)
    machine: str = Field("", max_length=200)
    joint: str = Field("", max_length=200)
    alloy: str = Field("", max_length=200)
    state: JobState | None = None
    thinnest_mm: float | None = Field(None, ge=0, le=1000)
    thickest_mm: float | None = Field(None, ge=0, le=1000)
    since: datetime | None = None
    page: int = Field(1, ge=1, le=10**6, description=in_units(sentence("web.pages_begin_at_one")))

    @property
    def narrowed(self) -> Narrowed:
        """The same for the logbook's list."""
        since = self.since
        return Narrowed(
            machine=self.machine,
            joint=self.joint,
            alloy=self.alloy,
            since=since.astimezone(UTC).replace(tzinfo=None) if since is not None and since.tzinfo else since,
            thickness_mm=(self.thinnest_mm, self.thickest_mm),
            state=self.state,
        )


class CouponLine(BaseModel):
    """A coupon with its newest readings, mm and s; ``as_wanted`` is whether nothing was left to change."""

    id: int
    uid: str
    job_id: int
    number: int
    revision: int
    machine: str
    kit: str
    made_at: datetime
    left_out: bool
    as_wanted: bool
    readings: Readings | Looks | None


class CouponLines(Paged):
    coupons: list[CouponLine]


class RecipeLine(BaseModel):
    """A recipe as its newest version; its number is that of the version."""

    id: int
    name: str
    job_id: int
    revision: int
    versions: int
    tags: list[str]
    favourite: bool
    retired: bool
    state: State
    job: Job | None
    settings: Settings | None


class RecipeLines(Paged):
    recipes: list[RecipeLine]


class RunLine(BaseModel):
    """A weld on a part."""

    id: int
    uid: str
    job_id: int
    job_title: str
    revision: int
    made_at: datetime
    run: PartRun


class RunLines(Paged):
    runs: list[RunLine]


@router.get("/api/jobs", response_model=JobLines, responses=PROBLEMS)
def read_jobs(request: Request, asked: Annotated[JobsAsked, Query()]) -> JobLines:
    """Jobs, newest change first: with every word of ``q``, and narrowed as the logbook's page is."""
    with request.app.state.sessions() as session:
        found = book_page(session, asked.q, False, asked.page, asked.narrowed)
    lines = [
        JobLine(
            id=line.job_id, uid=line.uid, title=line.title, welder=line.welder, revision=line.revision,
            changed_at=line.changed_at.replace(tzinfo=UTC), job=line.job,
            state=line.state if line.state in JOB_STATES else None,
            settings=line.settings, refused=line.refused, coupons=line.coupons,
        )
        for line in found.lines
    ]  # fmt: skip
    return JobLines(page=found.number, pages=found.pages, count=found.jobs, jobs=lines)


def _paged(count: int, page: int) -> tuple[int, int]:
    """The page that is shown, and how many there are."""
    pages = max(1, -(-count // A_PAGE))
    return min(page, pages), pages


@router.get("/api/coupons", response_model=CouponLines, responses=PROBLEMS)
def read_coupons(request: Request, job: OfJob = None, page: PageOf = 1) -> CouponLines:
    """Coupons, the newest first; of one job where it is named."""
    with request.app.state.sessions() as session:
        fits = [CouponRow.job_id == job] if job is not None else []
        count = session.scalar(select(func.count()).select_from(CouponRow).where(*fits)) or 0
        number, pages = _paged(count, page)
        asked = (
            select(CouponRow)
            .where(*fits)
            .order_by(CouponRow.id.desc())
            .limit(A_PAGE)
            .offset((number - 1) * A_PAGE)
            .options(selectinload(CouponRow.readings), selectinload(CouponRow.plan))
        )
        lines = [_coupon(row) for row in session.scalars(asked)]
    return CouponLines(page=number, pages=pages, count=count, coupons=lines)


def _coupon(row: CouponRow) -> CouponLine:
    newest = row.readings[-1] if row.readings else None
    document = newest.document if newest is not None else {}
    return CouponLine(
        id=row.id,
        uid=row.uid,
        job_id=row.job_id,
        number=row.number,
        revision=row.plan.revision,
        machine=row.machine,
        kit=row.kit,
        made_at=row.made_at.replace(tzinfo=UTC),
        left_out=row.left_out,
        as_wanted=newest is not None and newest.change.get("kind") == "keep",
        readings=readable(Readings, document) or readable(Looks, document),
    )


@router.get("/api/recipes", response_model=RecipeLines, responses=PROBLEMS)
def read_recipes(request: Request, page: PageOf = 1) -> RecipeLines:
    """Recipes by name, each as its newest version."""
    with request.app.state.sessions() as session:
        heads = recipes.heads(session)
        number, pages = _paged(len(heads), page)
        lines = [
            RecipeLine(
                id=one.plan_id, name=one.name, job_id=one.job_id, revision=one.revision, tags=list(one.tags),
                versions=one.versions, favourite=one.favourite, retired=one.retired, job=one.job,
                settings=one.settings, state=one.proof.state,
            )
            for one in recipes.recipes(session, heads[(number - 1) * A_PAGE : number * A_PAGE])
        ]  # fmt: skip
    return RecipeLines(page=number, pages=pages, count=len(heads), recipes=lines)


@router.get("/api/runs", response_model=RunLines, responses=PROBLEMS)
def read_runs(request: Request, job: OfJob = None, page: PageOf = 1) -> RunLines:
    """Welds on parts, the newest first; of one job where it is named."""
    with request.app.state.sessions() as session:
        count = _count_runs(session, job)
        number, pages = _paged(count, page)
        found = part_runs.runs(session, job, limit=A_PAGE, skip=(number - 1) * A_PAGE)
        lines = [
            RunLine(
                id=row.id, uid=row.uid, job_id=row.job_id, job_title=title, revision=row.revision,
                made_at=row.made_at.replace(tzinfo=UTC), run=run,
            )
            for row, title, run in found
        ]  # fmt: skip
    return RunLines(page=number, pages=pages, count=count, runs=lines)


def _count_runs(session: Session, job: int | None) -> int:
    asked = select(func.count()).select_from(PartRunRow)
    return session.scalar(asked if job is None else asked.where(PartRunRow.job_id == job)) or 0
