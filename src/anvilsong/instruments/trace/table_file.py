"""A table of numbers out of a file of any scope or logger: its separator, decimal sign, head and columns are
found, not asked for. The bytes are untrusted: sizes are judged before anything is computed from them.
"""

from __future__ import annotations

import codecs
import io
import re
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from anvilsong.core.errors import CannotRead
from anvilsong.core.words import sentence
from anvilsong.instruments.limits import MOST_COLUMNS, MOST_SAMPLES, TRACE_BYTES

HEAD_LINES, LONGEST_LINE, LEAST_ROWS = 2000, 4000, 20
SEPARATORS = ("\t", ";", "|", ",", " ")
_NUMBER = r"[+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?|[+-]?(?:nan|inf|NaN|Inf|INF|NAN)"
_POINT = re.compile(rf"^(?:{_NUMBER})$")
_COMMA = re.compile(rf"^(?:{_NUMBER.replace('.', ',')})$".replace("(?:\\d+\\,?", "(?:\\d+,?"))
_BOMS = (
    (codecs.BOM_UTF8, "utf-8-sig"),
    (codecs.BOM_UTF16_LE, "utf-16"),
    (codecs.BOM_UTF16_BE, "utf-16"),
)


class Form(NamedTuple):
    """How the lines of a table are written."""

    separator: str
    has_comma: bool
    columns: int


class Table(NamedTuple):
    """Numbers, rows × columns, with the names over the columns, as far as there are any, and the lines of the
    head before them.
    """

    values: NDArray[np.float64]
    names: tuple[str, ...]
    units: tuple[str, ...]
    head: tuple[str, ...]


def read_table_file(data: bytes) -> Table:
    """The longest table in a text file.

    Raises
    ------
    CannotRead : the bytes are no table of numbers, or one that is larger than may be
    """
    if len(data) > TRACE_BYTES:
        raise _cannot("instruments.trace_too_large", megabytes=TRACE_BYTES / 1e6)
    text = _decoded(data)
    lines = text.split("\n")
    if len(lines) > MOST_SAMPLES:
        raise _cannot("instruments.trace_too_long", most=MOST_SAMPLES)
    form = _form_of(lines)
    first, last = _first_row(lines, form), _last_row(lines, form)
    values = _values(lines[first : last + 1], form)
    names, units = _names(lines[:first], form)
    return Table(values, names, units, tuple(line.strip() for line in lines[:first] if line.strip()))


def _cannot(key: str, **values: object) -> CannotRead:
    return CannotRead("The trace", sentence(key, **values))


def _decoded(data: bytes) -> str:
    for bom, name in _BOMS:
        if data.startswith(bom):
            return _lines_of(data.decode(name, "replace"))
    if b"\x00" in data[:200]:  # UTF-16 without its mark: every second byte of plain letters is nothing
        odd, even = data[1:400:2].count(0), data[0:400:2].count(0)
        if max(odd, even) > 60:
            return _lines_of(data.decode("utf-16-le" if odd > even else "utf-16-be", "replace"))
        raise _cannot("instruments.trace_no_table")
    return _lines_of(data.decode("utf-8", "replace"))


def _lines_of(text: str) -> str:
    return text.replace("\r\n", "\n").replace("\r", "\n") if "\r" in text else text


def _fields(line: str, separator: str) -> list[str]:
    """The fields of a line, without quotes; a separator at its end is none."""
    line = line.strip()
    if line.endswith(separator) and separator != " ":
        line = line[: -len(separator)]
    found = line.split(None if separator == " " else separator)
    return [field.strip().strip('"').strip() for field in found]


def _form_of(lines: list[str]) -> Form:
    """How the rows are written, judged in the middle and towards the end, where there is no head."""
    filled = [line for line in lines if line.strip()]
    if len(filled) < LEAST_ROWS:
        raise _cannot("instruments.trace_no_table")
    places = np.unique(np.linspace(0.55, 0.97, 15) * (len(filled) - 1)).astype(int)
    sample = [filled[place] for place in places]
    if max(map(len, sample)) > LONGEST_LINE:
        raise _cannot("instruments.trace_no_table")
    for separator in SEPARATORS:
        # With commas between the fields a comma is no decimal sign, unless the fields stand in quotes.
        rows = [_split_quoted(line, separator) for line in sample]
        counts = {len(row) for row in rows}
        if len(counts) != 1 or not 1 <= counts.copy().pop() <= MOST_COLUMNS:
            continue
        if separator not in sample[0].strip() and separator != " ":
            continue
        fields = [field for row in rows for field in row]
        if all(map(_POINT.match, fields)):
            return Form(separator, False, len(rows[0]))
        if all(_POINT.match(field) or _COMMA.match(field) for field in fields):
            return Form(separator, True, len(rows[0]))
    raise _cannot("instruments.trace_no_table")


def _split_quoted(line: str, separator: str) -> list[str]:
    if separator == "," and '","' in line:
        return [field.strip() for field in line.strip().rstrip(",").strip('"').split('","')]
    return _fields(line, separator)


def _is_row(line: str, form: Form) -> bool:
    fields = _split_quoted(line, form.separator)
    if len(fields) != form.columns:
        return False
    return all(_POINT.match(field) or (form.has_comma and _COMMA.match(field)) for field in fields)


def _first_row(lines: list[str], form: Form) -> int:
    """Where the rows begin: from there on three filled lines are rows."""
    run = begins = 0
    for place, line in enumerate(lines[: max(HEAD_LINES, len(lines) // 2)]):
        if not line.strip():
            continue
        run = run + 1 if len(line) <= LONGEST_LINE and _is_row(line, form) else 0
        begins = place if run == 1 else begins
        if run == 3:
            return begins
    raise _cannot("instruments.trace_no_table")


def _last_row(lines: list[str], form: Form) -> int:
    for place in range(len(lines) - 1, -1, -1):
        if lines[place].strip() and _is_row(lines[place], form):
            return place
    raise _cannot("instruments.trace_no_table")


def _values(lines: list[str], form: Form) -> NDArray[np.float64]:
    text = "\n".join(lines)
    separator = form.separator
    if '"' in text:
        separator = ";" if separator == "," else separator
        text = text.replace('","', '";"').replace('"', "")
    if form.has_comma:
        text = text.replace(",", ".")
    if separator != " " and f"{separator}\n" in text + "\n":
        text = (text + "\n").replace(f"{separator}\n", "\n")
    try:
        found = np.loadtxt(
            io.StringIO(text), delimiter=None if separator == " " else separator, ndmin=2, comments=None
        )
    except ValueError:
        return _by_lines(text.split("\n"), separator, form.columns)
    return np.asarray(found, float)


def _by_lines(lines: list[str], separator: str, columns: int) -> NDArray[np.float64]:
    """The same where fields are empty or damaged: those are no number; a line that is none is left out."""
    rows = []
    damaged = 0
    for line in lines:
        fields = _fields(line, separator)
        row = [float(field) if _POINT.match(field) else np.nan for field in fields[:columns]]
        if len(row) == columns and not all(np.isnan(row)):
            rows.append(row)
        elif line.strip():
            damaged += 1
    if damaged > 0.05 * len(lines) or len(rows) < LEAST_ROWS:
        raise _cannot("instruments.trace_no_table")
    return np.array(rows)


def _names(head: list[str], form: Form) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """Names and units over the columns: the last lines of the head with as many fields as a row."""
    over = [
        fields
        for line in head[-4:]
        if line.strip() and len(fields := _split_quoted(line, form.separator)) == form.columns
    ]
    if not over:
        return ("",) * form.columns, ("",) * form.columns
    if len(over) >= 2 and all(_is_unit(field) for field in over[-1] if field):
        return tuple(over[-2]), tuple(_bare(field) for field in over[-1])
    return tuple(over[-1]), tuple(_unit_in(field) for field in over[-1])


UNITS = ("s", "ms", "us", "µs", "μs", "ns", "A", "mA", "kA", "V", "mV", "kV", "uV", "µV", "Hz")


def _bare(field: str) -> str:
    return field.strip("()[]{} ").replace("μ", "µ")


def _is_unit(field: str) -> bool:
    return _bare(field) in UNITS or _bare(field).lower() in (
        "sec",
        "second",
        "seconds",
        "volt",
        "volts",
        "amp",
        "amps",
        "ampere",
        "amperes",
    )


def _unit_in(name: str) -> str:
    """The unit in a column's name: ``CH1 (mV)``, ``time_ms``, ``I / A``."""
    bracketed = re.search(r"[(\[{]\s*([^)\]}]+?)\s*[)\]}]", name)
    if bracketed and _is_unit(bracketed[1]):
        return _bare(bracketed[1])
    last = re.split(r"[\s_/.-]+", name.strip())[-1]
    return _bare(last) if last != name.strip() and _is_unit(last) else ""
