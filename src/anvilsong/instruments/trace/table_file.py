"""A table of numbers out of a file of any scope or logger: its separator, decimal sign, head and columns are
found, not asked for. The bytes are untrusted: sizes are judged before anything is computed from them.
"""

from __future__ import annotations

import codecs
import re
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from anvilsong.core.errors import CannotRead
from anvilsong.core.said import Words
from anvilsong.core.words import sentence
from anvilsong.instruments.limits import MOST_COLUMNS, MOST_SAMPLES, TRACE_BYTES

HEAD_BYTES, LONGEST_LINE, SAMPLED, LEAST_ROWS = 400_000, 4000, 16, 20
MOST_DAMAGED, FOOT_LINES = 0.05, 20
SEPARATORS = ("\t", ";", "|", ",", " ")
_NUMBER = r"[+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?|[+-]?(?:nan|inf|NaN|Inf|INF|NAN)"
_POINT = re.compile(rf"^(?:{_NUMBER})$")
_COMMA = re.compile(rf"^(?:{_NUMBER.replace('.', ',')})$".replace("(?:\\d+\\,?", "(?:\\d+,?"))
_BOMS = (
    (codecs.BOM_UTF8, "utf-8"),
    (codecs.BOM_UTF16_LE, "utf-16"),
    (codecs.BOM_UTF16_BE, "utf-16"),
)


class Form(NamedTuple):
    """How the lines of a table are written."""

    separator: str
    has_comma: bool
    columns: int


class Table(NamedTuple):
    """Numbers, rows × columns, with the names over the columns, as far as there are any, and the lines of
    the head before them.
    """

    values: NDArray[np.float64]
    names: tuple[str, ...]
    units: tuple[str, ...]
    head: tuple[str, ...]


def read_table_file(data: bytes) -> Table:
    """The table in a text file, to its end.

    Raises
    ------
    CannotRead : the bytes are no table of numbers, or one that is larger than may be
    """
    if len(data) > TRACE_BYTES:
        raise _cannot(sentence("instruments.trace_too_large", megabytes=TRACE_BYTES / 1e6))
    data = _as_utf8(data)
    count = data.count(b"\n") + 1
    if count > MOST_SAMPLES:
        raise _cannot(sentence("instruments.trace_too_long", most=MOST_SAMPLES))
    form = _form_of(_sampled(data))
    head = data[:HEAD_BYTES].decode("utf-8", "replace").split("\n")
    first = _first_row(head[:-1] if len(data) > HEAD_BYTES else head, form)
    begins = sum(len(line.encode()) + 1 for line in head[:first]) if first else 0
    values = _values(data[begins:] if begins else data, form, count)
    names, units = _names(head[:first], form)
    return Table(values, names, units, tuple(line.strip() for line in head[:first] if line.strip()))


def _cannot(why: Words) -> CannotRead:
    return CannotRead("The trace", why)


def _as_utf8(data: bytes) -> bytes:
    """The text as UTF-8 without a mark, its lines ended as usual."""
    for bom, name in _BOMS:
        if data.startswith(bom):
            data = data[len(bom) :] if name == "utf-8" else data.decode(name, "replace").encode()
            break
    else:
        if b"\x00" in data[:200]:  # UTF-16 without its mark: every second byte of plain letters is nothing
            odd, even = data[1:400:2].count(0), data[0:400:2].count(0)
            if max(odd, even) <= 60:
                raise _cannot(sentence("instruments.trace_no_table"))
            data = data.decode("utf-16-le" if odd > even else "utf-16-be", "replace").encode()
    return data.replace(b"\r", b"\n") if b"\r" in data[:LONGEST_LINE] and b"\n" not in data else data


def _sampled(data: bytes) -> list[str]:
    """Filled lines from the middle and towards the end, where there is no head."""
    found: list[str] = []
    for place in np.linspace(0.5, 0.97, SAMPLED).tolist():
        at = data.find(b"\n", int(place * len(data))) + 1
        ends = data.find(b"\n", at)
        line = data[at : ends if ends >= 0 else len(data)]
        if at and line.strip() and len(line) <= LONGEST_LINE:
            found.append(line.decode("utf-8", "replace").strip())
    if len(found) < SAMPLED // 2:
        raise _cannot(sentence("instruments.trace_no_table"))
    return found


def _fields(line: str, separator: str) -> list[str]:
    """The fields of a line, without quotes; a separator at its end is none."""
    line = line.strip()
    if line.endswith(separator) and separator != " ":
        line = line[: -len(separator)]
    found = line.split(None if separator == " " else separator)
    return [field.strip().strip('"').strip() for field in found]


def _form_of(sample: list[str]) -> Form:
    """How the rows are written."""
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
    raise _cannot(sentence("instruments.trace_no_table"))


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
    for place, line in enumerate(lines):
        if not line.strip():
            continue
        run = run + 1 if len(line) <= LONGEST_LINE and _is_row(line, form) else 0
        begins = place if run == 1 else begins
        if run == 3:
            return begins
    raise _cannot(sentence("instruments.trace_no_table"))


def _values(data: bytes, form: Form, most: int) -> NDArray[np.float64]:
    """The numbers of the rows; lines at the end that are none are left out."""
    from anvilsong.instruments.trace.numbers_kernel import numbers_of

    separator = form.separator
    if separator == "," and b'","' in data[:LONGEST_LINE]:
        data, separator = data.replace(b'","', b'";"'), ";"
    out = np.empty((most, form.columns))
    decimal = "," if form.has_comma else "."
    rows, damaged = numbers_of(np.frombuffer(data, np.uint8), ord(separator), ord(decimal), out)
    if rows < LEAST_ROWS or damaged > MOST_DAMAGED * rows + FOOT_LINES:
        raise _cannot(sentence("instruments.trace_no_table"))
    return out[:rows]


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
