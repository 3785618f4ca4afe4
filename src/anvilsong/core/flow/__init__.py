"""What flows in an arc, as instruments read it, beside what a panel was set to."""

from anvilsong.core.flow.against import (
    ENDS,
    Beside,
    beside,
    heard_beside,
    point_of,
    with_basis,
    with_points,
    with_scale,
)
from anvilsong.core.flow.counting import LEAST_TRACES, Counted, Shown, Way, how_counted
from anvilsong.core.flow.heard import (
    BANDS_HZ,
    LOUDNESS_PLACES,
    MOST_EVENTS,
    Dabs,
    Event,
    HeardPulse,
    SoundReading,
)
from anvilsong.core.flow.reading import (
    MOST_COLUMNS_DRAWN,
    MOST_TURNS,
    Found,
    Mix,
    Pulse,
    Slope,
    TracePicture,
    TraceReading,
)
from anvilsong.core.flow.turned import turned_picture, turned_reading
from anvilsong.core.flow.usual import Otherwise, sounds_otherwise

__all__ = [
    "BANDS_HZ",
    "ENDS",
    "LEAST_TRACES",
    "LOUDNESS_PLACES",
    "MOST_COLUMNS_DRAWN",
    "MOST_EVENTS",
    "MOST_TURNS",
    "Beside",
    "Counted",
    "Dabs",
    "Event",
    "Found",
    "HeardPulse",
    "Mix",
    "Otherwise",
    "Pulse",
    "Shown",
    "Slope",
    "SoundReading",
    "TracePicture",
    "TraceReading",
    "Way",
    "beside",
    "heard_beside",
    "how_counted",
    "point_of",
    "sounds_otherwise",
    "turned_picture",
    "turned_reading",
    "with_basis",
    "with_points",
    "with_scale",
]
