"""Parts to practise on: short enough for one breath, each teaching something else."""

from __future__ import annotations

from collections.abc import Callable

from anvilsong.core.said import Words
from anvilsong.core.warming import PartDrawing
from anvilsong.core.warming.presets import box_panel, casting, corner_strip, plate, strip, tube_seam
from anvilsong.core.words import sentence

LENGTH_MM = 150.0
THINNEST_CASTING_MM = 6.0

PRACTICE_PARTS: dict[str, tuple[Words, Callable[[float], PartDrawing]]] = {
    "strip": (sentence("practice.strip"), lambda thickness: strip(LENGTH_MM, thickness)),
    "plate": (sentence("practice.plate"), lambda thickness: plate(LENGTH_MM, LENGTH_MM, thickness)),
    "corner_strip": (sentence("practice.corner"), lambda thickness: corner_strip(LENGTH_MM, thickness)),
    "tube_seam": (sentence("practice.tube"), lambda thickness: tube_seam(40, 80, thickness)),
    "box_panel": (sentence("practice.box"), lambda thickness: box_panel(LENGTH_MM, 150, thickness)),
    "casting": (sentence("practice.casting"), lambda thickness: casting(max(thickness, THINNEST_CASTING_MM))),
}
