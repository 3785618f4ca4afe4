"""Sentences as documents of earlier versions kept them: text with quantities between brackets, such as
``Set ⟦9 L/min 1⟧``. They are turned into words as they are kept now, and back for an older program.
"""

from __future__ import annotations

import re
from typing import Any

from anvilsong.core.said import Message, Quantity, Words, joined, plain, read_said

MARK, ESCAPED = "⟦", "\\u27e6"
_TOKEN = re.compile(
    r"⟦(-?\d{1,12}(?:\.\d{1,12})?(?:e[+-]\d{2,3})?) (\S{1,5}) (\d|size|sheet|near|about|limit)⟧", re.ASCII
)


def words_now(data: Any) -> Any:
    """A document with every sentence in it as it is kept now.

    >>> words_now({"said": "Set ⟦9 L/min 1⟧."})
    {'said': {'key': '', 'words': ['Set ', ['', [9.0, 'L/min', '1']], '.']}}
    """
    if isinstance(data, str):
        return plain(_read(data)) if MARK in data else data
    if isinstance(data, dict):
        return {key: words_now(value) for key, value in data.items()}
    return [words_now(each) for each in data] if isinstance(data, list) else data


def _read(text: str) -> Words:
    parts, at = list[Words](), 0
    for found in _TOKEN.finditer(text):
        try:
            quantity = read_said([float(found[1]), found[2], found[3]])
        except ValueError:
            continue  # it only looks like one
        parts += [text[at : found.start()], quantity]
        at = found.end()
    return joined(*parts, text[at:]) if parts else text


def words_earlier(data: Any) -> Any:
    """A document with every sentence in it as an earlier version reads it.

    >>> words_earlier(words_now({"said": "Set ⟦9 L/min 1⟧."}))
    {'said': 'Set ⟦9 L/min 1⟧.'}
    """
    if isinstance(data, dict) and data.keys() == {"key", "words"}:
        try:
            return _text(read_said(data))
        except ValueError:
            return data
    if isinstance(data, dict):
        return {key: words_earlier(value) for key, value in data.items()}
    return [words_earlier(each) for each in data] if isinstance(data, list) else data


def _text(words: Words) -> str:
    if isinstance(words, Quantity):
        return f"⟦{words.value:.7g} {words.unit} {words.style}⟧" if words.unit else words.in_units("mm")
    if isinstance(words, str):
        return words
    return "".join(map(_text, words.words)) if isinstance(words, Message) else words.in_units("mm")
