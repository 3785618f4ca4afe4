"""Whether an arc sounds otherwise today than it usually does."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from anvilsong.core.flow.heard import BANDS_HZ, SoundReading

LEAST_BEFORE = 3
OTHERWISE_DB, SPREADS = 4.0, 4.0
OTHER_FREQUENCY = 0.02


class Otherwise(NamedTuple):
    """What is otherwise: the band round so many hertz, louder or quieter by so many dB against the others."""

    band_hz: float
    louder_db: float


def sounds_otherwise(today: SoundReading, before: Sequence[SoundReading]) -> list[Otherwise] | None:
    """The bands in which an arc sounds otherwise than in the median of earlier recordings, the furthest
    first; none where it sounds as usual; None where there are fewer than three to compare with.

    Only recordings of the same AC frequency (within 2 %) are compared: another one sounds otherwise of
    itself. A band is otherwise where it lies 4 dB and four spreads off, a spread 1.48 × the median deviation.
    """
    if today.frequency_hz is None or not today.bands_db:
        return None
    hz = today.frequency_hz.value
    alike = [
        each.bands_db
        for each in before
        if each.frequency_hz is not None
        and abs(each.frequency_hz.value / hz - 1) < OTHER_FREQUENCY
        and len(each.bands_db) == len(today.bands_db)
    ]
    if len(alike) < LEAST_BEFORE:
        return None
    levels = np.array(alike)
    usual = np.median(levels, axis=0)
    spread = 1.48 * np.median(np.abs(levels - usual), axis=0)
    apart = np.array(today.bands_db) - usual
    apart -= np.median(apart)
    far = np.abs(apart) > np.maximum(OTHERWISE_DB, SPREADS * spread)
    return sorted(
        (Otherwise(BANDS_HZ[at], round(float(apart[at]), 1)) for at in np.flatnonzero(far)),
        key=lambda each: -abs(each.louder_db),
    )
