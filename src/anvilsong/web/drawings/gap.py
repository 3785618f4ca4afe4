"""The gap closing, one small section a step, to scale."""

from __future__ import annotations

from anvilsong.core import say
from anvilsong.core.prep import GapStep
from anvilsong.web.drawings.svg import Drawing, Drawn

WIDTH, HEIGHT = 150.0, 84.0


def gap_drawing(step: GapStep, gap_mm: float, thickness_mm: float) -> Drawn:
    """Two edges, what has been built on them, and what is still open after this step."""
    scale = min(WIDTH / (4.5 * gap_mm), 0.4 * HEIGHT / thickness_mm)
    drawing = Drawing(
        WIDTH,
        HEIGHT,
        f"After: {step.kind}",
        say.joined(say.mm(step.gap_left_mm), " of ", say.size(gap_mm), " still open"),
        "drawing gap-step",
    )
    middle, top, deep = WIDTH / 2, HEIGHT * 0.16, thickness_mm * scale
    half = gap_mm / 2 * scale
    drawing.rect(0, top, middle - half, deep, "plate")
    drawing.rect(middle + half, top, middle - half, deep, "plate side-b")
    grown = [built * scale for built in step.built_mm]
    for place, width in ((middle - half - 1.5, grown[0]), (middle + half - grown[1], grown[1])):
        if width > 0.3:
            drawing.rect(place, top - 2.5, width + 1.5, deep + 5, "layer fill", 3)
    words = "closed" if step.gap_left_mm <= 0 else say.mm(step.gap_left_mm)
    drawing.text((middle, HEIGHT - 6), words, "label strong", "middle")
    return drawing.render()
