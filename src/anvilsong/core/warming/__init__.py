"""What a part does while it is welded: drawn, put on a grid, welded run after run, and what follows for the
plan.

The solver is compiled, and read only when a part is computed: what only looks at a stored result does not
wait for it.
"""

from anvilsong.core.warming.compare import Variant, compared, variants
from anvilsong.core.warming.drawing import (
    BLOCK_METALS,
    HOTTEST_PART_C,
    MOST_SIDE_MM,
    Mark,
    PartDrawing,
    Run,
    Shape,
)
from anvilsong.core.warming.presets import PRESETS
from anvilsong.core.warming.result import (
    FIRST_PLACE,
    GROWS_BY,
    LAST_PLACE,
    MOST_RESTS,
    Compared,
    Film,
    FootAmps,
    HeatRun,
    MarkTrace,
    PartResult,
    Rest,
    Rested,
    RunTrace,
)

__all__ = [
    "BLOCK_METALS",
    "FIRST_PLACE",
    "GROWS_BY",
    "HOTTEST_PART_C",
    "LAST_PLACE",
    "MOST_RESTS",
    "MOST_SIDE_MM",
    "PRESETS",
    "Compared",
    "Film",
    "FootAmps",
    "HeatRun",
    "Mark",
    "MarkTrace",
    "PartDrawing",
    "PartResult",
    "Rest",
    "Rested",
    "Run",
    "RunTrace",
    "Shape",
    "Variant",
    "compared",
    "variants",
]
