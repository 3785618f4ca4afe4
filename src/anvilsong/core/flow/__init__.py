"""What flows in an arc, as instruments read it, beside what a panel was set to."""

from anvilsong.core.flow.against import Beside, beside, point_of, with_basis, with_points, with_scale
from anvilsong.core.flow.counting import LEAST_TRACES, Counted, Shown, Way, how_counted
from anvilsong.core.flow.reading import (
    MOST_COLUMNS_DRAWN,
    MOST_TURNS,
    Found,
    Mix,
    Pulse,
    TracePicture,
    TraceReading,
)

__all__ = [
    "LEAST_TRACES",
    "MOST_COLUMNS_DRAWN",
    "MOST_TURNS",
    "Beside",
    "Counted",
    "Found",
    "Mix",
    "Pulse",
    "Shown",
    "TracePicture",
    "TraceReading",
    "Way",
    "beside",
    "how_counted",
    "point_of",
    "with_basis",
    "with_points",
    "with_scale",
]
