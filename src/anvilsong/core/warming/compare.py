"""The same part otherwise: from the other end, in another order, without its block, with a pause; and what
each gains.
"""

from __future__ import annotations

from dataclasses import dataclass

from anvilsong.core.said import Words
from anvilsong.core.warming.drawing import PartDrawing
from anvilsong.core.warming.result import Compared, HeatRun
from anvilsong.core.words import sentence

PAUSE_S = 30.0


@dataclass(frozen=True)
class Variant:
    """Another way to weld a part."""

    words: Words
    part: PartDrawing


def variants(part: PartDrawing) -> list[Variant]:
    """A few other ways that are worth a try."""
    turned = tuple(run.turned for run in part.runs)
    found = [Variant("From the other end", part.model_copy(update={"runs": turned}))]
    if len(part.runs) > 1:
        found.append(Variant("In the other order", part.model_copy(update={"runs": part.runs[::-1]})))
        paused = tuple(
            run if n == 0 else run.model_copy(update={"pause_s": run.pause_s + PAUSE_S})
            for n, run in enumerate(part.runs)
        )
        words = sentence("warming.with_s_more_before", pause_s=PAUSE_S)
        found.append(Variant(words, part.model_copy(update={"runs": paused})))
    if any(shape.does == "block" for shape in part.shapes):
        bare = tuple(shape for shape in part.shapes if shape.does != "block")
        found.append(Variant("Without the block", part.model_copy(update={"shapes": bare})))
    return found


def compared(words: Words, result: HeatRun) -> Compared:
    """What a way comes to."""
    last = result.runs[-1]
    return Compared(
        words=words,
        first_share=round(result.runs[0].first_share, 3),
        last_share=round(last.last_share, 3),
        hottest_mark_c=max((mark.peak_c for mark in result.marks), default=None),
        over=sum(mark.is_over for mark in result.marks),
        ends_s=result.ends_s,
        reached_mm=result.runs[0].reached_mm,
    )
