"""The joint in section, to scale: plates, pool, root, cleaned border, cup, stick-out and tungsten with its
state.
"""

from __future__ import annotations

import math

from anvilsong.core import say
from anvilsong.core.job import Job
from anvilsong.core.joint import JointShape, find_joint, joint_shape
from anvilsong.core.model import Consequences, situation
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings, Tungsten
from anvilsong.core.shown import show
from anvilsong.core.torch.cup import WALL_MM, bore_mm
from anvilsong.core.torch.tungsten import load_state
from anvilsong.core.units import UnitSystem
from anvilsong.core.words import sentence
from anvilsong.web.drawings.bead import View, arc_spot, face_normals, placement, pool_path, toes_of
from anvilsong.web.drawings.svg import Drawing, Drawn, Point, number

WIDTH, HEIGHT = 440.0, 330.0
CUP_DRAWN = 0.85  # how much of the cup is shown, in bores


def joint_drawing(job: Job, system: UnitSystem = "mm") -> Drawn:
    """The joint alone, before anything is set, with the bevel that is planned for it."""
    job = situation(job).job
    thickest = max(job.a.thickness_mm, job.b.thickness_mm)
    drawing, view, shape = _scene(job, 9 * thickest, f"{find_joint(job.joint).words} joint in section")
    _plates(drawing, view, shape)
    _thickness_labels(drawing, view, job, shape, system)
    return drawing.render()


def section_drawing(job: Job, settings: Settings, seen: Consequences, system: UnitSystem = "mm") -> Drawn:
    """The joint with everything these settings do to it."""
    job = situation(job).job
    cup_radius = bore_mm(settings.cup.number) / 2 + WALL_MM
    thickest = max(job.a.thickness_mm, job.b.thickness_mm)
    extent = max(5.0 * cup_radius, 1.8 * seen.cleaned_width_mm, 3.2 * thickest + 2 * cup_radius)
    words = sentence(
        "web.pool_root_cleaned_border",
        pool_width_mm=seen.pool_width_mm,
        root_width_mm=seen.root_width_mm,
        border_mm=seen.border_mm,
        number=settings.cup.number,
        stick_out_mm=settings.cup.stick_out_mm,
    )
    high = job.arc_length_mm + settings.cup.stick_out_mm + CUP_DRAWN * bore_mm(settings.cup.number) + 3
    drawing, view, shape = _scene(job, extent, words, high)
    _plates(drawing, view, shape)
    drawing.path(pool_path(view, job, shape, seen), "pool")
    toes = toes_of(job, shape, seen)
    _border(drawing, view, shape, toes, seen.border_mm)
    _torch(drawing, view, shape, toes, job, settings, seen)
    _labels(drawing, view, shape, toes, settings, seen, system)
    return drawing.render()


def _scene(
    job: Job, extent_mm: float, description: Words, above_mm: float = 0.0
) -> tuple[Drawing, View, JointShape]:
    drawing = Drawing(
        WIDTH,
        HEIGHT,
        sentence("web.joint_section_scale", words=find_joint(job.joint).words),
        description,
        "drawing section",
    )
    place = placement(find_joint(job.joint).kind)
    scale = WIDTH / extent_mm
    under = place.under * HEIGHT
    if place.lies_flat:
        # Thick plates still fit under the weld.
        scale = min(scale, 0.85 * under / max(job.a.thickness_mm, job.b.thickness_mm, 0.1))
    if above_mm:
        scale = min(scale, (HEIGHT - under) / (place.above * above_mm))
    view = View(scale, (WIDTH * place.centre, HEIGHT - under))
    return drawing, view, joint_shape(job, 1.2 * WIDTH / scale)


def _plates(drawing: Drawing, view: View, shape: JointShape) -> None:
    drawing.polygon(view.all(shape.a), "plate side-a")
    if shape.b:
        drawing.polygon(view.all(shape.b), "plate side-b")
    if shape.axis_y is not None:
        y = HEIGHT - 8
        drawing.line((0, y), (WIDTH, y), "centre-line")


def _border(
    drawing: Drawing, view: View, shape: JointShape, toes: tuple[Point, Point], border: float
) -> None:
    """The cleaned strips, as bars lying on both faces."""
    if border <= 0.02:
        return
    thick = 4.5
    for (x, y), (fx, fy), (nx, ny) in zip(toes, shape.faces, face_normals(shape), strict=True):
        start, end = view.at(x, y), view.at(x + fx * border, y + fy * border)
        off = (nx * thick, -ny * thick)
        drawing.polygon(
            [start, end, (end[0] + off[0], end[1] + off[1]), (start[0] + off[0], start[1] + off[1])], "border"
        )


def _torch(
    drawing: Drawing,
    view: View,
    shape: JointShape,
    toes: tuple[Point, Point],
    job: Job,
    settings: Settings,
    seen: Consequences,
) -> None:
    """Cup, tungsten and arc, drawn upright and turned to the joint's bisector."""
    if settings.tungsten is None:
        return
    scale = view.scale
    x, y = view.at(*arc_spot(shape, toes))
    angle = math.degrees(math.atan2(shape.torch[0], shape.torch[1]))
    radius, bore = settings.tungsten.diameter_mm / 2 * scale, bore_mm(settings.cup.number) / 2 * scale
    arc, out, wall = job.arc_length_mm * scale, settings.cup.stick_out_mm * scale, WALL_MM * scale
    cup_face, cup_top = -(arc + out), -(arc + out) - CUP_DRAWN * bore_mm(settings.cup.number) * scale
    state = load_state(seen.tungsten_load)
    parts = [
        f'<polygon class="arc" points="0,{number(-arc)} {number(-0.42 * seen.pool_width_mm * scale)},0 {number(0.42 * seen.pool_width_mm * scale)},0"/>'
    ]
    parts.append(
        f'<polygon class="cup" points="{number(-bore - wall)},{number(cup_face)} {number(-bore - wall)},{number(cup_top)} {number(bore + wall)},{number(cup_top)} {number(bore + wall)},{number(cup_face)} {number(bore)},{number(cup_face)} {number(bore * 0.8)},{number(cup_top)} {number(-bore * 0.8)},{number(cup_top)} {number(-bore)},{number(cup_face)}"/>'
    )
    parts.append(tungsten_markup(radius, -arc, cup_top - 8, settings.tungsten, state))
    drawing.add(
        f'<g transform="translate({number(x)} {number(y)}) rotate({number(angle)})">{"".join(parts)}</g>'
    )


def tungsten_markup(radius: float, tip_y: float, top_y: float, tungsten: Tungsten, state: str) -> str:
    """The tungsten by its state: sharp, rounding, balled or melting."""
    ball = {"balls": 1.3, "melts": 1.55}.get(state, 1.1 if tungsten.tip == "ball" else 0.0)
    if ball:
        centre = tip_y - ball * radius
        return f'<path class="tungsten {state}" d="M {number(-radius)} {number(top_y)} V {number(centre)} H {number(radius)} V {number(top_y)} Z"/><circle class="tungsten {state}" cx="0" cy="{number(centre)}" r="{number(ball * radius)}"/>'
    length = radius / math.tan(math.radians((tungsten.angle_deg or 45) / 2))
    flat = radius * (
        0.55 if state == "rounds" else min(0.9, (tungsten.flat_mm or 0.3) / tungsten.diameter_mm)
    )
    start = tip_y - length * (1 - flat / radius)
    nose = f"Q 0 {number(tip_y + 0.5 * flat)}" if state == "rounds" else "L"
    return f'<path class="tungsten {state}" d="M {number(-radius)} {number(top_y)} V {number(start)} L {number(-flat)} {number(tip_y)} {nose} {number(flat)} {number(tip_y)} L {number(radius)} {number(start)} V {number(top_y)} Z"/>'


def _labels(
    drawing: Drawing,
    view: View,
    shape: JointShape,
    toes: tuple[Point, Point],
    settings: Settings,
    seen: Consequences,
    system: UnitSystem,
) -> None:
    (lx, ly), (fx, fy) = toes[0], shape.faces[0]
    mark = view.at(lx + fx * seen.border_mm, ly + fy * seen.border_mm)
    words = f"cleaned {show(seen.border_mm, 'length', system)}"
    if shape.kind == "fillet":
        # Beside the upright leg, clear of the stem.
        drawing.text((12, 24), words, "label frost-ink")
        drawing.line((96, 28), (mark[0] - 2, mark[1]), "leader")
    else:
        drawing.line((mark[0] - 3, mark[1] - 8), (mark[0] - 26, mark[1] - 30), "leader")
        drawing.text((mark[0] - 28, mark[1] - 36), words, "label frost-ink", "end")
    drawing.text(
        (WIDTH - 10, 22),
        f"cup {settings.cup.number}{', lens' if settings.cup.gas_lens else ', plain'}",
        "label",
        "end",
    )
    drawing.text(
        (WIDTH - 10, 42), say.joined("stick-out ", say.near_mm(settings.cup.stick_out_mm)), "label", "end"
    )
    root = (
        f" · root {show(seen.root_width_mm, 'length', system)}"
        if shape.kind in ("butt", "corner") or (shape.kind == "build_up" and seen.root_width_mm > 0.05)
        else ""
    )
    drawing.text(
        (WIDTH / 2, HEIGHT - 10),
        f"pool {show(seen.pool_width_mm, 'length', system)}{root}",
        "label strong halo",
        "middle",
    )


def _thickness_labels(drawing: Drawing, view: View, job: Job, shape: JointShape, system: UnitSystem) -> None:
    for letter, side, outline, x in (("a", job.a, shape.a, 14.0), ("b", job.b, shape.b, WIDTH - 14)):
        if not outline:
            continue
        xs, ys = zip(*view.all(outline), strict=True)
        middle = (max(12.0, min(ys)) + min(HEIGHT - 6, max(ys))) / 2 + 5
        left, right = max(4.0, min(xs)), min(WIDTH - 4, max(xs))
        spot = min(max(x, left + 6), right - 6)
        words = say.joined(f"{letter}: {side.alloy}, ", say.sheet(side.thickness_mm))
        anchor = "start" if letter == "a" else "end"
        if right - left < 120:
            spot, anchor = right + 8, "start"
        drawing.text((spot, middle), words, "label on-plate", anchor)
