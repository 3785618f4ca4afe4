"""An answer for a reader: the words of plain data as texts in his units, with what they were made of."""

from __future__ import annotations

from typing import Any

from anvilsong.core.said import Message, Quantity, Said, Words
from anvilsong.core.units import UnitSystem

SPOKEN = (str, float, int, bool, type(None))  # of nearly all data: nothing is to be done with it


def told(words: Words) -> dict[str, Any]:
    """The key of a sentence and its quantities, for a program that reads an answer."""
    if isinstance(words, Message):
        return {"key": words.key, "values": {name: _value(word) for name, word in words.values.items()}}
    return {"key": "", "values": {}}


def _value(words: Words) -> Any:
    if isinstance(words, Quantity):
        return {"value": words.value, "unit": words.unit} if words.unit else words.value
    return words if isinstance(words, str) else told(words)


def spoken(data: dict[str, Any], system: UnitSystem = "mm") -> dict[str, Any]:
    """An answer for a reader: all words of it in his units, and under ``keys`` by their places, such as
    ``warnings.0.message``, the keys and quantities of its sentences.
    """
    keys = dict[str, Any]()
    said: dict[str, Any] = _spoken(data, system, "", keys)
    return said | {"keys": keys} if keys else said


def _spoken(data: Any, system: UnitSystem, place: str, keys: dict[str, Any]) -> Any:
    before = f"{place}." if place else ""
    if isinstance(data, dict):
        return {
            key: value if type(value) in SPOKEN else _spoken(value, system, f"{before}{key}", keys)
            for key, value in data.items()
        }
    if isinstance(data, list | tuple):
        return [
            value if type(value) in SPOKEN else _spoken(value, system, f"{before}{n}", keys)
            for n, value in enumerate(data)
        ]
    if isinstance(data, Said):
        if isinstance(data, Message) and data.key:
            keys[place] = told(data)
        return data.in_units(system)
    return data
