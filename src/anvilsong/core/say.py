"""Quantities inside sentences: value and unit together, so that one sentence can be read in either unit
system.

The core writes ``f"Pool {say.mm(7.1)} wide"``, which holds ``⟦7.1 mm 1⟧``: number, unit, how to print it.
What leaves the program
is put through ``in_units``; pages take the reader's system, JSON and the command line too, millimetres
where nobody asked.
Sentences of data tables write ``{25 mm}``, which ``marked`` turns into the same.

References
----------
1 in = 25.4 mm; 1 psi = 0.0689476 bar; 1 lb = 0.453592 kg; 1 oz = 28.3495 g; 1 ft = 0.3048 m. A shop rule
of 1 A for 0.001 in is 39.4 A/mm.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from typing import Any

from anvilsong.core.gauges import gauge_mm
from anvilsong.core.quantities import show, size_words, to_shown, unit_words, usual_decimals
from anvilsong.core.units import MM_PER_INCH, Dimension, UnitSystem

# Strict, since a person may type these brackets too: what only looks like a quantity stays as it was typed.
_TOKEN = re.compile(
    r"⟦(-?\d{1,12}(?:\.\d{1,12})?(?:e[+-]\d{2,3})?) (\S{1,5}) (\d|size|sheet|near|about|limit)⟧", re.ASCII
)
_UNSEEN = "\ufe0e"
_MARKED = re.compile(r"\{(-?[0-9.]+) ([^{} ]+)\}")
# How the names of fields end, and what that means; the longer ending first.
_ENDINGS = {"_mm_s": "mm/s", "draught_m_s": "m/s", "_mm": "mm", "temperature_c": "°C", "_l_min": "L/min"}
GAUGES = range(4, 31)
SAID_WHOLE_MM = 20  # nobody says tenths of longer things
SAME_GAUGE = 0.03  # sheet sold under a gauge number is this near to it


def _token(value: float, unit: str, style: str | int) -> str:
    if not math.isfinite(value):
        return f"{value} {unit}"
    return f"⟦{value:.7g} {unit} {style}⟧"


def mm(value: float, decimals: int = 1) -> str:
    """A measured or computed length."""
    return _token(value, "mm", decimals)


def size(value: float) -> str:
    """A stock size: tungsten, rod, tube. In fractions where a shop asks for fractions."""
    return _token(value, "mm", "size")


def sheet(value: float) -> str:
    """A thickness of metal, with its gauge number for those who count in gauges."""
    return _token(value, "mm", "sheet")


def limit(value: float, field: str) -> str:
    """A bound of a field, in the unit its name ends on; a plain number where it has none.

    >>> limit(0.3, "travel_mm_s"), limit(4, "count")
    ('⟦0.3 mm/s limit⟧', '4')
    """
    unit = next((unit for end, unit in _ENDINGS.items() if field.endswith(end)), None)
    return f"{value:g}" if unit is None else _token(value, unit, "limit")


def setting(value: float, dimension: Dimension, decimals: int | None = None) -> str:
    """A value of a setting, by its kind."""
    unit = unit_words(dimension, "mm")
    if unit not in _INCH:
        return show(value, dimension, decimals=decimals)
    return _token(value, unit, usual_decimals(dimension) if decimals is None else decimals)


def near_mm(value: float) -> str:
    """A length set by eye, such as the stick-out: tenths of a millimetre, or the nearest fraction."""
    return _token(value, "mm", "near")


def about_mm(value: float) -> str:
    """A length that is a manner of speaking, such as the 25 mm to grind back."""
    return _token(value, "mm", "about")


def mm_s(value: float, decimals: int = 1) -> str:
    """A speed of travel."""
    return _token(value, "mm/s", decimals)


def m_s(value: float, decimals: int = 1) -> str:
    """A speed of the air."""
    return _token(value, "m/s", decimals)


def celsius(value: float) -> str:
    """A temperature."""
    return _token(value, "°C", 0)


def l_min(value: float, decimals: int = 1) -> str:
    """A flow of gas."""
    return _token(value, "L/min", decimals)


def bar(value: float) -> str:
    """A gauge's pressure."""
    return _token(value, "bar", 0)


def kg(value: float, decimals: int = 1) -> str:
    """A mass."""
    return _token(value, "kg", decimals)


def metres(value: float, decimals: int = 0) -> str:
    """A length of rod or hose."""
    return _token(value, "m", decimals)


def grams(value: float) -> str:
    """A small mass."""
    return _token(value, "g", 1)


def density(value_g_cm3: float) -> str:
    """A density."""
    return _token(value_g_cm3, "g/cm³", 2)


def litres(value: float, decimals: int = 1) -> str:
    """A volume of gas."""
    return _token(value, "L", decimals)


def mm2(value: float) -> str:
    """A section."""
    return _token(value, "mm²", 1)


def per_mm(value: float, unit: str, decimals: int = 1) -> str:
    """Amps, joules or coulombs for each millimetre."""
    return _token(value, f"{unit}/mm", decimals)


def within(words: str) -> str:
    """A name as it stands inside a sentence: with a small letter, unless it begins with an abbreviation.

    >>> within("Welding amps"), within("AC balance")
    ('welding amps', 'AC balance')
    """
    return words if words[:2].isupper() else words[:1].lower() + words[1:]


def guarded(text: str) -> str:
    """What a person typed, so that nothing in it is taken for a quantity of ours: it looks as it was typed.

    An opening bracket before what would read as one is followed by a sign that shows nothing (a variation
    selector), which no quantity has.

    >>> guarded("⟦3 mm 1⟧") == "⟦3 mm 1⟧", in_units(guarded("⟦3 mm 1⟧"), "inch").replace(_UNSEEN, "")
    (False, '⟦3 mm 1⟧')
    """
    return _TOKEN.sub(lambda found: f"⟦{_UNSEEN}{found[0][1:]}", text) if "⟦" in text else text


def marked(text: str) -> str:
    """The ``{25 mm}`` of a data table as quantities of a sentence.

    >>> marked("Not over {65 °C}.")
    'Not over ⟦65 °C 0⟧.'
    """
    return _MARKED.sub(
        lambda found: _token(float(found[1]), found[2], "about" if found[2] == "mm" else 0), text
    )


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


def gauge_of(value_mm: float) -> int | None:
    """The sheet gauge number of a thickness; None where no number is near.

    >>> gauge_of(1.6), gauge_of(3.2), gauge_of(2.0)
    (14, 8, 12)
    """
    nearest = min(GAUGES, key=lambda number: abs(gauge_mm(number) - value_mm))
    return nearest if abs(gauge_mm(nearest) / value_mm - 1) <= SAME_GAUGE else None


def _places(style: str) -> int:
    """Decimals of a style; one where it only says how a length is meant."""
    return int(style) if style.isdigit() else 1


_INCH: dict[str, Callable[[float, str], str]] = {
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


def spoken(data: Any, system: UnitSystem = "mm") -> Any:
    """Plain data with every text of it put through ``in_units``."""
    if isinstance(data, str):
        return in_units(data, system)
    if isinstance(data, dict):
        return {key: spoken(value, system) for key, value in data.items()}
    if isinstance(data, list | tuple):
        return [spoken(value, system) for value in data]
    return data


def in_units(text: str, system: UnitSystem = "mm") -> str:
    """The sentence as this reader reads it.

    >>> in_units(f"Pool {mm(7.14)} wide", "mm"), in_units(f"Pool {mm(7.14)} wide", "inch")
    ('Pool 7.1 mm wide', 'Pool 0.281 in wide')
    >>> in_units(f"{size(2.4)}, {sheet(1.6)}, back {about_mm(25)}, {bar(150)}", "inch")
    '3/32 in, 1/16 in (14 ga), back 1 in, 2180 psi'
    """
    if "⟦" not in text:
        return text

    def spoken(found: re.Match[str]) -> str:
        value, unit, style = float(found[1]), found[2], found[3]
        if system == "inch" and unit in _INCH:
            return _INCH[unit](value, style)
        return _metric(value, unit, style)

    return _TOKEN.sub(spoken, text)
