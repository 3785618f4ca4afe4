"""Kinds of columns that bear what is damaged: one row that cannot be read must not take the others down."""

from __future__ import annotations

import json
from collections.abc import Callable
from datetime import datetime
from math import isfinite
from typing import Any

from sqlalchemy import JSON, DateTime, String, Text, TypeDecorator

from anvilsong.core.said import Words, plain, read_said

Document = dict[str, Any]
UNREADABLE: Document = {"unreadable": True}
NO_MOMENT = datetime(1970, 1, 1)
MOST_KIND = 20  # letters of what a reading asks for
BETWEEN = "\x1f"  # of two names in one text: no name can hold it


class Stored(dict[str, Any]):
    """A document as it was read, with the text that it stands for: what is made of it is known by that."""

    __slots__ = ("text",)

    text: str


def _tolerant(read: Callable[[Any], Any] | None, instead: Any) -> Callable[[Any], Any]:
    def reading(value: Any) -> Any:
        try:
            return read(value) if read is not None else value
        except (ValueError, TypeError, RecursionError):
            return instead

    return reading


def is_printable(text: Any, found: Document) -> bool:
    """Whether the text holds only whole letters: half of a pair could be stored, but never shown."""
    if not isinstance(text, str) or "\\ud" not in text.lower():
        return True
    try:
        json.dumps(found, ensure_ascii=False).encode()
    except UnicodeEncodeError:
        return False
    return True


def read_document(text: Any) -> Document:
    """A document from its text; an empty one where it is damaged."""
    try:
        found = json.loads(text)
    except (ValueError, TypeError, RecursionError):
        return {}
    return found if isinstance(found, dict) else {}


def kind_of_change(change: Any) -> str:
    """What a reading asked for next, out of its change's document or the text of that: keep, setting, hand,
    prep; nothing where it cannot be read.
    """
    found = (change if isinstance(change, dict) else read_document(change)).get("kind")
    return found if isinstance(found, str) and found.isascii() and len(found) <= MOST_KIND else ""


def figure(value: Any) -> float | None:
    """A figure of a document that can be summed; None for anything else."""
    if isinstance(value, bool) or not isinstance(value, int | float):
        return None
    try:
        found = float(value)
    except OverflowError:
        return None
    return found if isfinite(found) else None


class DocumentText(TypeDecorator[Document]):
    """JSON as text, in every database: it can be compared, and stands as it was written. What cannot be read
    back is told as such: one damaged row must not take the others down.
    """

    impl = JSON
    cache_ok = True

    may_be_none = False

    def load_dialect_impl(self, dialect: Any) -> Any:
        return dialect.type_descriptor(Text() if dialect.name == "postgresql" else JSON())

    def bind_processor(self, dialect: Any) -> Callable[[Any], Any]:
        return json.dumps

    def result_processor(self, dialect: Any, coltype: Any) -> Callable[[Any], Any]:
        read = _tolerant(lambda text: None if text is None else json.loads(text), UNREADABLE)

        def reading(value: Any) -> Any:
            found = read(value)
            if isinstance(found, dict) and is_printable(value, found):
                stored = Stored(found)
                stored.text = value
                return stored
            return None if found is None and self.may_be_none else UNREADABLE

        return reading


class WordsText(TypeDecorator[Words]):
    """What the program said of a row: plain text as it is, words with quantities as JSON."""

    impl = String
    cache_ok = True

    def process_bind_param(self, value: Words | None, dialect: Any) -> str | None:
        return (
            value if value is None or isinstance(value, str) else json.dumps(plain(value), ensure_ascii=False)
        )

    def process_result_value(self, value: Any, dialect: Any) -> Words:
        if not isinstance(value, str) or not value.startswith('{"key"'):
            return value if isinstance(value, str) else ""
        try:
            return read_said(json.loads(value))
        except (ValueError, RecursionError):
            return value


class OptionalDocumentText(DocumentText):
    """JSON text, or nothing."""

    cache_ok = True
    may_be_none = True


class Moment(TypeDecorator[datetime]):
    """A time, UTC; 1970 where what is stored is none."""

    impl = DateTime
    cache_ok = True

    def result_processor(self, dialect: Any, coltype: Any) -> Callable[[Any], Any]:
        return _tolerant(super().result_processor(dialect, coltype), NO_MOMENT)
