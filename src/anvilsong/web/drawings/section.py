"""The joint in section, to scale: plates, pool, root, cleaned border, cup, stick-out and tungsten with its state."""

from __future__ import annotations

import math

from anvilsong.core import say
from anvilsong.core.job import Job
from anvilsong.core.metal.joints import find_joint
from anvilsong.core.plan.situation import situation
from anvilsong.core.plan.values import Consequences
from anvilsong.core.quantities import UnitSystem, show
from anvilsong.core.settings import Settings, Tungsten
from anvilsong.core.torch.cup import WALL_MM, bore_mm
from anvilsong.core.torch.tungsten import load_state
from anvilsong.web.drawings.joint_shapes import JointShape, joint_shape
from anvilsong.web.drawings.svg import Drawing, Point, number

WIDTH, HEIGHT = 440.0, 330.0
UNDER_SHARE = {"butt": 0.30, "build_up": 0.30, "fillet": 0.34, "corner": 0.55, "edge": 0.42}
LEAST_DEPTH_SHARE = 0.42
CUP_DRAWN = 0.85  # how much of the cup is shown, in bores


class _View:
    """Millimetres to the picture: where the origin lies and how many units a mm takes."""

    def __init__(self, scale: float, origin: Point) -> None:
        self.scale, self.origin = scale, origin

    def at(self, x: float, y: float) -> Point:
        return self.origin[0] + x * self.scale, self.origin[1] - y * self.scale

    def all(self, path: tuple[Point, ...]) -> list[Point]:
        return [self.at(x, y) for x, y in path]


def joint_drawing(job: Job, system: UnitSystem = "mm") -> str:
    """The joint alone, before anything is set, with the bevel that is planned for it."""
    job = situation(job).job
    thickest = max(job.a.thickness_mm, job.b.thickness_mm)
    drawing, view, shape = _scene(job, 9 * thickest, f"{find_joint(job.joint).words} joint in section")
    _plates(drawing, view, shape)
    _thickness_labels(drawing, view, job, shape, system)
    return drawing.render()


def section_drawing(job: Job, settings: Settings, seen: Consequences, system: UnitSystem = "mm") -> str:
    """The joint with everything these settings do to it."""
    job = situation(job).job
    cup_radius = bore_mm(settings.cup.number) / 2 + WALL_MM
    thickest = max(job.a.thickness_mm, job.b.thickness_mm)
    extent = max(5.0 * cup_radius, 1.8 * seen.cleaned_width_mm, 3.2 * thickest + 2 * cup_radius)
    words = (
        f"Pool {say.mm(seen.pool_width_mm)}, root {say.mm(seen.root_width_mm)}, cleaned border {say.mm(seen.border_mm)} a side, "
        f"cup {settings.cup.number}, stick-out {say.near_mm(settings.cup.stick_out_mm)}"
    )
    high = job.arc_length_mm + settings.cup.stick_out_mm + CUP_DRAWN * bore_mm(settings.cup.number) + 3
    drawing, view, shape = _scene(job, extent, words, high)
    _plates(drawing, view, shape)
    _pool(drawing, view, job, shape, seen)
    toes = _toes(job, shape, seen)
    _border(drawing, view, shape, toes, seen.border_mm)
    _torch(drawing, view, shape, toes, job, settings, seen)
    _labels(drawing, view, shape, toes, settings, seen, system)
    return drawing.render()


def _scene(
    job: Job, extent_mm: float, description: str, above_mm: float = 0.0
) -> tuple[Drawing, _View, JointShape]:
    drawing = Drawing(
        WIDTH,
        HEIGHT,
        f"{find_joint(job.joint).words} joint in section, to scale",
        description,
        "drawing section",
    )
    kind = find_joint(job.joint).kind
    scale = WIDTH / extent_mm
    under = UNDER_SHARE[kind] * HEIGHT
    if kind in ("butt", "build_up", "fillet"):
        # Thick plates still fit under the weld.
        scale = min(scale, 0.85 * under / max(job.a.thickness_mm, job.b.thickness_mm, 0.1))
    if above_mm:
        scale = min(scale, (HEIGHT - under) / (above_mm if kind != "fillet" else 1.05 * above_mm))
    centre = 0.36 if kind == "fillet" else 0.5
    view = _View(scale, (WIDTH * centre, HEIGHT - under))
    return drawing, view, joint_shape(job, 1.2 * WIDTH / scale)


def _plates(drawing: Drawing, view: _View, shape: JointShape) -> None:
    drawing.polygon(view.all(shape.a), "plate side-a")
    if shape.b:
        drawing.polygon(view.all(shape.b), "plate side-b")
    if shape.axis_y is not None:
        y = HEIGHT - 8
        drawing.line((0, y), (WIDTH, y), "centre-line")


def _toes(job: Job, shape: JointShape, seen: Consequences) -> tuple[Point, Point]:
    """Where the bead ends on both faces, mm."""
    half = seen.pool_width_mm / 2
    if shape.kind == "corner":
        return (min(0.0, job.b.thickness_mm / 2 - half), 0.0), (
            job.b.thickness_mm,
            min(-job.a.thickness_mm, -job.a.thickness_mm / 2 - half),
        )
    if shape.kind == "edge":
        drop = max(0.0, half - (job.a.thickness_mm + job.b.thickness_mm) / 2)
        return (-job.a.thickness_mm, -drop), (job.b.thickness_mm, -drop)
    if shape.kind == "fillet":
        leg = seen.pool_width_mm / 1.4
        return (0.0, leg), (leg, 0.0)
    return (-half, 0.0), (half, 0.0)


def _pool(drawing: Drawing, view: _View, job: Job, shape: JointShape, seen: Consequences) -> None:
    (lx, ly), (rx, ry) = _toes(job, shape, seen)
    width, root = seen.pool_width_mm, seen.root_width_mm

    def p(x: float, y: float) -> str:
        return " ".join(number(value) for value in view.at(x, y))

    if shape.kind == "fillet":
        bite = 0.30 * lx if lx else 0.30 * rx
        d = f"M {p(lx, ly)} Q {p(0.72 * rx, 0.72 * ly)} {p(rx, ry)} Q {p(0.45 * rx, -1.3 * bite)} {p(-0.45 * bite, -0.45 * bite)} Q {p(-1.3 * bite, 0.45 * ly)} {p(lx, ly)} Z"
    elif shape.kind == "corner":
        a, b = job.a.thickness_mm, job.b.thickness_mm
        out = 0.9
        d = f"M {p(lx, 0)} Q {p(b * out, 0.15 * a)} {p(b * 0.78, -a * 0.22)} Q {p(b * 1.15, -a * out)} {p(b, ry)} Q {p(0.1 * b, -1.05 * a)} {p(0, -a)} Q {p(-0.3 * b, -0.6 * a)} {p(lx, 0)} Z"
    elif shape.kind == "edge":
        depth = max(0.5 * width, -ly + 0.3 * width)
        d = f"M {p(lx, ly)} Q {p(lx, 0.28 * width)} {p(0, 0.28 * width)} Q {p(rx, 0.28 * width)} {p(rx, ry)} Q {p(0.5 * rx, -depth)} {p(0, -depth)} Q {p(0.5 * lx, -depth)} {p(lx, ly)} Z"
    else:
        thickness = max(job.a.thickness_mm, job.b.thickness_mm)
        crown = 0.15 * width
        if root > 0:
            half, sag = root / 2, 0.10 * root
            d = f"M {p(lx, 0)} Q {p(0, 2 * crown)} {p(rx, 0)} C {p(0.98 * rx, -0.45 * thickness)} {p(1.02 * half, -0.8 * thickness)} {p(half, -thickness)} Q {p(0, -thickness - 2 * sag)} {p(-half, -thickness)} C {p(-1.02 * half, -0.8 * thickness)} {p(0.98 * lx, -0.45 * thickness)} {p(lx, 0)} Z"
        else:
            depth = min(LEAST_DEPTH_SHARE * width, 0.95 * thickness)
            d = f"M {p(lx, 0)} Q {p(0, 2 * crown)} {p(rx, 0)} C {p(0.9 * rx, -1.33 * depth)} {p(0.9 * lx, -1.33 * depth)} {p(lx, 0)} Z"
    drawing.path(d, "pool")


def _border(
    drawing: Drawing, view: _View, shape: JointShape, toes: tuple[Point, Point], border: float
) -> None:
    """The cleaned strips, as bars lying on both faces."""
    if border <= 0.02:
        return
    thick = 4.5
    for (x, y), (fx, fy), (nx, ny) in zip(toes, shape.faces, _normals(shape), strict=True):
        start, end = view.at(x, y), view.at(x + fx * border, y + fy * border)
        off = (nx * thick, -ny * thick)
        drawing.polygon(
            [start, end, (end[0] + off[0], end[1] + off[1]), (start[0] + off[0], start[1] + off[1])], "border"
        )


def _normals(shape: JointShape) -> tuple[Point, Point]:
    """Outward normals of the two faces the border lies on."""
    return {
        "fillet": ((1.0, 0.0), (0.0, 1.0)),
        "corner": ((0.0, 1.0), (1.0, 0.0)),
        "edge": ((-1.0, 0.0), (1.0, 0.0)),
    }.get(shape.kind, ((0.0, 1.0), (0.0, 1.0)))


def _surface(shape: JointShape, toes: tuple[Point, Point]) -> Point:
    """The middle of the pool's face, where the arc lands."""
    (lx, ly), (rx, ry) = toes
    if shape.kind == "fillet":
        return 0.36 * rx, 0.36 * ly
    if shape.kind == "corner":
        return 0.62 * rx, 0.5 * ry * 0.6
    return (lx + rx) / 2, max(0.0, (ly + ry) / 2)


def _torch(
    drawing: Drawing,
    view: _View,
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
    x, y = view.at(*_surface(shape, toes))
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
    view: _View,
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
    drawing.text((WIDTH - 10, 42), f"stick-out {say.near_mm(settings.cup.stick_out_mm)}", "label", "end")
    root = (
        f" · root {show(seen.root_width_mm, 'length', system)}"
        if shape.kind in ("butt", "corner", "build_up")
        else ""
    )
    drawing.text(
        (WIDTH / 2, HEIGHT - 10),
        f"pool {show(seen.pool_width_mm, 'length', system)}{root}",
        "label strong",
        "middle",
    )


def _thickness_labels(drawing: Drawing, view: _View, job: Job, shape: JointShape, system: UnitSystem) -> None:
    for letter, side, outline, x in (("a", job.a, shape.a, 14.0), ("b", job.b, shape.b, WIDTH - 14)):
        if not outline:
            continue
        xs, ys = zip(*view.all(outline), strict=True)
        middle = (max(12.0, min(ys)) + min(HEIGHT - 6, max(ys))) / 2 + 5
        left, right = max(4.0, min(xs)), min(WIDTH - 4, max(xs))
        spot = min(max(x, left + 6), right - 6)
        words = f"{letter}: {side.alloy}, {say.sheet(side.thickness_mm)}"
        anchor = "start" if letter == "a" else "end"
        if right - left < 120:
            spot, anchor = right + 8, "start"
        drawing.text((spot, middle), words, "label on-plate", anchor)
