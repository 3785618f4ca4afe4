"""The arc's voltage: it hardly changes with the current, and rises with the arc's length."""

from __future__ import annotations

from anvilsong.core.arc.waveform import Numbers


def arc_voltage_v(amps: Numbers, arc_length_mm: Numbers) -> Numbers:
    """U = 10 + 0.02·I + 0.8·(arc length mm − 2), V, in argon.

    >>> round(arc_voltage_v(100.0, 3.0), 1)
    12.8
    """
    return 10 + 0.02 * amps + 0.8 * (arc_length_mm - 2)
