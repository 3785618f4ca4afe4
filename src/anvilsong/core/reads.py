"""How a quantity reads: its number and unit in the words of either unit system.

References
----------
1 in = 25.4 mm; 1 psi = 0.0689476 bar; 1 lb = 0.453592 kg; 1 oz = 28.3495 g; 1 ft = 0.3048 m. A shop rule
of 1 A for 0.001 in is 39.4 A/mm.
"""

from __future__ import annotations

import math
from collections.abc import Callable

from anvilsong.core.gauges import gauge_mm
from anvilsong.core.shown import percent, show, size_words, to_shown
from anvilsong.core.units import MM_PER_INCH, UnitSystem

GAUGES = range(4, 31)
SAID_WHOLE_MM = 20  # nobody says tenths of longer things
SAME_GAUGE = 0.03  # sheet sold under a gauge number is this near to it
MANNERS = ("size", "sheet", "near", "about", "limit", "share")
"""How a quantity may be meant, besides a number of decimals or a plain format such as ``.0f``."""


def reads(value: float, unit: str, style: str, system: UnitSystem) -> str:
    """The words of a quantity.

    >>> reads(7.14, "mm", "1", "mm"), reads(7.14, "mm", "1", "inch"), reads(0.3, "", "share", "inch")
    ('7.1 mm', '0.281 in', '30 %')
    """
    if not math.isfinite(value):
        return f"{value} {unit}".strip()
    if style == "share":
        return percent(value)
    if unit == "":
        return format(int(value) if style.endswith("d") else value, style)
    if system == "inch" and unit in INCH:
        return INCH[unit](value, style)
    return _metric(value, unit, style)


def gauge_of(value_mm: float) -> int | None:
    """The sheet gauge number of a thickness; None where no number is near.

    >>> gauge_of(1.6), gauge_of(3.2), gauge_of(2.0)
    (14, 8, 12)
    """
    if value_mm <= 0:
        return None
    nearest = min(GAUGES, key=lambda number: abs(gauge_mm(number) - value_mm))
    return nearest if abs(gauge_mm(nearest) / value_mm - 1) <= SAME_GAUGE else None


def _inches(value: float, style: str) -> str:
    if style == "size":
        return size_words(value, "inch")
    if style in ("about", "near"):
        return _about_inches(value)
    if style == "sheet":
        gauge = gauge_of(value)
        return size_words(value, "inch") + (f" ({gauge} ga)" if gauge is not None else "")
    inches = value / MM_PER_INCH
    if style == "limit":
        return f"{inches:.3g} in"
    places = 3 if abs(inches) < 1 else 2 if abs(inches) < 10 else 1
    return f"{inches:.{places}f} in".replace("-", "−")


def _about_inches(value: float) -> str:
    """The fraction a person would say: the finer the smaller, from 32nds under a tenth of an inch to whole
    inches.
    """
    inches = value / MM_PER_INCH
    parts = 32 if inches < 0.1 else 16 if inches < 0.5 else 8 if inches < 2 else 1
    if round(inches * parts) < 1:
        return size_words(value, "inch")
    return size_words(round(inches * parts) / parts * MM_PER_INCH, "inch")


def _places(style: str) -> int:
    """Decimals of a style; one where it only says how a length is meant."""
    return int(style) if style.isdigit() else 1


INCH: dict[str, Callable[[float, str], str]] = {
    "mm": _inches,
    "mm/s": lambda value, style: show(value, "speed", "inch"),
    "m/s": lambda value, style: show(value, "wind", "inch"),
    "°C": lambda value, style: show(value, "temperature", "inch"),
    "L/min": lambda value, style: show(value, "flow", "inch"),
    "bar": lambda value, style: f"{round(to_shown(value, 'pressure', 'inch'), -1):.0f} psi",
    "kg": lambda value, style: f"{value / 0.453592:.{_places(style)}f} lb",
    "g": lambda value, style: f"{value / 28.3495:.2f} oz",
    "m": lambda value, style: f"{value / 0.3048:.{min(_places(style), 1)}f} ft",
    "g/cm³": lambda value, style: f"{value * 0.0361273:.3f} lb/in³",
    "L": lambda value, style: show(value, "volume", "inch"),
    "mm²": lambda value, style: f"{value / MM_PER_INCH**2:.4f} in²",
    "A/mm": lambda value, style: f"{value * MM_PER_INCH / 1000:.2g} A a thousandth",
    "C/mm": lambda value, style: f"{value * MM_PER_INCH:.0f} C/in",
    "kJ/mm": lambda value, style: f"{value * MM_PER_INCH:.1f} kJ/in",
    "J/mm": lambda value, style: f"{value * MM_PER_INCH / 1000:.1f} kJ/in",
}


def _metric(value: float, unit: str, style: str) -> str:
    if style == "sheet":  # tenths, as sheet is named, unless that would name another sheet
        return f"{round(value, 1 if abs(value - round(value, 1)) < 0.03 else 2):g} {unit}"
    places = style if style.isdigit() else "1" if style == "near" else ""
    if places == "1" and unit == "mm" and abs(value) >= SAID_WHOLE_MM:
        places = "0"
    text = f"{value:.{places}f}" if places else f"{value:.4g}"
    if float(text) == 0:
        text = text.lstrip("-")
    return f"{text} {unit}".replace("-", "−")
