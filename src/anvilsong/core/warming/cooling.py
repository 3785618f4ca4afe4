"""How long a part must lie before it can be touched."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from anvilsong.core.heat.plate_run import LOSS_W_MM2_K, PlateRun

TOUCH_C, EVEN_K = 50.0, 4.0
FIRST_STEP_S, LONGEST_STEP_S, LONGEST_ON_GRID_S, LONGEST_S = 0.5, 2.0, 300.0, 7200.0


def until_touch(
    plate: PlateRun, is_metal: NDArray[np.bool_], rest: Callable[[float], None], holds_j_mm2_k: float
) -> float | None:
    """Seconds until no place is over 50 °C; None after more than two hours, or in air that warm.

    On the grid until the part is even within 4 K, then as one lump: T − T∞ falls by exp(−2h·s/(ρ·c·t)).
    """
    begun, step = plate.time_s, FIRST_STEP_S
    over = TOUCH_C - plate.ambient_c
    if over <= 0:
        return None
    while True:
        temperature = plate.temperature_c[is_metal]
        hottest, mean = float(temperature.max()), float(temperature.mean())
        if hottest <= TOUCH_C:
            return plate.time_s - begun
        if hottest - mean < EVEN_K or plate.time_s - begun > LONGEST_ON_GRID_S:
            break
        rest(step)
        step = min(LONGEST_STEP_S, step * 1.05)
    more = float(np.log(max(hottest - plate.ambient_c, over) / over)) * holds_j_mm2_k / (2 * LOSS_W_MM2_K)
    whole = plate.time_s - begun + more
    return whole if whole <= LONGEST_S else None
