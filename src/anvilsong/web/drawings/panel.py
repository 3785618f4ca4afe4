"""Your panel now: each control of the machine as it should stand, in a drawing style of our own.

Digits sit over a ruled line, a knob is a notched ring with a pointer, a signed or percent scale is a ruler
with a wedge, a
choice is a row of words with the chosen one boxed.
"""

from __future__ import annotations

import math

from anvilsong.core.machine import Control, Machine, Panel, PanelLine, Scale
from anvilsong.web.drawings.svg import NOTHING, Drawing, Drawn, Point, number

CELL_W, CELL_H, COLUMNS = 176.0, 104.0, 5


def panel_drawing(
    panel: Panel, machine: Machine, changed: frozenset[str] = frozenset(), pointers_only: bool = False
) -> Drawn:
    """The whole panel; ``changed`` settings are marked. Empty for a machine without a panel of its own.

    ``pointers_only`` leaves out what digits say as well: knobs and scales stay.
    """
    lines = [(line, machine.control(line.setting)) for line in panel.lines]
    drawn = [(line, control) for line, control in lines if control is not None]
    if pointers_only:
        drawn = [
            (line, control)
            for line, control in drawn
            if line.value is not None
            and (control.scale.signed or control.scale.shown_as in ("clock", "percent"))
        ]
    if not drawn:
        return NOTHING
    rows = math.ceil(len(drawn) / COLUMNS)
    words = "; ".join(f"{line.label} {line.shown} {line.unit}".strip() for line, _ in drawn)
    drawing = Drawing(
        CELL_W * COLUMNS, CELL_H * rows, f"{machine.name}: your panel now", words, "drawing panel-now"
    )
    for place, (line, control) in enumerate(drawn):
        x, y = CELL_W * (place % COLUMNS), CELL_H * (place // COLUMNS)
        if line.setting in changed:
            drawing.rect(x + 6, y + CELL_H - 7, CELL_W - 24, 4, "panel-changed")
        _control(drawing, x, y, line, control)
        drawing.text((x + 8, y + CELL_H - 12), line.label, "label")
    return drawing.render()


def _control(drawing: Drawing, x: float, y: float, line: PanelLine, control: Control) -> None:
    scale = control.scale
    if line.value is None:
        drawing.text((x + 8, y + 62), "off", "panel-digits quiet-ink")
    elif scale.names:
        _names(drawing, x, y, scale, int(line.value))
    elif scale.shown_as in ("clock", "percent"):
        _knob(drawing, x, y, scale, line)
    elif scale.signed:
        _ruler(drawing, x, y, scale, line)
    else:
        drawing.text((x + 8, y + 66), line.shown, "panel-digits")
        drawing.text((x + 14 + 21 * len(line.shown), y + 66), line.unit, "label")
        drawing.line((x + 8, y + 74), (x + CELL_W - 18, y + 74), "axis")


def _names(drawing: Drawing, x: float, y: float, scale: Scale, chosen: int) -> None:
    for place, name in enumerate(scale.names[:6]):
        px, py = x + 8 + (place % 2) * 80, y + 22 + (place // 2) * 24
        if place == chosen:
            drawing.rect(px - 5, py - 16, 76, 22, "panel-chosen")
        drawing.text((px, py), name, "label chosen-ink" if place == chosen else "label")


def _turn(share: float) -> float:
    """Angle of a knob at a share of its travel, radians clockwise from straight up: seven o'clock to five
    o'clock.
    """
    return math.radians(-150 + 300 * share)


def _knob(drawing: Drawing, x: float, y: float, scale: Scale, line: PanelLine) -> None:
    centre: Point = (x + 48, y + 42)
    low, high = scale.points[0][0], scale.points[-1][0]

    def spot(value: float, radius: float) -> Point:
        # A clock's figures are angles of their own; per cent runs from stop to stop.
        angle = (
            math.radians((value % 12) * 30)
            if scale.shown_as == "clock"
            else _turn((value - low) / (high - low))
        )
        return centre[0] + radius * math.sin(angle), centre[1] - radius * math.cos(angle)

    drawing.circle(centre, 28, "knob")
    for step in range(7):
        value = low + step * (high - low) / 6
        drawing.line(spot(value, 30), spot(value, 35 if step in (0, 6) else 33), "axis")
    drawing.line(centre, spot(line.value or 0, 26), "pointer")
    drawing.circle(spot(line.value or 0, 22), 3.5, "pointer-dot")
    drawing.text((x + 92, y + 48), line.shown.replace(" o’clock", ""), "panel-digits small")
    if scale.shown_as == "clock":
        drawing.text((x + 92, y + 66), "o’clock", "label")


def _ruler(drawing: Drawing, x: float, y: float, scale: Scale, line: PanelLine) -> None:
    left, right, middle = x + 12, x + CELL_W - 24, y + 62
    low, high = scale.points[0][0], scale.points[-1][0]
    drawing.line((left, middle), (right, middle), "axis")
    for step in range(9):
        at = left + (right - left) * step / 8
        drawing.line((at, middle), (at, middle + (9 if step % 4 == 0 else 5)), "axis")
    at = left + (right - left) * ((line.value or 0) - low) / (high - low)
    drawing.path(f"M {number(at)} {number(middle - 2)} l -8 -13 h 16 Z", "pointer-dot")
    drawing.text(
        (min(max(at, left + 14), right - 14), middle - 22), line.shown, "panel-digits small", "middle"
    )
