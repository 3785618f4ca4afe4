"""A current trace: two mean cycles with the wave that was fitted, large."""

from __future__ import annotations

from collections.abc import Sequence

from anvilsong.core.arc.waveform import Shape
from anvilsong.core.flow import TracePicture, TraceReading
from anvilsong.core.words import sentence
from anvilsong.web.drawings.svg import Drawing, Drawn, Point
from anvilsong.web.drawings.wave import half_wave

WIDTH, HEIGHT, LEFT, RIGHT, TOP, BOTTOM = 900.0, 330.0, 8.0, 892.0, 34.0, 296.0


def cycles_drawing(reading: TraceReading, picture: TracePicture) -> Drawn:
    """The mean cycle twice: what was measured as points, and the fitted wave where its shapes were told."""
    drawing = Drawing(
        WIDTH,
        HEIGHT,
        sentence("web.trace_cycles_title"),
        sentence("web.trace_cycles_told", points=len(picture.cycle)),
        "drawing wave large trace-cycles",
    )
    most = max(max(amps for _, amps in picture.cycle), 1e-9)
    least = min(min(amps for _, amps in picture.cycle), -1e-9)
    scale = (BOTTOM - TOP) / (most - least)

    def at(cycles: float, amps: float) -> Point:
        return LEFT + cycles * (RIGHT - LEFT) / 2, TOP + (most - amps) * scale

    for path, css in _fitted(reading):
        for cycle in (0, 1):
            placed = [at(cycle + place, amps) for place, amps in path]
            drawing.polygon(placed, css)
            drawing.polyline(placed, "wave-line")
    for cycle in (0, 1):
        for place, amps in picture.cycle:
            drawing.circle(at(cycle + place, amps), 2.2, "trace-dot")
    zero = at(0, 0)[1]
    drawing.line((LEFT, zero), (RIGHT, zero), "zero-line")
    unit = " A" if reading.is_scaled else ""
    ep, en = (f"{amps:.4g}{unit}" for amps in (most, -least))
    drawing.text((LEFT, TOP - 14), sentence("web.trace_ep", amps=ep), "label frost-ink")
    drawing.text((RIGHT, HEIGHT - 6), sentence("web.trace_en", amps=en), "label ember-ink", "end")
    if reading.frequency_hz is not None:
        drawing.text((RIGHT, TOP - 14), f"{1000 / reading.frequency_hz.value:.2f} ms a cycle", "label", "end")
    return drawing.render()


def _fitted(reading: TraceReading) -> list[tuple[Sequence[Point], str]]:
    """Both halves of the fitted wave over one cycle from 0 to 1, in amps; a half whose shape is open is not
    drawn.
    """
    if reading.ep_share is None or reading.ep_a is None or reading.en_a is None:
        return []
    share = reading.ep_share.value
    halves: tuple[tuple[Shape | None, float, float, float, str], ...] = (
        (reading.shape_ep, 0.0, share, reading.ep_a.value, "frost-fill"),
        (reading.shape_en, share, 1 - share, -reading.en_a.value, "ember-fill"),
    )
    return [
        ([(begin + u * wide, height * amps) for u, height in half_wave(shape)], css)
        for shape, begin, wide, amps, css in halves
        if shape is not None
    ]
