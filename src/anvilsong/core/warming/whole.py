"""A job's part from drawing to result: as drawn, and otherwise."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from anvilsong.core.coefficients import Coefficients
from anvilsong.core.errors import BadInput
from anvilsong.core.model import Situation
from anvilsong.core.settings import Settings
from anvilsong.core.warming.compare import compared, variants
from anvilsong.core.warming.drawing import PartDrawing
from anvilsong.core.warming.job_arc import LEAST_SHARE, MOST_SHARE, arc_of, foot_amps, metal_of
from anvilsong.core.warming.result import (
    GROWS_BY,
    MOST_RESTS,
    Compared,
    Film,
    HeatRun,
    PartResult,
    Rest,
    Rested,
)
from anvilsong.core.warming.running import weld

Progress = Callable[[float], None]


def weld_part(
    at: Situation,
    settings: Settings,
    c: Coefficients,
    part: PartDrawing,
    progress: Progress = lambda share: None,
    and_others: bool = True,
) -> tuple[PartResult, Film]:
    """The part welded with a job's settings: by foot where it has a pedal, with amps that stay where it has
    not.

    ``progress`` is told the share that is done, and may raise to stop. Another way that cannot be computed,
    such as a run that would begin in a hole, is left out.
    """
    arc, metal, pedal = arc_of(at, settings, c), metal_of(at), at.job.control == "pedal"
    ways = variants(part) if and_others else []
    pieces = len(ways) + (1 if pedal else 3)

    def piece(number: int) -> Progress:
        return lambda share: progress((number + share) / pieces)

    run, film = weld(part, metal, arc, piece(0), pedal)
    held = rested = None
    if not pedal:
        free = replace(arc, most=MOST_SHARE, least=LEAST_SHARE)
        foot = weld(part, metal, free, piece(pieces - 2))[0].runs[-1]
        held = foot.first_share, foot.last_share
        if max(trace.widest_mm for trace in run.runs) > GROWS_BY * arc.width_mm:
            eased = replace(arc, most=min(arc.most, foot.first_share))
            eased = replace(eased, least=min(eased.least, eased.most))
            rested = _rested(weld(part, metal, eased, piece(pieces - 1), False, rests=True)[0], eased.most)
    others: list[Compared] = [compared("As drawn", run)] if ways else []
    for number, way in enumerate(ways, 1):
        try:
            others.append(compared(way.words, weld(way.part, metal, arc, piece(number), pedal)[0]))
        except BadInput:
            continue
    result = PartResult(
        run=run,
        others=tuple(others),
        foot=foot_amps(at, settings, c),
        ceiling_a=settings.amps_set,
        held=held,
        rested=rested,
        has_pedal=pedal,
        film=film.size,
    )
    return result, film


def _rested(run: HeatRun, share: float) -> Rested:
    """The rests of a run, unless they are too many."""
    rests = tuple(
        Rest(run=number, way_mm=way, seconds=seconds)
        for number, trace in enumerate(run.runs, 1)
        for way, seconds in trace.rests
    )
    too_many = any(len(trace.rests) >= MOST_RESTS for trace in run.runs)
    return Rested(
        share=round(share, 4),
        rests=() if too_many else rests,
        widest_mm=round(max(trace.widest_mm for trace in run.runs), 2),
        ends_s=run.ends_s,
    )
