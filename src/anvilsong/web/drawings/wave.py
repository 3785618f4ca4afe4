"""The current over two cycles: ember below the zero line heats the work, frost above it cleans."""

from __future__ import annotations

import numpy as np

from anvilsong.core.arc.waveform import SOFT_EDGE, TRAPEZOID_EDGE, Shape
from anvilsong.core.settings import Settings
from anvilsong.web.drawings.svg import Drawing, Point

WIDTH, HEIGHT = 440.0, 190.0
LEFT, RIGHT, TOP, BOTTOM = 8.0, 432.0, 24.0, 166.0


def half_wave(shape: Shape, steps: int = 24) -> list[Point]:
    """A unit half from (0, 0) to (1, 0)."""
    x = np.linspace(0, 1, steps + 1)
    match shape:
        case "square":
            return [(0, 0), (0, 1), (1, 1), (1, 0)]
        case "trapezoid":
            return [(0, 0), (TRAPEZOID_EDGE, 1), (1 - TRAPEZOID_EDGE, 1), (1, 0)]
        case "triangle":
            return [(0, 0), (0.5, 1), (1, 0)]
        case "sine":
            return list(zip(x.tolist(), np.sin(np.pi * x).tolist(), strict=True))
    edge = np.minimum(np.minimum(x, 1 - x) / SOFT_EDGE, 1)
    return list(zip(x.tolist(), ((1 - np.cos(np.pi * edge)) / 2).tolist(), strict=True))


def wave_drawing(settings: Settings) -> str:
    """Two cycles at full pedal, to scale in time and amps."""
    share, amps, ep = settings.ep_share, settings.amps_set, settings.amps_set * (1 + settings.ep_trim)
    words = f"{ep:.0f} A electrode positive for {share * 100:.0f} % of each cycle, {amps:.0f} A electrode negative for the rest, {settings.frequency_hz:.0f} cycles a second"
    drawing = Drawing(WIDTH, HEIGHT, "The wave, two cycles", words, "drawing wave")
    scale = (BOTTOM - TOP) / (amps + ep)
    zero, cycle = TOP + ep * scale, (RIGHT - LEFT) / 2
    for start in (LEFT, LEFT + cycle):
        for shape, x0, length, height, css in (
            (settings.shape_ep, start, share * cycle, ep, "frost-fill"),
            (settings.shape_en, start + share * cycle, (1 - share) * cycle, -amps, "ember-fill"),
        ):
            path = [(x0 + x * length, zero - y * height * scale) for x, y in half_wave(shape)]
            drawing.polygon(path, css)
            drawing.polyline(path, "wave-line")
    drawing.line((LEFT - 6, zero), (RIGHT + 6, zero), "zero-line")
    drawing.text((LEFT, TOP - 7), f"{ep:.0f} A cleans, {share * 100:.0f} % of the time", "label frost-ink")
    drawing.text((RIGHT, HEIGHT - 6), f"{amps:.0f} A heats the work", "label ember-ink", "end")
    drawing.text((RIGHT, TOP - 7), f"{1000 / settings.frequency_hz:.1f} ms a cycle", "label", "end")
    return drawing.render()
