"""A part as it is drawn for the heat: its metal, holes, blocks, runs and marks, to lie over the film.

Eight hundred units wide whatever the part measures, with a margin to take hold of things at its edge.
"""

from __future__ import annotations

from anvilsong.core import say
from anvilsong.core.warming import PartDrawing, Run, Shape
from anvilsong.web.drawings.svg import Drawing, Drawn, Point, points

WIDE, TALLEST, MARGIN = 800.0, 620.0, 34.0


class Sheet:
    """Where millimetres of the part lie in the drawing."""

    def __init__(self, part: PartDrawing) -> None:
        self.left, self.bottom, self.right, self.top = part.box_mm
        wide, tall = self.right - self.left, self.top - self.bottom
        self.scale = min((WIDE - 2 * MARGIN) / wide, (TALLEST - 2 * MARGIN) / tall)
        self.margin_x = (WIDE - wide * self.scale) / 2
        self.height = tall * self.scale + 2 * MARGIN

    def at(self, x_mm: float, y_mm: float) -> Point:
        return self.margin_x + (x_mm - self.left) * self.scale, MARGIN + (self.top - y_mm) * self.scale


def part_drawing(part: PartDrawing) -> Drawn:
    """The drawing; a script reads from its ``data-`` attributes how to get back to millimetres."""
    sheet = Sheet(part)
    words = say.joined(
        f"{len(part.shapes)} shapes, {len(part.runs)} runs, {len(part.marks)} marks; ",
        say.mm(sheet.right - sheet.left, 0),
        " by ",
        say.mm(sheet.top - sheet.bottom, 0),
    )
    drawing = Drawing(WIDE, sheet.height, "The part", words, "part-drawing")
    drawing.data = {
        "left": f"{sheet.left:.4f}",
        "top": f"{sheet.top:.4f}",
        "scale": f"{sheet.scale:.6f}",
        "x": f"{sheet.margin_x:.3f}",
        "y": f"{MARGIN:.3f}",
        "wide": f"{(sheet.right - sheet.left) * sheet.scale / WIDE * 100:.4f}",
        "tall": f"{(sheet.top - sheet.bottom) * sheet.scale / sheet.height * 100:.4f}",
        "from-left": f"{sheet.margin_x / WIDE * 100:.4f}",
        "from-top": f"{MARGIN / sheet.height * 100:.4f}",
    }
    for shape in part.shapes:
        _shape(drawing, sheet, shape)
    for number, run in enumerate(part.runs, 1):
        _run(drawing, sheet, run, number)
    for mark in part.marks:
        x, y = sheet.at(mark.x_mm, mark.y_mm)
        drawing.line((x - 7, y), (x + 7, y), "part-mark")
        drawing.line((x, y - 7), (x, y + 7), "part-mark")
        near_right = x > WIDE - 130
        drawing.text(
            (x + (-10 if near_right else 10), y - 8),
            mark.name,
            "label halo",
            "end" if near_right else "start",
        )
    return drawing.render()


def _shape(drawing: Drawing, sheet: Sheet, shape: Shape) -> None:
    css = f"part-{shape.does}"
    match shape.form:
        case "rectangle":
            x, y = sheet.at(shape.x_mm, shape.y_mm + shape.height_mm)
            drawing.rect(x, y, shape.width_mm * sheet.scale, shape.height_mm * sheet.scale, css)
        case "circle":
            drawing.circle(sheet.at(shape.x_mm, shape.y_mm), shape.width_mm / 2 * sheet.scale, css)
        case "outline":
            corners = [sheet.at(shape.x_mm + x, shape.y_mm + y) for x, y in shape.corners]
            drawing.add(f'<polygon class="{css}" points="{points(corners)}"/>')


def _run(drawing: Drawing, sheet: Sheet, run: Run, number: int) -> None:
    begin, end = sheet.at(run.x_mm, run.y_mm), sheet.at(run.to_x_mm, run.to_y_mm)
    drawing.line(begin, end, "part-run")
    ux, uy = run.along[0], -run.along[1]
    tip = [(end[0] - 13 * ux + side * 7 * uy, end[1] - 13 * uy - side * 7 * ux) for side in (1, -1)]
    drawing.polygon([end, *tip], "part-tip")
    drawing.circle(begin, 11, "part-begin")
    drawing.text((begin[0], begin[1] + 5), str(number), "label part-number", "middle")
