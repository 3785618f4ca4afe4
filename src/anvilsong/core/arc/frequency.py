"""AC frequency: the band for a job, and what it does to the bead's width."""

from __future__ import annotations

from anvilsong.core.arc.waveform import Numbers
from anvilsong.core.coefficients import Coefficients
from anvilsong.core.tables import Row, read_table


class Band(Row):
    key: str
    words: str
    low_hz: float
    high_hz: float


class FrequencyTable(Row):
    source: str
    school_factor: dict[str, float]
    band: list[Band]


def _table() -> FrequencyTable:
    return read_table("frequency", FrequencyTable)


def frequency_band(thin_side_mm: float, joint: str, is_casting: bool) -> Band:
    """The band usual for this metal and joint, before any school shifts it."""
    bands = {band.key: band for band in _table().band}
    if thin_side_mm <= 0.8:
        return bands["very_thin"]
    if thin_side_mm <= 1.6 or joint in ("outside_corner", "inside_corner"):
        return bands["thin"]
    if thin_side_mm >= 6.0 or joint == "build_up" or is_casting:
        return bands["thick"]
    return bands["general"]


def school_factor(school: str) -> float:
    """What a frequency school multiplies the band by: wide 0.65, middle 1, tight 1.35."""
    return _table().school_factor[school]


def width_factor(frequency_hz: Numbers, c: Coefficients) -> Numbers:
    """Bead width against 100 Hz: (f/100)^−0.12, nominal. The heat balance is not solved again for it."""
    return (frequency_hz / 100) ** c.width_frequency_power
