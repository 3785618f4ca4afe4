"""Quantities for sentences, by what they measure; what they are in a reader's units stands in `core.reads`.

Sentences of data tables write ``{25 mm}``, which ``marked`` turns into the same.
"""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from typing import Any

from anvilsong.core.phrases import capital, parted, small, without_stop
from anvilsong.core.reads import INCH
from anvilsong.core.said import Message, Quantity, Words, in_units, joined
from anvilsong.core.shown import show, unit_words, usual_decimals
from anvilsong.core.units import Dimension

within = small
__all__ = ["capital", "in_units", "joined", "parted", "small", "within", "without_stop"]

_MARKED = re.compile(r"\{(-?[0-9.]+) ([^{} ]+)\}")
# How the names of fields end, and what that means; the longer ending first.
_ENDINGS = {"_mm_s": "mm/s", "draught_m_s": "m/s", "_mm": "mm", "temperature_c": "°C", "_l_min": "L/min"}


def _quantity(value: float, unit: str, style: str | int) -> Words:
    return Quantity(float(f"{value:.7g}"), unit, str(style)) if math.isfinite(value) else f"{value} {unit}"


def listed(words: Sequence[Words], last: str = " and ") -> Message:
    """Names as a list: the last two parted by *and*.

    >>> listed(["gas", "cup", "filler"]).in_units("mm")
    'gas, cup and filler'
    """
    return joined(joined(*words[:-1], by=", "), words[-1], by=last) if len(words) > 1 else joined(*words)


def share(value: float) -> Words:
    """A share, in per cent."""
    return Quantity(value, "", "share")


def mm(value: float, decimals: int = 1) -> Words:
    """A measured or computed length."""
    return _quantity(value, "mm", decimals)


def size(value: float) -> Words:
    """A stock size: tungsten, rod, tube. In fractions where a shop asks for fractions."""
    return _quantity(value, "mm", "size")


def sheet(value: float) -> Words:
    """A thickness of metal, with its gauge number for those who count in gauges."""
    return _quantity(value, "mm", "sheet")


def limit(value: float, field: str) -> Words:
    """A bound of a field, in the unit its name ends on; a plain number where it has none.

    >>> limit(0.3, "travel_mm_s").in_units("inch"), limit(4, "count")
    ('0.7 in/min', '4')
    """
    unit = next((unit for end, unit in _ENDINGS.items() if field.endswith(end)), None)
    return f"{value:g}" if unit is None else _quantity(value, unit, "limit")


def setting(value: float, dimension: Dimension, decimals: int | None = None) -> Words:
    """A value of a setting, by its kind."""
    unit = unit_words(dimension, "mm")
    if unit not in INCH:
        return show(value, dimension, decimals=decimals)
    return _quantity(value, unit, usual_decimals(dimension) if decimals is None else decimals)


def near_mm(value: float) -> Words:
    """A length set by eye, such as the stick-out: tenths of a millimetre, or the nearest fraction."""
    return _quantity(value, "mm", "near")


def about_mm(value: float) -> Words:
    """A length that is a manner of speaking, such as the 25 mm to grind back."""
    return _quantity(value, "mm", "about")


def mm_s(value: float, decimals: int = 1) -> Words:
    """A speed of travel."""
    return _quantity(value, "mm/s", decimals)


def m_s(value: float, decimals: int = 1) -> Words:
    """A speed of the air."""
    return _quantity(value, "m/s", decimals)


def celsius(value: float) -> Words:
    """A temperature."""
    return _quantity(value, "°C", 0)


def l_min(value: float, decimals: int = 1) -> Words:
    """A flow of gas."""
    return _quantity(value, "L/min", decimals)


def bar(value: float) -> Words:
    """A gauge's pressure."""
    return _quantity(value, "bar", 0)


def kg(value: float, decimals: int = 1) -> Words:
    """A mass."""
    return _quantity(value, "kg", decimals)


def metres(value: float, decimals: int = 0) -> Words:
    """A length of rod or hose."""
    return _quantity(value, "m", decimals)


def grams(value: float) -> Words:
    """A small mass."""
    return _quantity(value, "g", 1)


def density(value_g_cm3: float) -> Words:
    """A density."""
    return _quantity(value_g_cm3, "g/cm³", 2)


def litres(value: float, decimals: int = 1) -> Words:
    """A volume of gas."""
    return _quantity(value, "L", decimals)


def mm2(value: float) -> Words:
    """A section."""
    return _quantity(value, "mm²", 1)


def per_mm(value: float, unit: str, decimals: int = 1) -> Words:
    """Amps, joules or coulombs for each millimetre."""
    return _quantity(value, f"{unit}/mm", decimals)


def marked(text: str) -> Words:
    """A text of a data table, its ``{25 mm}`` as quantities.

    >>> marked("Not over {65 °C}.").in_units("mm"), marked("Plain.")
    ('Not over 65 °C.', 'Plain.')
    """
    parts, at = list[Words](), 0
    for found in _MARKED.finditer(text):
        style = "about" if found[2] == "mm" else 0
        parts += [text[at : found.start()], _quantity(float(found[1]), found[2], style)]
        at = found.end()
    return joined(*parts, text[at:]) if parts else text


def all_marked(data: Any) -> Any:
    """A table's data with every text of it ``marked``."""
    if isinstance(data, str):
        return marked(data)
    if isinstance(data, dict):
        return {key: all_marked(value) for key, value in data.items()}
    return [all_marked(value) for value in data] if isinstance(data, list) else data
