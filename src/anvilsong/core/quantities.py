"""Read what people type and print what they want to read.

Inside, lengths are mm, flows L/min, temperatures °C, speeds mm/s, times s, currents A, frequencies Hz, shares 0..1.
Outside, either unit system: people type ``3mm``, ``1/8``, ``.125"``, ``11ga``, ``15 cfh``, ``250F``.

References
----------
Sheet gauge: Brown & Sharpe (American wire gauge), ASTM B258: d = 0.005 in × 92^((36 − n)/39).
Flow: 1 ft³ = 28.3168 L, so 1 L/min = 2.1189 CFH.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Literal

from anvilsong.core.errors import BadInput

UnitSystem = Literal["mm", "inch"]
Dimension = Literal[
    "length",
    "flow",
    "temperature",
    "speed",
    "time",
    "current",
    "frequency",
    "share",
    "heat",
    "number",
    "angle",
    "pressure",
    "mass",
    "volume",
]

MM_PER_INCH = 25.4
# What is longer or larger was not typed by somebody who measures.
LONGEST, LARGEST = 40, 1e12
SAME = 1e-6  # two values nearer than this are the same, as far as anybody types
L_MIN_PER_CFH = 28.316846592 / 60


@dataclass(frozen=True)
class Unit:
    """How a typed unit becomes the inside one: inside = typed × factor + offset."""

    factor: float
    offset: float = 0.0


_INCH = Unit(MM_PER_INCH)
_UNITS: dict[str, dict[str, Unit]] = {
    "length": {
        "mm": Unit(1),
        "cm": Unit(10),
        "m": Unit(1000),
        "in": _INCH,
        "inch": _INCH,
        "inches": _INCH,
        '"': _INCH,
        "”": _INCH,
        "thou": Unit(0.0254),
        "ft": Unit(304.8),
    },
    "flow": {
        "l/min": Unit(1),
        "lpm": Unit(1),
        "l": Unit(1),
        "cfh": Unit(L_MIN_PER_CFH),
        "scfh": Unit(L_MIN_PER_CFH),
    },
    "temperature": {
        "c": Unit(1),
        "°c": Unit(1),
        "f": Unit(5 / 9, -160 / 9),
        "°f": Unit(5 / 9, -160 / 9),
        "k": Unit(1, -273.15),
    },
    "speed": {
        "mm/s": Unit(1),
        "mm/min": Unit(1 / 60),
        "cm/min": Unit(1 / 6),
        "in/min": Unit(MM_PER_INCH / 60),
        "ipm": Unit(MM_PER_INCH / 60),
    },
    "time": {"s": Unit(1), "sec": Unit(1), "ms": Unit(0.001), "min": Unit(60)},
    "current": {"a": Unit(1), "amp": Unit(1), "amps": Unit(1)},
    "frequency": {"hz": Unit(1)},
    "share": {"%": Unit(0.01), "": Unit(1)},
    "heat": {"w": Unit(1), "kw": Unit(1000)},
    "angle": {"°": Unit(1), "deg": Unit(1)},
    "pressure": {"bar": Unit(1), "psi": Unit(0.0689476), "kpa": Unit(0.01), "mpa": Unit(10)},
    "mass": {"g": Unit(1), "kg": Unit(1000), "lb": Unit(453.592), "oz": Unit(28.3495)},
    "volume": {"l": Unit(1), "m3": Unit(1000), "cf": Unit(28.3168), "ft3": Unit(28.3168)},
    "number": {},
}
# What a bare number means, and what is printed: unit words and decimals for each system.
_SHOWN: dict[str, dict[UnitSystem, tuple[str, int]]] = {
    "length": {"mm": ("mm", 1), "inch": ("in", 3)},
    "flow": {"mm": ("L/min", 1), "inch": ("CFH", 0)},
    "temperature": {"mm": ("°C", 0), "inch": ("°F", 0)},
    "speed": {"mm": ("mm/s", 1), "inch": ("in/min", 1)},
    "time": {"mm": ("s", 1), "inch": ("s", 1)},
    "current": {"mm": ("A", 0), "inch": ("A", 0)},
    "frequency": {"mm": ("Hz", 0), "inch": ("Hz", 0)},
    "share": {"mm": ("%", 0), "inch": ("%", 0)},
    "heat": {"mm": ("W", 0), "inch": ("W", 0)},
    "angle": {"mm": ("°", 0), "inch": ("°", 0)},
    "pressure": {"mm": ("bar", 0), "inch": ("psi", 0)},
    "mass": {"mm": ("g", 0), "inch": ("oz", 1)},
    "volume": {"mm": ("L", 0), "inch": ("ft3", 1)},
    "number": {"mm": ("", 0), "inch": ("", 0)},
}
_NUMBER = re.compile(
    r"^(?P<sign>[+−-]?)\s*(?:(?P<whole>\d+)[\s-]+(?P<n1>\d+)/(?P<d1>\d+)|(?P<n2>\d+)/(?P<d2>\d+)|(?P<plain>\d+(?:[.,]\d*)?|[.,]\d+))\s*(?P<unit>.*)$"
)
_GAUGE = re.compile(r"^#?\s*(\d{1,2})\s*-?\s*(?:ga|gauge|swg|awg)\.?$", re.IGNORECASE)
_EXAMPLES: dict[str, str] = {
    "length": 'a length such as 3.2 mm, 1/8, .125" or 11ga',
    "flow": "a flow such as 8 L/min or 17 cfh",
    "temperature": "a temperature such as 120 C or 250 F",
    "speed": "a speed such as 3.6 mm/s or 8.5 in/min",
    "share": "a share such as 30 %",
    "pressure": "a pressure such as 150 bar or 2200 psi",
    "time": "a time such as 12 s",
}


def gauge_mm(number: int) -> float:
    """Thickness in mm of a Brown & Sharpe sheet gauge number, 0..40.

    d = 0.005 in × 92^((36 − n)/39)

    >>> round(gauge_mm(11), 3)
    2.305
    """
    return float(0.005 * 92 ** ((36 - number) / 39) * MM_PER_INCH)


def parse(text: str | float | int, dimension: Dimension, field: str, system: UnitSystem = "mm") -> float:
    """Turn what was typed into the inside unit of its dimension.

    Parameters
    ----------
    text : what was typed, or a plain number, which is taken in the inside unit
    dimension : what kind of quantity it is
    field : the field's name, for the error's sentence
    system : which unit a number without one means

    Raises
    ------
    BadInput : with the field, what was given and what is allowed

    Examples
    --------
    >>> parse("1/8", "length", "thickness"), parse('.125"', "length", "thickness"), round(parse("250F", "temperature", "preheat"))
    (3.175, 3.175, 121)
    >>> round(parse("15 cfh", "flow", "flow"), 2)
    7.08
    """
    allowed = f"type {_EXAMPLES.get(dimension, 'a number')}"
    if isinstance(text, bool) or text is None:
        raise BadInput.one(field, text, allowed)
    if isinstance(text, int | float):
        if not -LARGEST < text < LARGEST:  # infinities and not-a-number too
            raise BadInput.one(field, text, allowed)
        return float(text)
    typed = text.strip()
    if dimension == "length" and (gauge := _GAUGE.match(typed)):
        return gauge_mm(int(gauge[1]))
    found = _NUMBER.match(typed) if len(typed) <= LONGEST else None
    if not found:
        raise BadInput.one(field, text, allowed)
    number, fraction = _number(found, field, text, allowed)
    unit = found["unit"].strip().lower().removesuffix(".").replace("minute", "min")
    known = _UNITS[dimension]
    if unit == "" and dimension == "length":
        # A bare fraction is always inches: nobody says an eighth of a millimetre.
        return number * (MM_PER_INCH if fraction or system == "inch" else 1.0)
    if unit == "" and dimension == "share":
        return number / 100 if number > 1 else number
    if unit == "":
        unit = _SHOWN[dimension][system][0].lower()
    if dimension == "number" and unit == "":
        return number
    if unit == "%":
        return number / 100  # × 0.01 would leave 35 % a hair over 0.35
    if unit not in known:
        raise BadInput.one(field, text, allowed)
    return number * known[unit].factor + known[unit].offset


def _number(found: re.Match[str], field: str, text: str, allowed: str) -> tuple[float, bool]:
    sign = -1.0 if found["sign"] in ("-", "−") else 1.0
    if found["plain"]:
        return sign * float(found["plain"].replace(",", ".")), False
    top, bottom = (found["n1"], found["d1"]) if found["whole"] else (found["n2"], found["d2"])
    if int(bottom) == 0:
        raise BadInput.one(field, text, allowed)
    return sign * (int(found["whole"] or 0) + int(top) / int(bottom)), True


def to_shown(value: float, dimension: Dimension, system: UnitSystem) -> float:
    """The inside value in the unit that the system shows."""
    if dimension == "share":
        return value * 100
    unit = _SHOWN[dimension][system][0].lower()
    if unit == "":
        return value
    known = _UNITS[dimension][unit]
    return (value - known.offset) / known.factor


def unit_words(dimension: Dimension, system: UnitSystem) -> str:
    """The unit's words in a system, such as ``mm`` or ``CFH``."""
    return _SHOWN[dimension][system][0]


def figure(value: float, dimension: Dimension, system: UnitSystem = "mm", decimals: int | None = None) -> str:
    """The number alone, in the system's unit, with a true minus sign."""
    usual = _SHOWN[dimension][system][1]
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


def exact(value: float, dimension: Dimension, system: UnitSystem = "mm") -> str:
    """Number and unit with as many decimals as it takes to read the same value back, and no more.

    >>> exact(0.25, "length"), exact(3.175, "length", "inch"), exact(0.55, "length", "inch")
    ('0.25 mm', '0.125 in', '0.02165354 in')
    """
    unit, shown = unit_words(dimension, system), to_shown(value, dimension, system)
    for decimals in range(10):
        text = f"{shown:.{decimals}f}"
        if abs(parse(f"{text} {unit}", dimension, "value", system) - value) <= SAME * max(1.0, abs(value)):
            break
    return f"{text}{'' if unit in ('°', '') else ' '}{unit}".replace("-", "−")


def percent(share: float) -> str:
    """A share as people read it.

    >>> percent(0.3)
    '30 %'
    """
    return f"{share * 100:.0f} %".replace("-", "−")
