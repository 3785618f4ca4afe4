"""What is said to people, as a value: words with quantities among them, put into a reader's units once, at
the edge.

A ``Quantity`` is a number with its unit and how it is meant. A ``Message`` is a sentence of a table by its
key, with its words and the quantities in their places; words put together without a key are one too.
``Words`` is either of them or plain text. A quantity or message is no text: it becomes one by ``in_units``,
and whoever prints it by another way is told so.

A stored document and an export keep a message as ``{"key": "checks.melt_through", "words": ["Pool ", ["top",
[7.1, "mm", "1"]], " over …"]}``, so that it can be read whatever the tables say by then. What leaves the
program for a reader goes through `core.spoken`.
"""

from __future__ import annotations

import re
from abc import ABC, abstractmethod
from collections.abc import Callable, Mapping
from functools import lru_cache
from typing import Annotated, Any

from pydantic import GetCoreSchemaHandler, GetJsonSchemaHandler, SerializationInfo
from pydantic_core import CoreSchema, PydanticCustomError, core_schema

from anvilsong.core.reads import INCH, MANNERS, reads
from anvilsong.core.units import UnitSystem

MOST_WORDS, LONGEST, DEEPEST = 200, 4000, 6
UNITS, DECIMALS = frozenset({"V", *INCH}), frozenset("0123456789")
_FORMAT = re.compile(r"\+?,?(\.\d)?[dfge%]?", re.ASCII)


class Said(ABC):
    """Words that are no text yet."""

    __slots__ = ()

    @abstractmethod
    def in_units(self, system: UnitSystem) -> str:
        """The text for a reader of these units."""

    @abstractmethod
    def stored(self) -> Any:
        """As plain data, for a document."""

    def __eq__(self, other: object) -> bool:
        return type(self) is type(other) and self.stored() == other.stored()

    def __hash__(self) -> int:
        return hash(self.in_units("mm"))

    def __repr__(self) -> str:
        return f"{type(self).__name__}({self.stored()!r})"

    def __add__(self, after: Words) -> Message:
        return joined(self, after)

    def __radd__(self, before: str) -> Message:
        return joined(before, self)

    def __lt__(self, other: Words) -> bool:
        """Words lie in the order of their text."""
        return in_units(self) < in_units(other)

    def __gt__(self, other: Words) -> bool:
        return in_units(self) > in_units(other)

    def __contains__(self, words: str) -> bool:
        """Whether somebody who reads millimetres reads these words in it."""
        return words in self.in_units("mm")

    def __format__(self, spec: str) -> str:
        raise TypeError(f"join {self!r} with others, or say in which units")

    def __str__(self) -> str:
        return self.__format__("")

    @classmethod
    def __get_pydantic_core_schema__(cls, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        return _read_by(read_said)

    @classmethod
    def __get_pydantic_json_schema__(
        cls, schema: CoreSchema, handler: GetJsonSchemaHandler
    ) -> dict[str, Any]:
        return {"type": "string", "description": "Words, in the reader's units"}


class Quantity(Said):
    """A number with its unit, and how it is meant: so many decimals, a stock size, about so long."""

    __slots__ = ("style", "unit", "value")

    def __init__(self, value: float, unit: str, style: str = "1") -> None:
        self.value, self.unit, self.style = value, unit, style

    def in_units(self, system: UnitSystem) -> str:
        return reads(self.value, self.unit, self.style, system)

    def stored(self) -> list[Any]:
        return [self.value, self.unit, self.style]


class Message(Said):
    """A sentence: its key, its words in their order, and for each of them the place it fills, or nothing. One
    of a document makes words of what stood there when it is asked: most of what a plan says is never shown.
    """

    __slots__ = ("_held", "_places", "_words", "key")

    def __init__(self, key: str, words: tuple[Words, ...], places: tuple[str, ...]) -> None:
        self.key, self._words, self._places = key, words, places
        self._held: list[Any] | None = None

    @classmethod
    def _held_as(cls, key: str, parts: list[Any]) -> Message:
        held = cls(key, (), ())
        held._held = parts  # they were checked
        return held

    def _open(self) -> None:
        if (held := self._held) is not None:  # another thread may be opening it too
            pairs = [part if type(part) is list and len(part) == 2 else ("", part) for part in held]
            self._words = tuple(word if type(word) is str else _opened(word) for _, word in pairs)
            self._places = tuple(name for name, _ in pairs)
            self._held = None

    @property
    def words(self) -> tuple[Words, ...]:
        self._open()
        return self._words

    @property
    def places(self) -> tuple[str, ...]:
        self._open()
        return self._places

    @property
    def values(self) -> Mapping[str, Words]:
        """What stands in its places, by their names."""
        return {name: words for name, words in zip(self.places, self.words, strict=True) if name}

    def in_units(self, system: UnitSystem) -> str:
        return "".join([word if isinstance(word, str) else word.in_units(system) for word in self.words])

    def stored(self) -> dict[str, Any]:
        if (held := self._held) is not None:
            return {"key": self.key, "words": held}
        return {
            "key": self.key,
            "words": [
                [name, plain(word)] if name or not isinstance(word, str) else word
                for name, word in zip(self.places, self.words, strict=True)
            ],
        }

    def __bool__(self) -> bool:
        return any(self.words)


class _OfDocuments:
    """How documents give words: a text of a reasonable length, or what `read_said` reads."""

    @classmethod
    def __get_pydantic_core_schema__(cls, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        return _read_by(_read_words)

    @classmethod
    def __get_pydantic_json_schema__(
        cls, schema: CoreSchema, handler: GetJsonSchemaHandler
    ) -> dict[str, Any]:
        return {"type": "string", "maxLength": LONGEST}


Words = Annotated[str | Said, _OfDocuments]
"""Plain text, or words that have no units yet."""


def in_units(words: Words, system: UnitSystem = "mm") -> str:
    """The text of words for a reader of these units."""
    return words if isinstance(words, str) else words.in_units(system)


def joined(*words: Words, by: Words = "") -> Message:
    """Words one after the other, parted by others.

    >>> joined("Pool ", Quantity(7.14, "mm"), " wide").in_units("inch")
    'Pool 0.281 in wide'
    >>> joined("a", "b", by=", ").in_units("mm")
    'a, b'
    """
    every = tuple(part for word in words for part in (by, word))[1:] if by else words
    # What has no key of its own is taken in whole, so that documents stay flat.
    flat = [part for word in every for part in _parts_of(word)]
    return Message("", tuple(part for _, part in flat), tuple(name for name, _ in flat))


def _parts_of(words: Words) -> list[tuple[str, Words]]:
    if isinstance(words, Message) and not words.key:
        return list(zip(words.places, words.words, strict=True))
    return [("", words)]


def plain(words: Words) -> Any:
    """Words as plain data, for a document."""
    return words if isinstance(words, str) else words.stored()


def _read_by(read: Callable[[Any], Words]) -> CoreSchema:
    kept = core_schema.plain_serializer_function_ser_schema(_serialised, info_arg=True)
    return core_schema.no_info_plain_validator_function(read, serialization=kept)


def _serialised(said: Said, info: SerializationInfo) -> Any:
    """For a document plain data, and inside the program the words themselves."""
    return said.stored() if isinstance(said, Said) and info.mode_is_json() else said


def _read_words(data: Any) -> Words:
    if isinstance(data, str):
        if len(data) > LONGEST:
            raise PydanticCustomError("string_too_long", "too long", {"max_length": LONGEST})
        return data
    if not isinstance(data, dict | list | Said):
        raise PydanticCustomError("string_type", "no text")
    return read_said(data)


def read_said(data: Any, depth: int = 0) -> Said:
    """Words out of a document.

    Raises
    ------
    ValueError : this is not how words are kept
    """
    if depth > DEEPEST:
        raise ValueError("words go too deep")
    if type(data) is list and len(data) == 3:
        return _quantity(*data)
    if type(data) is not dict or len(data) != 2 or "key" not in data or "words" not in data:
        if isinstance(data, Said):
            return data
        raise ValueError("these are no words")
    key, parts = data["key"], data["words"]
    if not isinstance(key, str) or len(key) > 80 or not isinstance(parts, list) or len(parts) > MOST_WORDS:
        raise ValueError("these are no words")
    is_held = True
    for part in parts:
        words = part
        if type(part) is list and len(part) == 2:
            name, words = part
            if not isinstance(name, str) or len(name) > 80:
                raise ValueError("a place has a name")
        if type(words) is not str:
            is_held = read_said(words, depth + 1) is not words and is_held
        elif len(words) > LONGEST:
            raise ValueError(f"words may have {LONGEST} letters at most")
    read = Message._held_as(key, parts)
    if not is_held:
        read._open()
    return read


def _opened(data: Any) -> Said:
    """Words out of what was checked before."""
    if isinstance(data, Said):
        return data
    return Quantity(*data) if type(data) is list else Message._held_as(data["key"], data["words"])


@lru_cache(maxsize=256)
def _fits(unit: str, style: str) -> bool:
    """Whether quantities of this unit can be meant so."""
    if unit:
        return unit in UNITS and (style in DECIMALS or style in MANNERS[:-1])
    if style == "share" or not _FORMAT.fullmatch(style):
        return style == "share"
    try:
        return bool(reads(1, unit, style, "mm"))
    except ValueError:
        return False


def _quantity(value: Any, unit: Any, style: Any) -> Quantity:
    if isinstance(value, bool) or not isinstance(value, int | float) or not abs(value) < 1e12:
        raise ValueError("a quantity has a number")
    if (
        not isinstance(unit, str)
        or not isinstance(style, str)
        or len(unit) + len(style) > 20
        or not _fits(unit, style)
    ):
        raise ValueError("a quantity has a unit, and a style that fits it")
    quantity = Quantity(value, unit, style)
    if style in MANNERS:  # a fraction of nothing, or the like
        try:
            quantity.in_units("mm"), quantity.in_units("inch")
        except ArithmeticError:
            raise ValueError("a quantity can be said") from None
    return quantity
