"""The arc's voltage: it hardly changes with the current, and rises with the arc's length."""

from __future__ import annotations

from anvilsong.core.arc.waveform import Numbers


def arc_voltage_v(amps: Numbers, arc_length_mm: Numbers) -> Numbers:
    """U = 10 + 0.02·I + 0.8·(arc length mm − 2), V, in argon.

    >>> round(arc_voltage_v(100.0, 3.0), 1)
    12.8
    """
    return 10 + 0.02 * amps + 0.8 * (arc_length_mm - 2)


def arc_length_mm(amps: float, volts: float) -> float:
    """The arc length that a voltage stands for: L = 2 + (U − 10 − 0.02·I)/0.8, mm, 0 at the least.

    >>> round(arc_length_mm(100.0, 12.8), 1)
    3.0
    """
    return max(2 + (volts - 10 - 0.02 * amps) / 0.8, 0.0)
