"""Cup: bore, width to shield, and the stick-out that a joint's angle asks for."""

from __future__ import annotations

import math

MM_PER_CUP_NUMBER = 25.4 / 16
WALL_MM = 2.0
CUP_NUMBERS = (4, 5, 6, 7, 8, 10, 12)
LENS_CUP_NUMBERS = (5, 6, 7, 8, 10, 12, 14, 16)


def bore_mm(number: float) -> float:
    """Bore, mm, of cup number n: n sixteenths of an inch.

    >>> round(bore_mm(8), 1)
    12.7
    """
    return number * MM_PER_CUP_NUMBER


def outer_radius_mm(number: float) -> float:
    """Outer radius, mm: half the bore and a 2 mm wall."""
    return bore_mm(number) / 2 + WALL_MM


def width_to_shield_mm(pool_width_mm: float, border_wanted_mm: float, tungsten_mm: float) -> float:
    """Least bore, mm: pool and both borders, and at least four tungsten diameters."""
    return max(pool_width_mm + 2 * border_wanted_mm, 4 * tungsten_mm)


def choose_cup(width_mm: float, stocked: tuple[int, ...]) -> int:
    """Smallest stocked cup whose bore covers the width; the largest when none does."""
    fitting = [number for number in sorted(stocked) if bore_mm(number) >= width_mm]
    return fitting[0] if fitting else max(stocked)


def stick_out_needed_mm(number: float, access_deg: float, arc_length_mm: float) -> float:
    """Stick-out, mm, with which the cup's shoulder just clears the legs of a joint of this open angle.

    The torch stands on the bisector; the shoulder (radius R) touches both legs when its face is R/tan(θ/2) from the
    root, and the arc takes its own length of that: s = max(0, R/tan(θ/2) − arc). Flat and open joints need none.
    """
    if access_deg >= 180:
        return 0.0
    return max(0.0, outer_radius_mm(number) / math.tan(math.radians(access_deg / 2)) - arc_length_mm)


def longest_stick_out_mm(number: float, gas_lens: bool) -> float:
    """Furthest stick-out, mm, the gas still covers: the bore with a lens, half of it with a plain body."""
    return bore_mm(number) * (1.0 if gas_lens else 0.5)
