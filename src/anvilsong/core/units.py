"""What people may type after a number, and what is printed after one, in either unit system."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

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
    "balance",
    "amplitude",
    "heat",
    "number",
    "wind",
    "angle",
    "pressure",
    "mass",
    "volume",
    "hose",
]
MM_PER_INCH = 25.4
L_MIN_PER_CFH = 28.316846592 / 60


@dataclass(frozen=True)
class Unit:
    """How a typed unit becomes the inside one: inside = typed × factor + offset."""

    factor: float
    offset: float = 0.0


def _same(unit: Unit, *names: str) -> dict[str, Unit]:
    return dict.fromkeys(names, unit)


UNITS: dict[str, dict[str, Unit]] = {
    "length": {
        **_same(Unit(1), "mm", "millimetre", "millimetres", "millimeter", "millimeters"),
        **_same(Unit(10), "cm"),
        **_same(Unit(1000), "m", "metre", "metres", "meter", "meters"),
        **_same(Unit(MM_PER_INCH), "in", "ins", "inch", "inches", '"'),
        **_same(Unit(MM_PER_INCH / 1000), "thou", "mil", "mils"),
        **_same(Unit(12 * MM_PER_INCH), "ft", "foot", "feet", "'"),
    },
    "flow": {
        **_same(Unit(1), "l/min", "lpm", "l/m", "l", "litres/min", "liters/min"),
        **_same(Unit(L_MIN_PER_CFH), "cfh", "scfh", "ft3/h", "cf/h"),
    },
    "temperature": {
        **_same(Unit(1), "c", "°c", "celsius", "deg c", "degrees c", "degrees celsius"),
        **_same(Unit(5 / 9, -160 / 9), "f", "°f", "fahrenheit", "deg f", "degrees f", "degrees fahrenheit"),
        **_same(Unit(1, -273.15), "k"),
    },
    "speed": {
        **_same(Unit(1), "mm/s", "mm/sec"),
        **_same(Unit(1 / 60), "mm/min"),
        **_same(Unit(1 / 6), "cm/min"),
        **_same(Unit(10), "cm/s"),
        **_same(Unit(1000), "m/s"),
        **_same(Unit(1000 / 60), "m/min"),
        **_same(Unit(MM_PER_INCH / 60), "in/min", "ipm", "inches/min", '"/min'),
        **_same(Unit(MM_PER_INCH), "in/s"),
    },
    "wind": {
        **_same(Unit(1), "m/s"),
        **_same(Unit(1 / 3.6), "km/h"),
        **_same(Unit(0.44704), "mph"),
        **_same(Unit(0.3048), "ft/s", "fps"),
        **_same(Unit(0.3048 / 60), "ft/min", "fpm"),
    },
    "time": {
        **_same(Unit(1), "s", "sec", "secs", "second", "seconds"),
        **_same(Unit(0.001), "ms"),
        **_same(Unit(60), "min", "mins"),
    },
    "current": _same(Unit(1), "a", "amp", "amps", "ampere", "amperes"),
    "frequency": {
        **_same(Unit(1), "hz", "hertz", "cycles", "cycles/s", "a second", "/s"),
        **_same(Unit(1000), "khz"),
    },
    "share": _same(Unit(0.01), "%", "percent", "per cent", "pct"),
    # Always said with the half that it counts; inside, the EP share of the cycle.
    "balance": {
        **_same(Unit(0.01), "% ep", "ep", "%", "percent", "per cent", "pct", "percent ep", "per cent ep"),
        **_same(Unit(-0.01, 1), "% en", "en", "percent en", "per cent en"),
    },
    # The EP half in per cent of the EN half; inside, what it has more or less.
    "amplitude": _same(Unit(0.01, -1), "%", "percent", "per cent", "pct"),
    "heat": {"w": Unit(1), "kw": Unit(1000)},
    "angle": _same(Unit(1), "°", "deg", "degs", "degree", "degrees"),
    "pressure": {
        **_same(Unit(1), "bar"),
        **_same(Unit(0.0689476), "psi"),
        **_same(Unit(0.01), "kpa"),
        **_same(Unit(10), "mpa"),
    },
    "mass": {"g": Unit(1), "kg": Unit(1000), "lb": Unit(453.592), "lbs": Unit(453.592), "oz": Unit(28.3495)},
    "volume": {
        **_same(Unit(1), "l", "litre", "litres", "liter", "liters"),
        **_same(Unit(1000), "m3", "m³"),
        **_same(Unit(28.3168), "cf", "ft3", "ft³", "cu ft"),
    },
    "hose": {
        **_same(Unit(1), "m", "metre", "metres", "meter", "meters"),
        **_same(Unit(0.3048), "ft", "foot", "feet", "'"),
        **_same(Unit(0.01), "cm"),
        **_same(Unit(0.001), "mm"),
        **_same(Unit(0.0254), "in", "inch", "inches", '"'),
    },
    "number": {},
}
# What a bare number means, and what is printed: unit words and decimals for each system.
SHOWN: dict[str, dict[UnitSystem, tuple[str, int]]] = {
    "length": {"mm": ("mm", 1), "inch": ("in", 3)},
    "flow": {"mm": ("L/min", 1), "inch": ("CFH", 0)},
    "temperature": {"mm": ("°C", 0), "inch": ("°F", 0)},
    "speed": {"mm": ("mm/s", 1), "inch": ("in/min", 1)},
    "wind": {"mm": ("m/s", 1), "inch": ("mph", 1)},
    "time": {"mm": ("s", 1), "inch": ("s", 1)},
    "current": {"mm": ("A", 0), "inch": ("A", 0)},
    "frequency": {"mm": ("Hz", 0), "inch": ("Hz", 0)},
    "share": {"mm": ("%", 0), "inch": ("%", 0)},
    "balance": {"mm": ("% EP", 0), "inch": ("% EP", 0)},
    "amplitude": {"mm": ("%", 0), "inch": ("%", 0)},
    "heat": {"mm": ("W", 0), "inch": ("W", 0)},
    "angle": {"mm": ("°", 0), "inch": ("°", 0)},
    "pressure": {"mm": ("bar", 0), "inch": ("psi", 0)},
    "mass": {"mm": ("g", 0), "inch": ("oz", 1)},
    "volume": {"mm": ("L", 0), "inch": ("ft3", 1)},
    "hose": {"mm": ("m", 1), "inch": ("ft", 1)},
    "number": {"mm": ("", 0), "inch": ("", 0)},
}
