"""Cup: bore, width to shield, and the stick-out that a joint's angle asks for."""

from __future__ import annotations

import math

MM_PER_CUP_NUMBER = 25.4 / 16
WALL_MM = 2.0
BORE_TOLERANCE_MM = 0.25
EVERYDAY_PLAIN, EVERYDAY_LENS = (4, 8), (6, 10)
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
    """Least bore, mm: pool and both borders, and at least three tungsten diameters."""
    return max(pool_width_mm + 2 * border_wanted_mm, 3 * tungsten_mm)


def covers(number: float, width_mm: float) -> bool:
    """Whether a cup's bore covers the width, to a quarter of a millimetre."""
    return bore_mm(number) >= width_mm - BORE_TOLERANCE_MM


def choose_cup(width_mm: float, stocked: tuple[int, ...], lens: bool = True) -> int:
    """Smallest everyday cup on the shelf whose bore covers the width, else the smallest other, else the
    largest.

    Everyday are 4 to 8 plain and 6 to 10 with a lens: wider ones are for long stick-out and reach, by choice.
    """
    low, high = EVERYDAY_LENS if lens else EVERYDAY_PLAIN
    fitting = [number for number in sorted(stocked) if covers(number, width_mm)]
    everyday = [number for number in fitting if low <= number <= high]
    return (everyday or fitting or [max(stocked)])[0]


def stick_out_needed_mm(number: float, access_deg: float, arc_length_mm: float) -> float:
    """Stick-out, mm, with which the cup's shoulder just clears the legs of a joint of this open angle.

    The torch stands on the bisector; the shoulder (radius R) touches both legs when its face is R/tan(θ/2)
    from the
    root, and the arc takes its own length of that: s = max(0, R/tan(θ/2) − arc). Flat and open joints need
    none.
    """
    if access_deg >= 180:
        return 0.0
    return max(0.0, outer_radius_mm(number) / math.tan(math.radians(access_deg / 2)) - arc_length_mm)


def longest_stick_out_mm(number: float, gas_lens: bool) -> float:
    """Furthest stick-out, mm, the gas still covers: the bore with a lens, half of it with a plain body."""
    return bore_mm(number) * (1.0 if gas_lens else 0.5)
