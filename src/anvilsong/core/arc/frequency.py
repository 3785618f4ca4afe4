"""AC frequency: the band for a job, and what it does to the bead's width."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from anvilsong.core.arc.waveform import Numbers
from anvilsong.core.coefficients import Coefficients
from anvilsong.core.tables import Row, read_table

BandKey = Literal["general", "corner", "wide"]
WIDER_PER_ARC_MM = 0.06


@dataclass(frozen=True)
class Band:
    """The band for one job, and why."""

    key: str
    words: str
    low_hz: float
    high_hz: float


class BandRow(Row):
    key: str
    words: str
    points: list[tuple[float, float, float]]


class FrequencyTable(Row):
    source: str
    school_factor: dict[str, float]
    gap_hz: float
    band: list[BandRow]


def _table() -> FrequencyTable:
    return read_table("frequency", FrequencyTable)


def frequency_band(thin_side_mm: float, usual: BandKey, is_casting: bool, gap_mm: float = 0.0) -> Band:
    """The band usual for this metal and joint, before any school shifts it; without steps in thickness or
    gap.

    Both ends lie on straight lines between the table's points; a gap raises them by up to 30 Hz at 1 mm.
    ``usual`` is the
    joint's own band; a casting is welded in the wide one, except in a corner.
    """
    key = "wide" if is_casting and usual == "general" else usual
    row = next(band for band in _table().band if band.key == key)
    x, low, high = zip(*row.points, strict=True)
    more = _table().gap_hz * min(gap_mm, 1.0)
    return Band(
        key,
        row.words,
        float(np.interp(thin_side_mm, x, low)) + more,
        float(np.interp(thin_side_mm, x, high)) + more,
    )


def school_factor(school: str) -> float:
    """What a frequency school multiplies the band by: wide 0.65, middle 1, tight 1.35."""
    return _table().school_factor[school]


def width_factor(frequency_hz: Numbers, c: Coefficients) -> Numbers:
    """Bead width against 100 Hz: (f/100)^−0.12, nominal. The heat balance is not solved again for it."""
    return (frequency_hz / 100) ** c.width_frequency_power


def arc_width_factor(arc_length_mm: float) -> float:
    """Bead width against a 3 mm arc: 6 % a mm."""
    return 1 + WIDER_PER_ARC_MM * (arc_length_mm - 3)
