"""Print quantities as people want to read them, in either unit system.

Inside, lengths are mm, flows L/min, temperatures °C, speeds mm/s, times s, currents A, frequencies Hz,
shares 0..1.
"""

from __future__ import annotations

from anvilsong.core.units import MM_PER_INCH, SHOWN, UNITS, Dimension, UnitSystem


def to_shown(value: float, dimension: Dimension, system: UnitSystem) -> float:
    """The inside value in the unit that the system shows."""
    if dimension == "share":
        return value * 100
    unit = SHOWN[dimension][system][0].lower()
    if unit == "":
        return value
    known = UNITS[dimension][unit]
    return (value - known.offset) / known.factor


def unit_words(dimension: Dimension, system: UnitSystem) -> str:
    """The unit's words in a system, such as ``mm`` or ``CFH``."""
    return SHOWN[dimension][system][0]


def usual_decimals(dimension: Dimension) -> int:
    """How many decimals a quantity usually has in the inside unit."""
    return SHOWN[dimension]["mm"][1]


def figure(value: float, dimension: Dimension, system: UnitSystem = "mm", decimals: int | None = None) -> str:
    """The number alone, in the system's unit, with a true minus sign."""
    usual = SHOWN[dimension][system][1]
    places = (
        usual
        if decimals is None or (system == "inch" and dimension in ("length", "flow", "speed"))
        else decimals
    )
    text = f"{to_shown(value, dimension, system):.{places}f}"
    if float(text) == 0:
        text = text.lstrip("-")
    return text.replace("-", "−")


def show(value: float, dimension: Dimension, system: UnitSystem = "mm", decimals: int | None = None) -> str:
    """Number and unit, as they stand on a page.

    >>> show(3.175, "length"), show(3.175, "length", "inch"), show(0.3, "share"), show(8.4, "flow", "inch")
    ('3.2 mm', '0.125 in', '30 %', '18 CFH')
    """
    unit = unit_words(dimension, system)
    gap = "" if unit in ("°", "") else " "
    return f"{figure(value, dimension, system, decimals)}{gap}{unit}"


FRACTIONS = (2, 4, 8, 16, 32)  # of an inch, coarsest first
NEAR_FRACTION_MM = 0.08


def size_words(value_mm: float, system: UnitSystem = "mm") -> str:
    """A stock size as people ask for it: tungstens, rods and sheet in millimetres, or in fractions of an
    inch.

    >>> size_words(2.4), size_words(2.4, "inch"), size_words(1.0, "inch"), size_words(3.2, "inch")
    ('2.4 mm', '3/32 in', '0.040 in', '1/8 in')
    """
    if system == "mm":
        return f"{value_mm:g} mm"
    inches = value_mm / MM_PER_INCH
    for bottom in FRACTIONS:
        top = round(inches * bottom)
        if top and abs(top / bottom * MM_PER_INCH - value_mm) <= NEAR_FRACTION_MM:
            whole, rest = divmod(top, bottom)
            return f"{whole} {rest}/{bottom} in".lstrip("0 ") if rest else f"{whole} in"
    return f"{round(inches, 2):.3f} in" if abs(round(inches, 2) - inches) < 0.001 else f"{inches:.3f} in"


def percent(share: float) -> str:
    """A share as people read it.

    >>> percent(0.3)
    '30 %'
    """
    return f"{share * 100:.0f} %".replace("-", "−")
