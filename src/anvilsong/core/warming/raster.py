"""A drawn part as cells: thickness of each, and of what lies on it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from anvilsong.core.errors import BadInput
from anvilsong.core.heat.plate import Array
from anvilsong.core.warming.drawing import BLOCK_METALS, BlockMetal, PartDrawing, Shape
from anvilsong.core.words import sentence

BLOCK_MM = 20.0
MOST_CELLS = 400_000


@dataclass(frozen=True)
class Raster:
    """Rows along y from the bottom, columns along x from the left; ``left_mm`` and ``bottom_mm`` are the
    corner.
    """

    cell_mm: float
    left_mm: float
    bottom_mm: float
    thickness_mm: Array
    block_mm: Array
    block_metal: BlockMetal

    def place(self, x_mm: float, y_mm: float) -> tuple[float, float]:
        """A place of the drawing, mm from the corner of the cells."""
        return x_mm - self.left_mm, y_mm - self.bottom_mm

    def is_metal(self, x_mm: float, y_mm: float) -> bool:
        """Whether there is metal at a place of the drawing."""
        x, y = self.place(x_mm, y_mm)
        rows, columns = self.thickness_mm.shape
        i, j = int(y // self.cell_mm), int(x // self.cell_mm)
        return 0 <= i < rows and 0 <= j < columns and bool(self.thickness_mm[i, j] > 0)


def rasterised(part: PartDrawing, cell_mm: float) -> Raster:
    """The part at a cell size.

    Raises
    ------
    BadInput : too many cells, or a run over no metal
    """
    left, bottom, right, top = part.box_mm
    columns, rows = (max(1, round(extent / cell_mm)) for extent in (right - left, top - bottom))
    if columns * rows > MOST_CELLS:
        raise BadInput.one(
            "cell_mm",
            f"{cell_mm:g} mm",
            sentence("warming.grid_points_are_too", columns=columns * rows, most_cells=MOST_CELLS),
        )
    x = np.asarray(left + (np.arange(columns) + 0.5) * cell_mm, dtype=np.float64)
    y = np.asarray(bottom + (np.arange(rows) + 0.5) * cell_mm, dtype=np.float64)[:, None]
    thickness, block = np.zeros((rows, columns)), np.zeros((rows, columns))
    metals: list[BlockMetal] = []
    for shape in part.shapes:
        covers = _covers(shape, x, y)
        match shape.does:
            case "metal":
                thickness[covers] = shape.thickness_mm or part.thickness_mm
            case "hole":
                thickness[covers] = 0.0
            case "block":
                block[covers] = shape.thickness_mm or BLOCK_MM
                metals.append(shape.block_metal)
    block[thickness == 0] = 0.0
    found = Raster(cell_mm, left, bottom, thickness, block, metals[-1] if metals else "copper")
    if len(set(metals)) > 1:
        raise BadInput.one("shapes", ", ".join(sorted(set(metals))), "blocks of one metal")
    for number, run in enumerate(part.runs):
        inset = min(cell_mm, run.length_mm / 4)
        for words, way in (("begins", inset), ("ends", run.length_mm - inset)):
            if not found.is_metal(*run.at_mm(way)):
                raise BadInput.one(
                    f"runs.{number}",
                    words,
                    sentence("warming.run_where_there_no", number=number + 1, words=words),
                )
    return found


def block_values(raster: Raster) -> tuple[float, float]:
    """ρ·c and diffusivity of what lies on the part."""
    return BLOCK_METALS[raster.block_metal]


def _covers(shape: Shape, x: Array, y: Array) -> NDArray[np.bool_]:
    match shape.form:
        case "rectangle":
            across = (x >= shape.x_mm) & (x < shape.x_mm + shape.width_mm)
            return np.asarray(across & (y >= shape.y_mm) & (y < shape.y_mm + shape.height_mm))
        case "circle":
            return np.asarray(np.hypot(x - shape.x_mm, y - shape.y_mm) < shape.width_mm / 2)
        case "outline":
            return _within(shape, x, y)


def _within(shape: Shape, x: Array, y: Array) -> NDArray[np.bool_]:
    """Inside the outline: an odd number of its sides lie to the left (even-odd rule)."""
    px, py = np.broadcast_arrays(x - shape.x_mm, y - shape.y_mm)
    inside = np.zeros(px.shape, dtype=bool)
    corners = np.asarray(shape.corners)
    for (x0, y0), (x1, y1) in zip(corners, np.roll(corners, -1, axis=0), strict=True):
        if y0 == y1:
            continue
        crosses = (py >= min(y0, y1)) & (py < max(y0, y1))
        inside ^= crosses & (px > x0 + (py - y0) / (y1 - y0) * (x1 - x0))
    return inside
