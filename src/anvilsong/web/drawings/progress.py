"""Each skill over the weeks: a line of mean scores, in rows of one scale."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from anvilsong.core.practice.progress import COUNTED, Counted, Week
from anvilsong.core.words import sentence
from anvilsong.web.drawings.svg import Drawing, Drawn, Point

WIDTH, LEFT, RIGHT, ROW, TOP = 640.0, 150.0, 610.0, 84.0, 18.0
HIGH = 52.0  # of a row, from 0 to 100 %
LEAST_DAYS = 28.0


def progress_drawing(weeks: Mapping[Counted, Sequence[Week]]) -> Drawn:
    """The skills that were practised."""
    every = [week.monday for of in weeks.values() for week in of]
    first, last = min(every), max(every)
    days = max((last - first).days, LEAST_DAYS)
    told = sentence(
        "web.progress_told", skills=", ".join(COUNTED[skill] for skill in weeks), weeks=len(set(every))
    )
    drawing = Drawing(
        WIDTH, TOP + ROW * len(weeks) + 24, sentence("web.progress_title"), told, "practice-weeks"
    )
    for number, (skill, of) in enumerate(weeks.items()):
        bottom = TOP + ROW * number + HIGH

        def at(week: Week, bottom: float = bottom) -> Point:
            across = LEFT + (RIGHT - LEFT) * (week.monday - first).days / days
            return across, bottom - HIGH * week.score / 100

        drawing.line((LEFT, bottom), (RIGHT, bottom), "trade-axis")
        drawing.line((LEFT, bottom - HIGH), (RIGHT, bottom - HIGH), "progress-whole")
        drawing.text((LEFT - 12, bottom - HIGH / 2 + 5), COUNTED[skill], "label", "end")
        drawing.polyline([at(week) for week in of], "pedal-hand")
        for week in of:
            drawing.circle(at(week), 4, "trade-here")
        x, y = at(of[-1])
        drawing.text((min(x + 10, RIGHT - 20), y - 8), f"{of[-1].score:.0f} %", "label halo")
    foot = TOP + ROW * len(weeks) + 8
    drawing.text((LEFT, foot), f"{first:%d %b %Y}", "label")
    if last > first:
        drawing.text(
            (LEFT + (RIGHT - LEFT) * (last - first).days / days, foot), f"{last:%d %b}", "label", "end"
        )
    return drawing.render()
