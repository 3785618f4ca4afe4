"""What the job's own part does, for the pages that set amps: from the newest one that was computed."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy.orm import Session

from anvilsong.core import say
from anvilsong.core.model import situation
from anvilsong.core.warming import FIRST_PLACE, LAST_PLACE, PartResult
from anvilsong.core.warming.job_arc import foot_amps
from anvilsong.store import heat_runs
from anvilsong.web.job_view import JobView
from anvilsong.web.part_words import reached_words

SAME = 0.02


@dataclass(frozen=True)
class OnPart:
    """Amps under the foot along each run, at the settings that the page shows."""

    run_id: int
    runs: list[list[tuple[str, float, float]]]
    """Of each run three places: words, amps, and the share of the ceiling."""
    reached: list[str]


def on_part(session: Session, view: JobView) -> OnPart | None:
    """None where no part was computed, or it was for another pool, travel or ceiling: its foot tells nothing
    here then.
    """
    row = heat_runs.newest_heat_run(session, view.row.id, finished=True)
    result = heat_runs.result_of(row)
    if row is None or result is None or view.plan.refused:
        return None
    ceiling, at = view.settings.amps_set, situation(view.job)
    here = (ceiling, view.settings.travel_mm_s, foot_amps(at, view.settings, view.c).amps(1.0))
    then = (result.ceiling_a, result.run.travel_mm_s, result.foot.amps(1.0))
    if any(abs(was / now - 1) > SAME for was, now in zip(then, here, strict=True)):
        return None
    reached = [reached_words(result, trace) for trace in result.run.runs]
    if not result.has_pedal:
        return OnPart(row.id, _slope(result), reached)
    runs = []
    for trace in result.run.runs:
        whole = trace.way_mm[-1]
        places = (
            ("once it moves", FIRST_PLACE * whole),
            (f"after {say.mm(whole / 2, 0)}", whole / 2),
            ("at the end", LAST_PLACE * whole),
        )
        amps = [(words, result.foot.amps(trace.share_at(way))) for words, way in places]
        runs.append([(words, amp, amp / ceiling) for words, amp in amps])
    return OnPart(row.id, runs, reached)


def _slope(result: PartResult) -> list[list[tuple[str, float, float]]]:
    """With a torch switch: what the last run's amps would have to do, where the pool does not stay by
    itself.
    """
    if result.rested is None or result.held is None:
        return []
    first, last = (result.foot.amps(share) for share in result.held)
    places = (("to hold the pool at first", first), ("half way", (first + last) / 2), ("at the end", last))
    return [[(words, amps, amps / result.ceiling_a) for words, amps in places]]
