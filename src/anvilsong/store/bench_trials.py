"""Trials of a job at the bench. Functions take a session; the caller commits."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from sqlalchemy import func, select
from sqlalchemy.orm import Session, selectinload

from anvilsong.core.bead import Looks
from anvilsong.core.errors import BadInput
from anvilsong.core.job import Job
from anvilsong.core.trials import (
    MOST_OF_A_RUN,
    Blind,
    Proposals,
    Series,
    SoundTest,
    SpotTest,
    StartTest,
    TraceTest,
)
from anvilsong.core.words import sentence
from anvilsong.store import attachments, book, coupons
from anvilsong.store.columns import Document
from anvilsong.store.exchange_format import MOST_TRIALS
from anvilsong.store.looks import looks_of
from anvilsong.store.models import BenchTrialRow, CouponRow, JobRow, PlanRow
from anvilsong.store.reading import document, readable


def add_trial(session: Session, row: JobRow, made: Series | Blind) -> BenchTrialRow:
    """A series that is to be run, or a blind judgement that is to be made.

    Raises
    ------
    BadInput : the job has as many trials as a logbook keeps of one
    """
    count = session.scalar(select(func.count()).where(BenchTrialRow.job_id == row.id)) or 0
    if count >= MOST_TRIALS:
        raise BadInput.one("title", made.title, sentence("store.too_many_trials", most=MOST_TRIALS))
    trial = BenchTrialRow(job_id=row.id, kind=made.kind, document=document(made))
    session.add(trial)
    session.flush()
    return trial


def add_machine_trial(
    session: Session, machine: str, made: SpotTest | StartTest | Proposals | TraceTest | SoundTest
) -> BenchTrialRow:
    """A test of a machine's arc, or the table of what its panel proposes."""
    trial = BenchTrialRow(machine=machine, kind=made.kind, document=document(made))
    session.add(trial)
    session.flush()
    return trial


def newest_of_machine(session: Session, machine: str, kind: str) -> BenchTrialRow | None:
    """The newest test of a kind on a machine."""
    chosen = select(BenchTrialRow).where(
        BenchTrialRow.machine == machine, BenchTrialRow.kind == kind, BenchTrialRow.job_id.is_(None)
    )
    return session.scalar(chosen.order_by(BenchTrialRow.id.desc()).limit(1))


def spots_of(trial: BenchTrialRow | None) -> SpotTest | None:
    """A test with stationary arcs; None where it cannot be read."""
    return readable(SpotTest, trial.document) if trial is not None else None


def trace_of(trial: BenchTrialRow | None) -> TraceTest | None:
    """A current trace; None where it cannot be read."""
    return readable(TraceTest, trial.document) if trial is not None and trial.kind == "trace" else None


def newest_traces(session: Session, machine: str, most: int) -> list[tuple[BenchTrialRow, TraceTest]]:
    """The newest traces of a machine that can be read, the newest first."""
    return [
        (row, test)
        for row in _newest(session, machine, "trace", most)
        if (test := readable(TraceTest, row.document)) is not None
    ]


def newest_sounds(session: Session, machine: str, most: int) -> list[tuple[BenchTrialRow, SoundTest]]:
    """The newest recordings of a machine's arc that can be read, the newest first."""
    return [
        (row, test)
        for row in _newest(session, machine, "sound", most)
        if (test := readable(SoundTest, row.document)) is not None
    ]


def _newest(session: Session, machine: str, kind: str, most: int) -> Sequence[BenchTrialRow]:
    chosen = select(BenchTrialRow).where(
        BenchTrialRow.machine == machine, BenchTrialRow.kind == kind, BenchTrialRow.job_id.is_(None)
    )
    return session.scalars(chosen.order_by(BenchTrialRow.id.desc()).limit(most)).all()


def keep_reading(session: Session, trial: BenchTrialRow, test: TraceTest | SoundTest) -> None:
    """A trace or a recording with another mark on it."""
    trial.document = document(test)
    session.flush()


def proposals_of(session: Session, machine: str) -> Proposals:
    """What a machine's panel proposes, as it was typed last; an empty table where nobody typed one."""
    trial = newest_of_machine(session, machine, "proposals")
    table = readable(Proposals, trial.document) if trial is not None else None
    return table or Proposals()


def find_trial(session: Session, job_id: int, trial_id: int) -> BenchTrialRow | None:
    """A trial of a job by its number."""
    return session.scalar(
        select(BenchTrialRow).where(BenchTrialRow.id == trial_id, BenchTrialRow.job_id == job_id)
    )


def trials_of(session: Session, job_id: int, kind: str) -> list[BenchTrialRow]:
    """The trials of a job of one kind, the newest first."""
    chosen = select(BenchTrialRow).where(BenchTrialRow.job_id == job_id, BenchTrialRow.kind == kind)
    return list(session.scalars(chosen.order_by(BenchTrialRow.id.desc())))


class OpenSeries(NamedTuple):
    """A series of which not every run has a coupon yet."""

    job_id: int
    trial_id: int
    job_title: str
    title: str
    ran: int
    runs: int


def open_series(session: Session, most: int) -> list[OpenSeries]:
    """Series that wait to be run on, of jobs that were not put away, the newest first."""
    # Asked apart: together with the jobs, the database would look at every job there is.
    newest = select(BenchTrialRow).where(BenchTrialRow.kind == "series", BenchTrialRow.job_id.is_not(None))
    rows = session.scalars(newest.order_by(BenchTrialRow.id.desc()).limit(LOOKED_AT)).all()
    here = select(JobRow.id, JobRow.title).where(
        JobRow.id.in_({row.job_id for row in rows}), JobRow.put_away_at.is_(None)
    )
    titles = {row.id: row.title for row in session.execute(here)} if rows else {}
    found = []
    for row in rows:
        series = series_of(row) if row.job_id in titles else None
        ran = sum(bool(run.coupons) for run in series.runs) if series else 0
        if series is not None and row.job_id is not None and ran < len(series.runs):
            found.append(
                OpenSeries(row.job_id, row.id, titles[row.job_id], series.title, ran, len(series.runs))
            )
    return found[:most]


def series_of(trial: BenchTrialRow | None) -> Series | None:
    """The series of a trial; None where it cannot be read."""
    return readable(Series, trial.document) if trial is not None else None


def blind_of(trial: BenchTrialRow | None) -> Blind | None:
    """The blind judgement of a trial; None where it cannot be read."""
    return readable(Blind, trial.document) if trial is not None else None


def keep_blind(session: Session, trial: BenchTrialRow, blind: Blind) -> None:
    """A blind judgement with one more answer."""
    trial.document = document(blind)
    session.flush()


LOOKED_AT = 50  # series, for those that wait


class RanRow(NamedTuple):
    """A row of a series' sheet: the place of its run, what came out, the words it was typed in, and the
    photograph that figures were taken from, by its number.
    """

    place: int
    looks: Looks
    typed: Document
    photograph: int | None = None


def record_runs(session: Session, row: JobRow, trial: BenchTrialRow, rows: Sequence[RanRow]) -> None:
    """Coupons of some runs of a series, each run with a version of its own settings. What the job was set to
    before stays what it is set to: a series that is typed in changes nothing of it.

    Raises
    ------
    BadInput : a run has enough coupons, or the job was changed since the series was laid out
    """
    before = book.find_plan(session, row.id)
    for each in rows:
        _record_run(session, row, trial, each)
    after = book.find_plan(session, row.id)
    made = None if before is None else book.read_plan(before)
    if before is not None and after is not None and after.id != before.id and made is not None:
        words = sentence("store.as_before_series", revision=before.revision)
        book.add_plan(session, row, made.plan.job, "rung", words, made.plan.settings)


def check_same_job(session: Session, row: JobRow, series: Series) -> Job:
    """The job of a series, when it still is what is to be welded.

    Raises
    ------
    BadInput : the job was changed since: its settings would be those of another weld
    """
    plans = [book.find_plan(session, row.id, revision) for revision in (series.revision, None)]
    made = [None if plan is None else book.read_plan(plan) for plan in plans]
    if made[0] is None or made[1] is None:
        raise BadInput.one("series", "this series", sentence("store.what_stored_cannot_read"))
    if made[0].plan.job != made[1].plan.job:
        raise BadInput.one("series", series.title, sentence("store.job_changed_since_series"))
    return made[1].plan.job


def _record_run(session: Session, row: JobRow, trial: BenchTrialRow, ran: RanRow) -> None:
    series, place = series_of(trial), ran.place
    if series is None:
        raise BadInput.one("series", "this series", sentence("store.what_stored_cannot_read"))
    job, run = check_same_job(session, row, series), series.runs[place]
    if len(run.coupons) >= MOST_OF_A_RUN:
        raise BadInput.one("series", f"run {place + 1}", sentence("store.run_has_enough", most=MOST_OF_A_RUN))
    plan = _version(session, row, run.coupons)
    if plan is None:
        words = sentence("store.series_run", title=series.title, run=place + 1)
        plan = book.add_plan(session, row, job, "rung", words, run.settings)
    coupon = coupons.add_coupon(session, row, plan, ran.looks, ran.typed)
    picture = attachments.find_attachment(session, row.id, ran.photograph) if ran.photograph else None
    if picture is not None:
        attachments.give_to(session, picture, coupon)
    runs = list(series.runs)
    runs[place] = run.model_copy(update={"coupons": (*run.coupons, coupon.number)})
    trial.document = document(series.model_copy(update={"runs": tuple(runs)}))
    session.flush()


def _version(session: Session, row: JobRow, numbers: Sequence[int]) -> PlanRow | None:
    """The version that a run's earlier coupons were run with; None before the first."""
    coupon = coupons.find_coupon(session, row.id, numbers[0]) if numbers else None
    return coupon.plan if coupon is not None else None


def coupons_of_runs(session: Session, job_id: int, series: Series) -> list[list[tuple[CouponRow, Looks]]]:
    """The coupons of each run, as far as they can be read."""
    numbers = [number for run in series.runs for number in run.coupons]
    rows = session.scalars(
        select(CouponRow)
        .where(CouponRow.job_id == job_id, CouponRow.number.in_(numbers))
        .options(selectinload(CouponRow.readings), selectinload(CouponRow.plan))
    )
    by_number = {row.number: row for row in rows}
    return [
        [
            (coupon, looks)
            for number in run.coupons
            if (coupon := by_number.get(number)) is not None and (looks := looks_of(coupon)) is not None
        ]
        for run in series.runs
    ]
