"""What the job's own part does, for the pages that set amps: from the newest one that was computed."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy.orm import Session

from anvilsong.core import say
from anvilsong.core.model import situation
from anvilsong.core.said import Words
from anvilsong.core.warming import FIRST_PLACE, LAST_PLACE, PartResult
from anvilsong.core.warming.job_arc import REFERENCE_C, foot_amps, plate_share
from anvilsong.core.words import sentence
from anvilsong.store import book, heat_runs
from anvilsong.store.models import HeatRunRow
from anvilsong.web.job_view import JobView
from anvilsong.web.part_words import reached_words

SAME, SAME_K = 0.02, 5.0
ROD_W = 50.0  # beside which a change of the rod's heat counts


@dataclass(frozen=True)
class OnPart:
    """Amps under the foot along each run, at the settings that the page shows."""

    run_id: int
    runs: list[list[tuple[Words, float, float]]]
    """Of each run three places: words, amps, and the share of the ceiling."""
    reached: list[Words]


def changed_since(session: Session, view: JobView, row: HeatRunRow, result: PartResult) -> list[Words]:
    """What of the job and its settings is no longer as it was when a part was computed, in words; empty where
    its figures still hold.
    """
    words: list[Words] = (
        [] if row.revision == view.plan_row.revision else _of_job(session, view, row.revision)
    )
    if result.has_pedal != (view.job.control == "pedal"):
        words.append("control")
    at, settings = situation(view.job), view.settings
    now = foot_amps(at, settings, view.c)
    for what, was, is_now in (
        ("amps set", result.ceiling_a, settings.amps_set),
        ("travel", result.run.travel_mm_s, settings.travel_mm_s),
        (sentence("web.heat_pool_wants"), result.foot.pool_w, now.pool_w),
        ("heat of an ampere", result.foot.per_amp_w, now.per_amp_w),
        ("rod", result.foot.rod_w + ROD_W, now.rod_w + ROD_W),
    ):
        if abs(was / is_now - 1) > SAME:
            words.append(what)
    return words


def _of_job(session: Session, view: JobView, revision: int) -> list[Words]:
    """What differs between the job and preheat of a revision and those of now."""
    row = book.find_plan(session, view.row.id, revision)
    then = book.read_plan(row) if row is not None else None
    if then is None or then.plan.settings is None:
        return []
    was, now, words = then.plan.job, view.job, list[Words]()
    if was.a.thickness_mm != now.a.thickness_mm or was.b.thickness_mm != now.b.thickness_mm:
        words.append("thickness")
    if (was.a.alloy, was.b.alloy) != (now.a.alloy, now.b.alloy):
        words.append("alloy")
    if was.joint != now.joint:
        words.append("joint")
    warm_was, warm_now = (
        job.part_temperature_c if settings.preheat_c is None else settings.preheat_c
        for job, settings in ((was, then.plan.settings), (now, view.settings))
    )
    if abs(warm_was - warm_now) > SAME_K:
        words.append("preheat")
    return words


def plate_of(view: JobView, row: HeatRunRow) -> float:
    """Share of the foot on a plate without end that begins as warm as the part that was drawn."""
    drawing = heat_runs.part_of(row)
    return plate_share(situation(view.job), drawing.start_c if drawing else REFERENCE_C)


def on_part(session: Session, view: JobView) -> OnPart | None:
    """None where no part was computed, or job or settings have changed since: its foot tells nothing here
    then.
    """
    row = heat_runs.newest_heat_run(session, view.row.id, finished=True)
    result = heat_runs.result_of(row)
    if row is None or result is None or view.plan.refused:
        return None
    if changed_since(session, view, row, result):
        return None
    ceiling, plate = view.settings.amps_set, plate_of(view, row)
    reached = [reached_words(result, trace, plate) for trace in result.run.runs]
    if not result.has_pedal:
        return OnPart(row.id, _slope(result), reached)
    runs = list[list[tuple[Words, float, float]]]()
    for trace in result.run.runs:
        whole = trace.way_mm[-1]
        places: tuple[tuple[Words, float], ...] = (
            ("once it moves", FIRST_PLACE * whole),
            (say.joined("after ", say.mm(whole / 2, 0)), whole / 2),
            ("at the end", LAST_PLACE * whole),
        )
        amps = [(words, result.foot.amps(trace.share_at(way))) for words, way in places]
        runs.append([(words, amp, amp / ceiling) for words, amp in amps])
    return OnPart(row.id, runs, reached)


def _slope(result: PartResult) -> list[list[tuple[Words, float, float]]]:
    """With a torch switch: what the last run's amps would have to do, where the pool does not stay by
    itself.
    """
    if result.rested is None or result.held is None:
        return []
    first, last = (result.foot.amps(share) for share in result.held)
    places: tuple[tuple[Words, float], ...] = (
        (sentence("web.pool_first"), first),
        ("half way", (first + last) / 2),
        ("at the end", last),
    )
    return [[(words, amps, amps / result.ceiling_a) for words, amps in places]]
