"""A tungsten's tip with its arc, from the side and to scale, to be judged by sight."""

from __future__ import annotations

import math

from anvilsong.core.settings import Tungsten
from anvilsong.core.torch.tungsten import State
from anvilsong.core.words import sentence
from anvilsong.web.drawings.section import tungsten_markup
from anvilsong.web.drawings.svg import Drawing, Drawn, number

WIDTH, HEIGHT, FLOOR, TOP = 300.0, 250.0, 228.0, 10.0
MOST_PX_PER_MM, ARC_MM, SHANK_MM = 22.0, 3.0, 1.5


def eye_tip_drawing(tungsten: Tungsten, state: State) -> Drawn:
    """The tip over the plate: its arc stands under it, or leaves its side where it stays too cold."""
    title, told = sentence("web.eye_tip_title"), sentence("web.eye_tip_told")
    drawing = Drawing(WIDTH, HEIGHT, title, told, "drawing eye-tip")
    slope = math.tan(math.radians((tungsten.angle_deg or 45) / 2))
    tall_mm = ARC_MM + SHANK_MM + tungsten.diameter_mm * max(0.5 / slope, 1.55)
    scale = min(MOST_PX_PER_MM, (FLOOR - TOP) / tall_mm)
    middle, tip_y, radius = WIDTH / 2, FLOOR - ARC_MM * scale, tungsten.diameter_mm / 2 * scale
    drawing.rect(20, FLOOR, WIDTH - 40, 14, "plate")
    if state == "wanders":
        # Off the cone, and not to where the torch points.
        up = 0.7 * radius
        start, foot = (middle + up * slope, tip_y - up), middle + 1.2 * radius + 26
        drawing.polygon([start, (foot - 12, FLOOR), (foot + 16, FLOOR)], "eye-arc")
    else:
        wide = 0.5 * radius if state in ("balls", "melts") else 3.0
        feet = [(middle + 46, FLOOR), (middle - 46, FLOOR)]
        drawing.polygon([(middle - wide, tip_y), (middle + wide, tip_y), *feet], "eye-arc")
    # One class for every state: what it has become is seen by its shape alone.
    shape = tungsten_markup(radius, 0, TOP - tip_y, tungsten, state).replace(f"tungsten {state}", "tungsten")
    drawing.add(f'<g transform="translate({number(middle)} {number(tip_y)})">{shape}</g>')
    return drawing.render()
