"""A recording of an arc: how loud it was along its time, and what happened in it."""

from __future__ import annotations

from anvilsong.core.flow import SoundReading
from anvilsong.core.words import sentence
from anvilsong.web.drawings.svg import Drawing, Drawn

WIDTH, HEIGHT, LEFT, RIGHT, TOP, BOTTOM = 900.0, 190.0, 8.0, 892.0, 30.0, 150.0
LOWEST_DB = -40.0
MARKS = {"lit": "frost-ink", "out": "ember-ink", "louder": "label", "quieter": "label"}
MOST_MARKS, APART = 12, 70.0


def loudness_drawing(reading: SoundReading) -> Drawn:
    """The level from 40 dB under the loudest up to it; where the arc lit, went out or changed is marked."""
    drawing = Drawing(
        WIDTH,
        HEIGHT,
        sentence("web.sound_along_title"),
        sentence("web.sound_along_told", seconds=reading.seconds, arc_s=reading.arc_s),
        "drawing sound-along",
    )
    whole, levels = max(reading.seconds, 1e-6), reading.loudness_db or (0.0,)

    def across(time_s: float) -> float:
        return LEFT + min(max(time_s / whole, 0.0), 1.0) * (RIGHT - LEFT)

    def height(db: float) -> float:
        return BOTTOM - (max(db, LOWEST_DB) / -LOWEST_DB + 1) * (BOTTOM - TOP)

    path = [
        (LEFT + (n + 0.5) / len(levels) * (RIGHT - LEFT), height(level)) for n, level in enumerate(levels)
    ]
    drawing.polygon([(LEFT, BOTTOM), *path, (RIGHT, BOTTOM)], "sound-level")
    drawing.line((LEFT, BOTTOM), (RIGHT, BOTTOM), "axis")
    last = -APART
    for event in reading.events[:MOST_MARKS]:
        x = across(event.at_s)
        drawing.line((x, TOP - 8), (x, BOTTOM), "sound-event")
        if x - last >= APART and x < RIGHT - APART:
            drawing.text((x + 5, TOP - 10), _words(event.kind), MARKS[event.kind])
            last = x
    drawing.text((LEFT, HEIGHT - 12), "0 s", "label")
    drawing.text((RIGHT, HEIGHT - 12), f"{reading.seconds:.1f} s", "label", "end")
    return drawing.render()


def _words(kind: str) -> str:
    return {"lit": "lights", "out": "goes out", "louder": "louder", "quieter": "quieter"}[kind]
