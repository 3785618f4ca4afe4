"""Parts to begin with, each a drawing to change."""

from __future__ import annotations

from collections.abc import Callable

from anvilsong.core.said import Words
from anvilsong.core.warming.drawing import Mark, PartDrawing, Run, Shape
from anvilsong.core.words import sentence


def plate(length_mm: float = 300, width_mm: float = 150, thickness_mm: float = 3) -> PartDrawing:
    """Two sheets butted: one run along the middle."""
    return PartDrawing(
        thickness_mm=thickness_mm,
        shapes=(Shape(width_mm=length_mm, height_mm=width_mm),),
        runs=(_along(0, length_mm, width_mm / 2),),
    )


def strip(length_mm: float = 300, thickness_mm: float = 3) -> PartDrawing:
    """A narrow strip, which warms up as it is welded."""
    return plate(length_mm, 40, thickness_mm)


def corner_strip(length_mm: float = 300, thickness_mm: float = 3) -> PartDrawing:
    """An outside corner laid flat: two flanges, the run along their edge."""
    return plate(length_mm, 80, thickness_mm)


def tube_seam(diameter_mm: float = 60, length_mm: float = 120, thickness_mm: float = 2.5) -> PartDrawing:
    """A seam round a tube, unrolled: it goes all along, and ends where the metal is warm already."""
    around = round(3.14159 * diameter_mm, 1)
    return PartDrawing(
        thickness_mm=thickness_mm,
        shapes=(Shape(width_mm=around, height_mm=length_mm),),
        runs=(_along(0, around, length_mm / 2),),
    )


def box_panel(length_mm: float = 300, width_mm: float = 200, thickness_mm: float = 3) -> PartDrawing:
    """A panel with a hole near the seam, where a seal will sit."""
    return PartDrawing(
        thickness_mm=thickness_mm,
        shapes=(
            Shape(width_mm=length_mm, height_mm=width_mm),
            Shape(form="circle", does="hole", x_mm=0.75 * length_mm, y_mm=0.65 * width_mm, width_mm=50),
        ),
        runs=(_along(0, length_mm, 0.4 * width_mm),),
        marks=(Mark(name="Seal", x_mm=0.75 * length_mm, y_mm=0.65 * width_mm - 30, most_c=200),),
    )


def casting(thickness_mm: float = 12) -> PartDrawing:
    """A cleat of a casting: a thick foot, a thinner arm, a run across where they meet."""
    return PartDrawing(
        thickness_mm=thickness_mm,
        shapes=(
            Shape(width_mm=80, height_mm=60),
            Shape(x_mm=80, y_mm=15, width_mm=70, height_mm=30, thickness_mm=max(3.0, thickness_mm / 2)),
        ),
        runs=(Run(x_mm=80, y_mm=17, to_x_mm=80, to_y_mm=43),),
        marks=(Mark(name="Bolt", x_mm=20, y_mm=30),),
    )


PRESETS: dict[str, tuple[Words, Callable[[], PartDrawing]]] = {
    "plate": (sentence("warming.plate_seam_middle"), plate),
    "strip": ("Narrow strip", strip),
    "corner_strip": ("Corner strip, laid flat", corner_strip),
    "tube_seam": ("Tube seam, unrolled", tube_seam),
    "box_panel": ("Box panel with a hole", box_panel),
    "casting": ("Casting, thick and thin", casting),
}


def _along(begin_mm: float, end_mm: float, y_mm: float) -> Run:
    return Run(x_mm=begin_mm, y_mm=y_mm, to_x_mm=end_mm, to_y_mm=y_mm)
