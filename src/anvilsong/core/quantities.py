"""Read what people type; how it is printed stands in `core.shown`.

Inside, lengths are mm, flows L/min, temperatures °C, speeds mm/s, times s, currents A, frequencies Hz,
shares 0..1.
Outside, either unit system: people type ``3mm``, ``1/8``, ``.125"``, ``11ga``, ``15 cfh``, ``250F``.

References
----------
Flow: 1 ft³ = 28.3168 L, so 1 L/min = 2.1189 CFH.
"""

from __future__ import annotations

import re
import unicodedata

from anvilsong.core.errors import BadInput
from anvilsong.core.gauges import gauge_mm, swg_mm
from anvilsong.core.said import Words
from anvilsong.core.shown import to_shown, unit_words
from anvilsong.core.units import MM_PER_INCH, SHOWN, UNITS, Dimension, UnitSystem
from anvilsong.core.words import sentence

# What is longer or larger was not typed by somebody who measures.
LONGEST, LARGEST = 40, 1e12
SAME = 1e-6  # two values nearer than this are the same, as far as anybody types
_NUMBER = re.compile(
    r"^(?P<sign>[+−-]?)\s*(?:(?P<whole>\d+)[\s-]+(?P<n1>\d+)/(?P<d1>\d+)|(?P<n2>\d+)/(?P<d2>\d+)|(?P<plain>\d+(?:\.\d*)?|\.\d+))"
    r"\s*(?P<unit>.*)$",
    re.ASCII,
)
_GAUGE = re.compile(r"^#?\s*(\d{1,2})\s*-?\s*(ga|gauge|swg|awg|g)\.?$", re.IGNORECASE | re.ASCII)
_SHEET = re.compile(r"^0\d{2}$", re.ASCII)
_THOUSANDS = re.compile(r"^([+−-]?[1-9]\d{0,2})((?:[,\s]\d{3})+)(?=\.\d|\s*[^\d.,\s]|$)", re.ASCII)
_EUROPEAN = re.compile(r"^([+−-]?\d{1,3})((?:\.\d{3})+),(\d+)", re.ASCII)
# fmt: on
_QUOTES = {
    "''": '"',
    "″": '"',
    "”": '"',
    "“": '"',
    "′": "'",
    "’": "'",
    "´": "'",
    "\u00a0": " ",
    "\u2009": " ",
    "\u202f": " ",
    "⁄": "/",
}
_EXAMPLES: dict[str, Words] = {
    "length": sentence("typed.length_example"),
    "flow": sentence("typed.flow_example"),
    "temperature": sentence("typed.temperature_example"),
    "speed": sentence("typed.speed_example"),
    "share": sentence("typed.share_example"),
    "balance": sentence("typed.balance_example"),
    "amplitude": sentence("typed.amplitude_example"),
    "pressure": sentence("typed.pressure_example"),
    "time": sentence("typed.time_example"),
    "volume": sentence("typed.volume_example"),
    "hose": sentence("typed.hose_example"),
}


def plain_text(text: str) -> str:
    """What was typed with its signs made plain: ⅛ as 1/8, curly quotes straight, thousands and decimals as
    Python writes them.

    A comma or a blank before exactly three digits parts thousands, since 1,200 mm is never a sheet of 1.2;
    any other comma is a
    decimal sign.

    >>> plain_text("1⅛”"), plain_text("1,200 mm"), plain_text("3,2"), plain_text("1.200,5")
    ('1 1/8"', '1200 mm', '3.2', '1200.5')
    """
    for sign, plain in _QUOTES.items():
        text = text.replace(sign, plain)
    # A vulgar fraction comes apart into its figures; a raised figure such as ² is none and stays as it is.
    text = "".join(
        " " + unicodedata.normalize("NFKC", letter).replace("⁄", "/")
        if "⁄" in unicodedata.normalize("NFKC", letter)
        else letter
        for letter in text
    ).strip()
    text = _EUROPEAN.sub(lambda found: f"{found[1]}{found[2].replace('.', '')}.{found[3]}", text)
    text = _THOUSANDS.sub(lambda found: found[1] + re.sub(r"[,\s]", "", found[2]), text)
    return re.sub(r"(?<=\d),(?=\d)|^,(?=\d)", ".", text)


def parse(
    text: str | float | int,
    dimension: Dimension,
    field: str,
    system: UnitSystem = "mm",
    within: tuple[float, float] | None = None,
) -> float:
    """Turn what was typed into the inside unit of its dimension.

    Parameters
    ----------
    text : what was typed, or a plain number, which is taken in the inside unit
    dimension : what kind of quantity it is
    field : the field's name, for the error's sentence
    system : which unit a number without one means
    within : where the value must lie, inside units; a bare number that makes sense only as inches is then
    read as inches

    Raises
    ------
    BadInput : with the field, what was given and what is allowed

    Examples
    --------
    >>> parse("1/8", "length", "thickness"), parse('.125"', "length", "thickness")
    (3.175, 3.175)
    >>> round(parse("250F", "temperature", "preheat")), round(parse("15 cfh", "flow", "flow"), 2)
    (121, 7.08)
    >>> round(parse(".063", "length", "thickness", within=(0.3, 50)), 4)
    1.6002
    """
    example = _EXAMPLES.get(dimension) or sentence("typed.number_example")
    allowed = sentence("typed.type_it", example=example)
    if isinstance(text, bool) or text is None:
        raise BadInput.one(field, text, allowed)
    if isinstance(text, int | float):
        if not -LARGEST < text < LARGEST:  # infinities and not-a-number too
            raise BadInput.one(field, text, allowed)
        return float(text)
    if not isinstance(text, str) or len(text) > LONGEST:
        raise BadInput.one(field, text, allowed)
    typed = plain_text(text)
    if dimension == "length":
        sheet = _sheet_mm(typed)
        if sheet is not None:
            return sheet
    found = _NUMBER.match(typed)
    if not found:
        raise BadInput.one(field, text, allowed)
    number, fraction = _number(found, field, text, allowed)
    unit = _unit_of(found["unit"])
    if unit == "" and dimension == "length":
        return _bare_length(number, fraction, system, within)
    if unit == "" and dimension == "share":
        return number / 100 if number > 1 else number
    if unit in ("", "°", "deg", "degree", "degrees") and dimension == "temperature":
        unit = "f" if system == "inch" else "c"
    if unit == "":
        unit = SHOWN[dimension][system][0].lower()
    if dimension == "number" and unit == "":
        return number
    if dimension == "share" and unit in UNITS["share"]:
        return number / 100  # × 0.01 would leave 35 % a hair over 0.35
    known = UNITS[dimension]
    if unit not in known:
        raise BadInput.one(field, text, allowed)
    inside = number * known[unit].factor + known[unit].offset
    # 35 % EP is 0.35 and no hair over.
    return round(inside, 9) if dimension in ("balance", "amplitude") else inside


def _unit_of(words: str) -> str:
    unit = re.sub(
        r"\s+",
        " ",
        words.strip().lower().removesuffix(".").replace("per minute", "/min").replace("minute", "min"),
    )
    return re.sub(r"\s*/\s*", "/", unit)


def _sheet_mm(typed: str) -> float | None:
    """A sheet's gauge number, or thousandths of an inch written as 063; None when it is neither."""
    if _SHEET.match(typed):
        return int(typed) * MM_PER_INCH / 1000
    gauge = _GAUGE.match(typed)
    if not gauge:
        return None
    return swg_mm(int(gauge[1])) if gauge[2].lower() == "swg" else gauge_mm(int(gauge[1]))


def _bare_length(
    number: float, fraction: bool, system: UnitSystem, within: tuple[float, float] | None
) -> float:
    """A length without a unit. A bare fraction is always inches: nobody says an eighth of a millimetre."""
    inches = number * MM_PER_INCH
    if fraction or system == "inch":
        return inches
    if within and not within[0] <= number <= within[1] and number < 1 and within[0] <= inches <= within[1]:
        return inches
    return number


def _number(found: re.Match[str], field: str, text: str, allowed: Words) -> tuple[float, bool]:
    sign = -1.0 if found["sign"] in ("-", "−") else 1.0
    if found["plain"]:
        return sign * float(found["plain"]), False
    top, bottom = (found["n1"], found["d1"]) if found["whole"] else (found["n2"], found["d2"])
    if int(bottom) == 0:
        raise BadInput.one(field, text, allowed)
    return sign * (int(found["whole"] or 0) + int(top) / int(bottom)), True


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
