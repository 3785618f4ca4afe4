"""Windows held against every limit: a sound value draws no stop, a best one no stop and no caution, the other
settings as they are.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from anvilsong.core.checks import STOPS, limits_used, moved
from anvilsong.core.coefficients import Coefficients
from anvilsong.core.machine import Machine
from anvilsong.core.model import Bench, Situation
from anvilsong.core.plan.bands import MACHINE_ENDS, Band, Found, Nothing
from anvilsong.core.settings import Settings

CHECKED = ("amps_run", "amps_set", "ep_share", "ep_trim", "frequency_hz")
PLACES = 97  # along a window that are asked
CLOSER = np.array([-0.5, -0.2, -0.05, 0.05, 0.2, 0.5])  # beside the good one, of a step
# What gives at an end, in a word, by the warning that comes there.
GIVES = {
    "no_root": "no root",
    "short_root": "no root",
    "melt_through": "sags",
    "melt_through_near": "sags",
    "cold": "cold",
    "hot": "wide",
    "oxide_at_toes": "specks",
    "thin_border": "specks",
    "wide_border": "wide border",
    "border_for_look": "wide border",
    "tungsten_hot": "tip balls",
    "tungsten_melts": "tip balls",
    "pedal_coarse": "pedal coarse",
    "pedal_no_reserve": "no reserve",
    "torch_rating": "torch hot",
    "duty": "duty",
    "half_too_short": "half too short",
    "chill": "filler rod chills",
    "pulse_base_low": "base too low",
    "pulse_beats": "pulse and AC interfere",
}


class Checked:
    """One setting of a job moved along its window, and the limits that it breaks there."""

    def __init__(
        self, at: Situation, settings: Settings, machine: Machine, c: Coefficients, key: str
    ) -> None:
        self.at, self.settings, self.machine, self.c, self.key = at, settings, machine, c, key

    def cut(self, best: Found, sound: Found, value: float, good: float, planned: bool) -> tuple[Found, Found]:
        """Both bands, each end drawn in until nothing comes that stands neither at a ``good`` value nor at
        the planned one: in the sound no stop, in the best no caution either.
        """
        bands = [band for band in (best, sound) if isinstance(band, Band) and band.low <= good <= band.high]
        if not bands:
            return best, sound
        low, high = min(band.low for band in bands), max(band.high for band in bands)
        ends = [end for band in bands for end in (band.low, band.high)]
        # Closer beside the good place, so that what is good there alone still has a width.
        near = good + (high - low) / PLACES * CLOSER
        every = [*np.linspace(low, high, PLACES), *np.clip(near, low, high), *ends, good, value]
        places = np.array(sorted(set(map(float, every))))
        # The foot's own window moves the ceiling as far as it must.
        to = moved(self.settings, {self.key: places}, self.at.job.control == "pedal")
        used = limits_used(self.at, self.settings, to, Bench(self.machine, None, self.c))[1]
        over = {code: np.broadcast_to(np.asarray(share) > 1, places.shape) for code, share in used.items()}
        stand_at = np.searchsorted(places, [good, *([value] if planned else [])])
        new = {code: broken for code, broken in over.items() if not broken[stand_at].any() and broken.any()}
        stops = {code: broken for code, broken in new.items() if code in STOPS}
        return _drawn_in(best, places, new, good), _drawn_in(sound, places, stops, good)


def _drawn_in(
    band: Found, places: NDArray[np.float64], broken: dict[str, NDArray[np.bool_]], good: float
) -> Found:
    """The band from the last whole place below a good value to the last above."""
    if isinstance(band, Nothing) or not band.low <= good <= band.high or not broken:
        return band
    any_broken = np.any(np.stack(list(broken.values())), axis=0)
    within = (places >= band.low) & (places <= band.high)
    below, above = (places[any_broken & within & side] for side in (places < good, places > good))
    low, high, gives_below, gives_above = band.low, band.high, band.below, band.above
    if below.size:
        last = int(np.searchsorted(places, below[-1]))
        low, gives_below = float(places[last + 1]), _gives(broken, last)
    if above.size:
        first = int(np.searchsorted(places, above[0]))
        high, gives_above = float(places[first - 1]), _gives(broken, first)
    return Band(low, high, gives_below, gives_above)


def _gives(broken: dict[str, NDArray[np.bool_]], place: int) -> str:
    code = next(code for code, where in broken.items() if where[place])
    return GIVES.get(code, MACHINE_ENDS)
