"""Amps over time under a trigger, with the presses that make them under it."""

from __future__ import annotations

from itertools import pairwise

from anvilsong.core.prep import Course
from anvilsong.core.words import sentence
from anvilsong.web.drawings.svg import Drawing, Drawn

WIDTH, HEIGHT, LEFT, RIGHT, EDGE, PRESSES = 760.0, 300.0, 58.0, 16.0, 24.0, 96.0
LEAST_SHARE = 0.05  # of the width, for what is short: every stretch can be seen
NARROW = 46.0


def course_drawing(course: Course, words: str) -> Drawn:
    """The course from left to right. Short stretches are drawn wider than they last, so that each can be
    seen: times stand in words beside the drawing.
    """
    ends = sorted({0.0, course.end_s, *(t for s in course.stretches for t in (s.begin_s, s.end_s))})
    gaps = [end - begin for begin, end in pairwise(ends)]
    shares = [max(gap / course.end_s, LEAST_SHARE) for gap in gaps]
    scale = (WIDTH - LEFT - RIGHT) / sum(shares)
    places = [LEFT]
    for share in shares:
        places.append(places[-1] + share * scale)
    top = 1.1 * max(amps for _, amps in course.corners)
    ground = HEIGHT - PRESSES

    def x(time_s: float) -> float:
        for place, (begin, end) in enumerate(pairwise(ends)):
            if time_s <= end:
                return places[place] + (places[place + 1] - places[place]) * (time_s - begin) / (end - begin)
        return places[-1]

    def y(amps: float) -> float:
        return EDGE + (ground - EDGE) * (1 - amps / top)

    drawing = Drawing(
        WIDTH,
        HEIGHT,
        words,
        sentence("web.course_drawn", control=words.lower(), end_s=course.end_s),
        "drawing course",
    )
    drawing.rect(x(0), ground + 30, x(course.end_s) - x(0), 12, "gas-bar")
    drawing.text((LEFT - 4, ground + 41), "gas", "label small", "end")
    drawing.line((LEFT, ground), (WIDTH - RIGHT, ground), "zero-line")
    drawing.polyline([(x(time), y(amps)) for time, amps in course.corners], "course-line")
    marked = dict.fromkeys(round(amps) for _, amps in course.corners if amps > 0)
    for amps in marked:
        drawing.text((LEFT - 4, y(amps) + 5), f"{amps} A", "label small", "end")
        drawing.line((LEFT, y(amps)), (LEFT + 8, y(amps)), "trend-rule")
    for press in course.presses:
        wide = max(x(press.end_s) - x(press.begin_s), 8.0)
        drawing.rect(x(press.begin_s), ground + 56, wide, 16, "press-bar")
        drawing.text((x(press.begin_s) + wide / 2, HEIGHT - 4), press.words, "label small", "middle")
    drawing.text(
        (LEFT - 4, ground + 70),
        "switch" if course.presses[0].words != "pedal" else "pedal",
        "label small",
        "end",
    )
    for number, stretch in enumerate(course.stretches, 1):
        middle = (x(stretch.begin_s) + x(stretch.end_s)) / 2
        if x(stretch.end_s) - x(stretch.begin_s) > 14:
            drawing.text((middle, ground + 20), str(number), "label small", "middle")
    return drawing.render()
