"""Tables as files: CSV with points and commas or with decimal commas and semicolons, and XLSX; and read back
from whatever a spreadsheet program saved.
"""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import Any, Literal

from sqlalchemy.orm import Session

from anvilsong.core.errors import CannotRead
from anvilsong.core.words import sentence
from anvilsong.store.sheets.columns import HEADS, Kind, rows, when

MOST_ROWS, MOST_COLUMNS, MOST_LETTERS = 2000, 100, 4000
Form = Literal["csv", "csv-comma", "xlsx"]
_FORMULA = re.compile(r"^'(?=[=+\-@\t\r])")
_STARTS_ONE = ("=", "+", "-", "@", "\t", "\r")


@dataclass(frozen=True)
class Sheet:
    """A table that was read: its heads in small letters, and each row's line with its cells as text by head.

    ``comma`` : whether a comma in a number can only be a decimal comma there
    """

    heads: tuple[str, ...]
    rows: tuple[tuple[int, dict[str, str]], ...]
    comma: bool = False


def write_sheet(session: Session, kind: Kind, form: Form, target: Path) -> int:
    """Write a table to a file; how many rows it has."""
    return (_writes_xlsx if form == "xlsx" else _writes_csv)(target, HEADS[kind], rows(session, kind), form)


def _writes_csv(target: Path, heads: Iterable[str], found: Iterator[tuple[Any, ...]], form: Form) -> int:
    comma = form == "csv-comma"
    count = 0
    with target.open("w", encoding="utf-8-sig", newline="") as out:
        table = csv.writer(out, delimiter=";" if comma else ",")
        table.writerow(heads)
        for row in found:
            table.writerow([_text(value, comma) for value in row])
            count += 1
    return count


def _text(value: Any, comma: bool) -> str:
    """A value as text; what a spreadsheet would take for a formula begins with an apostrophe."""
    match value:
        case None:
            return ""
        case float():
            return f"{value:.10g}".replace(".", "," if comma else ".")
        case datetime():
            return when(value)
        case str() if value.startswith(_STARTS_ONE):
            return f"'{value}"
    return str(value)


def _writes_xlsx(target: Path, heads: Iterable[str], found: Iterator[tuple[Any, ...]], _form: Form) -> int:
    from openpyxl import Workbook
    from openpyxl.cell import WriteOnlyCell
    from openpyxl.cell.cell import ILLEGAL_CHARACTERS_RE
    from openpyxl.styles import Font

    book = Workbook(write_only=True)
    page = book.create_sheet("Anvilsong")
    page.freeze_panes = "B2"

    def cell(value: Any, bold: bool = False) -> Any:
        if isinstance(value, str):
            made = WriteOnlyCell(page, ILLEGAL_CHARACTERS_RE.sub("", value))
            made.data_type = "s"  # never a formula
        else:
            made = WriteOnlyCell(page, value)
        if bold:
            made.font = Font(bold=True)
        return made

    page.append([cell(head, bold=True) for head in heads])
    count = 0
    for row in found:
        page.append([cell(value) for value in row])
        count += 1
    book.save(target)
    return count


def read_sheet(path: Path) -> Sheet:
    """A table from a file, CSV or XLSX by its content.

    Raises
    ------
    CannotRead : it is neither, is damaged, has no row under its heads, or too many
    """
    with path.open("rb") as file:
        is_xlsx = file.read(4) == b"PK\x03\x04"
    lines, comma = (_xlsx_lines(path), False) if is_xlsx else _csv_lines(path.read_bytes())
    heads: tuple[str, ...] = ()
    found: list[tuple[int, dict[str, str]]] = []
    for number, cells in lines:
        texts = [text.strip() for text in cells]
        if not any(texts):
            continue
        if not heads:
            heads = tuple(" ".join(text.lower().split()) for text in texts[:MOST_COLUMNS])
            if twice := next((head for head in heads if head and heads.count(head) > 1), None):
                raise CannotRead("The table", sentence("store.head_twice", head=twice[:60]))
            continue
        if len(found) >= MOST_ROWS:
            raise CannotRead("The table", sentence("store.table_too_long", most=MOST_ROWS))
        row = {
            head: _FORMULA.sub("", text)[:MOST_LETTERS]
            for head, text in zip(heads, texts, strict=False)
            if head
        }
        found.append((number, row))
    if not found:
        raise CannotRead("The table", sentence("store.table_has_no_rows"))
    return Sheet(heads, tuple(found), comma)


def _csv_lines(content: bytes) -> tuple[Iterator[tuple[int, list[str]]], bool]:
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = content.decode("cp1252", "replace")  # as older spreadsheet programs save it
    if "\0" in text:
        raise CannotRead("The table", sentence("store.neither_csv_nor_xlsx"))
    first = next((line for line in text.splitlines() if line.strip()), "")
    apart = max(",;\t", key=first.count)

    def lines() -> Iterator[tuple[int, list[str]]]:
        table = csv.reader(io.StringIO(text, newline=""), delimiter=apart)
        try:
            for cells in table:
                yield table.line_num, cells
        except csv.Error as error:
            why = sentence("store.table_damaged_at", line=table.line_num, why=str(error))
            raise CannotRead("The table", why) from None

    return lines(), apart != ","


def _xlsx_lines(path: Path) -> Iterator[tuple[int, list[str]]]:
    from openpyxl import load_workbook

    try:
        with path.open("rb") as file:
            page = load_workbook(file, read_only=True, data_only=True).worksheets[0]
            # Beyond what is taken nothing is read, whatever the file says of its size.
            rows_of = page.iter_rows(max_row=10 * MOST_ROWS, max_col=MOST_COLUMNS, values_only=True)
            for number, row in enumerate(rows_of, 1):
                yield number, [_cell_text(value) for value in row]
    except CannotRead:
        raise
    except Exception:  # a library of many parts: whatever it stumbles over, the file is the cause
        raise CannotRead("The table", sentence("store.neither_csv_nor_xlsx")) from None


def _cell_text(value: Any) -> str:
    match value:
        case None:
            return ""
        case bool():
            return "yes" if value else "no"
        case float():
            return f"{value:.10g}"
        case datetime():
            return when(value)
    return str(value)
