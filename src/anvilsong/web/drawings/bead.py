"""What a bead looks like in section, by kind of joint: toes, pool, faces, and where the picture stands."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import assert_never

from anvilsong.core.job import Job
from anvilsong.core.joint import POOL_PER_LEG, JointKind, JointShape
from anvilsong.core.model import Consequences
from anvilsong.web.drawings.svg import Point, number

LEAST_DEPTH_SHARE = 0.42
CORNER_OUT = 0.9  # how far a corner's pool bulges, in thicknesses


@dataclass(frozen=True)
class Placement:
    """Where a joint stands in its picture, as shares of it, and how much room it wants above the weld."""

    under: float
    centre: float = 0.5
    above: float = 1.0
    lies_flat: bool = False


def placement(kind: JointKind) -> Placement:
    match kind:
        case "butt" | "build_up":
            return Placement(0.30, lies_flat=True)
        case "fillet":
            return Placement(0.34, centre=0.36, above=1.05, lies_flat=True)
        case "corner":
            return Placement(0.55)
        case "edge":
            return Placement(0.42)
        case never:
            assert_never(never)


class View:
    """Millimetres to the picture: where the origin lies and how many units a mm takes."""

    def __init__(self, scale: float, origin: Point) -> None:
        self.scale, self.origin = scale, origin

    def at(self, x: float, y: float) -> Point:
        return self.origin[0] + x * self.scale, self.origin[1] - y * self.scale

    def all(self, path: tuple[Point, ...]) -> list[Point]:
        return [self.at(x, y) for x, y in path]


def toes_of(job: Job, shape: JointShape, seen: Consequences) -> tuple[Point, Point]:
    """Where the bead ends on both faces, mm."""
    a, b, half = job.a.thickness_mm, job.b.thickness_mm, seen.pool_width_mm / 2
    match shape.kind:
        case "corner":
            return (min(0.0, b / 2 - half), 0.0), (b, min(-a, -a / 2 - half))
        case "edge":
            drop = max(0.0, half - (a + b) / 2)
            return (-a, -drop), (b, -drop)
        case "fillet":
            leg = seen.pool_width_mm / POOL_PER_LEG
            return (0.0, leg), (leg, 0.0)
        case "butt" | "build_up":
            return (-half, 0.0), (half, 0.0)
        case never:
            assert_never(never)


def pool_path(view: View, job: Job, shape: JointShape, seen: Consequences) -> str:
    """Outline of the pool, as the commands of an SVG path."""
    (lx, ly), (rx, ry) = toes_of(job, shape, seen)
    width = seen.pool_width_mm

    def p(x: float, y: float) -> str:
        return " ".join(number(value) for value in view.at(x, y))

    match shape.kind:
        case "fillet":
            bite = 0.30 * lx if lx else 0.30 * rx
            return (
                f"M {p(lx, ly)} Q {p(0.72 * rx, 0.72 * ly)} {p(rx, ry)} "
                f"Q {p(0.45 * rx, -1.3 * bite)} {p(-0.45 * bite, -0.45 * bite)} "
                f"Q {p(-1.3 * bite, 0.45 * ly)} {p(lx, ly)} Z"
            )
        case "corner":
            a, b = job.a.thickness_mm, job.b.thickness_mm
            return (
                f"M {p(lx, 0)} Q {p(b * CORNER_OUT, 0.15 * a)} {p(b * 0.78, -a * 0.22)} "
                f"Q {p(b * 1.15, -a * CORNER_OUT)} {p(b, ry)} "
                f"Q {p(0.1 * b, -1.05 * a)} {p(0, -a)} Q {p(-0.3 * b, -0.6 * a)} {p(lx, 0)} Z"
            )
        case "edge":
            depth = max(0.5 * width, -ly + 0.3 * width)
            return (
                f"M {p(lx, ly)} Q {p(lx, 0.28 * width)} {p(0, 0.28 * width)} "
                f"Q {p(rx, 0.28 * width)} {p(rx, ry)} "
                f"Q {p(0.5 * rx, -depth)} {p(0, -depth)} Q {p(0.5 * lx, -depth)} {p(lx, ly)} Z"
            )
        case "butt" | "build_up":
            crown = 0.15 * width
            face = f"M {p(lx, 0)} Q {p(0, 2 * crown)} {p(rx, 0)}"
            return f"{face} {_under(p, lx, rx, max(job.a.thickness_mm, job.b.thickness_mm), seen)} Z"
        case never:
            assert_never(never)


def _under(
    p: Callable[[float, float], str], lx: float, rx: float, thickness: float, seen: Consequences
) -> str:
    """The pool's underside in flat metal: through to its root, or a bowl."""
    root = seen.root_width_mm
    if root <= 0:
        depth = min(LEAST_DEPTH_SHARE * seen.pool_width_mm, 0.95 * thickness)
        return f"C {p(0.9 * rx, -1.33 * depth)} {p(0.9 * lx, -1.33 * depth)} {p(lx, 0)}"
    half, sag = root / 2, 0.10 * root
    return (
        f"C {p(0.98 * rx, -0.45 * thickness)} {p(1.02 * half, -0.8 * thickness)} {p(half, -thickness)} "
        f"Q {p(0, -thickness - 2 * sag)} {p(-half, -thickness)} "
        f"C {p(-1.02 * half, -0.8 * thickness)} {p(0.98 * lx, -0.45 * thickness)} {p(lx, 0)}"
    )


def face_normals(shape: JointShape) -> tuple[Point, Point]:
    """Outward normals of the two faces the border lies on."""
    match shape.kind:
        case "fillet":
            return (1.0, 0.0), (0.0, 1.0)
        case "corner":
            return (0.0, 1.0), (1.0, 0.0)
        case "edge":
            return (-1.0, 0.0), (1.0, 0.0)
        case "butt" | "build_up":
            return (0.0, 1.0), (0.0, 1.0)
        case never:
            assert_never(never)


def arc_spot(shape: JointShape, toes: tuple[Point, Point]) -> Point:
    """The middle of the pool's face, where the arc lands."""
    (lx, ly), (rx, ry) = toes
    match shape.kind:
        case "fillet":
            return 0.36 * rx, 0.36 * ly
        case "corner":
            return 0.62 * rx, 0.5 * ry * 0.6
        case "edge" | "butt" | "build_up":
            return (lx + rx) / 2, max(0.0, (ly + ry) / 2)
        case never:
            assert_never(never)
