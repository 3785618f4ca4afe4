"""What the core says to people: sentences as data, one table a room, asked by a key and its values.

``sentence("checks.melt_through", top=7.1, root=6.0)`` takes the sentence of that key from
``core/words/checks.toml`` and puts the values in its places. A place has a name and how its value is shown:
``{top:mm}`` a length, ``{thick:sheet}`` a thickness with its gauge, ``{load:percent}`` a share,
``{run:.0f}`` a figure with so many decimals, ``{name}`` as it is. Decimals follow a kind after a point:
``{stray:mm.2}``. The kinds are the functions of ``core/say.py``; what is said in a unit follows the reader's.
"""

from __future__ import annotations

import re
import tomllib
from collections.abc import Callable
from functools import cache
from importlib.resources import files
from typing import Any

from anvilsong.core import say
from anvilsong.core.said import Message, Quantity, Said, Words

_PLACE = re.compile(r"\{(?P<name>[a-z][a-z0-9_]*)(?::(?P<kind>[^{}]*))?\}")
# Kinds that take decimals, and kinds that have their own way.
_LENGTHS: dict[str, Callable[[float, int], Words]] = {
    "mm": say.mm, "mm_s": say.mm_s, "m_s": say.m_s, "l_min": say.l_min, "kg": say.kg, "metres": say.metres,
    "litres": say.litres,
}  # fmt: skip
_WAYS: dict[str, Callable[[float], Words]] = {
    "size": say.size, "sheet": say.sheet, "near_mm": say.near_mm, "about_mm": say.about_mm,
    "celsius": say.celsius, "bar": say.bar, "grams": say.grams, "density": say.density, "mm2": say.mm2,
    "percent": say.share,
}  # fmt: skip
_USUAL = {"metres": 0}
_PER_MM = re.compile(r"per_mm\((?P<unit>\w+)\)(?:\.(?P<places>\d))?")


def sentence(key: str, /, **values: Any) -> Message:
    """The sentence of a key with its values in their places.

    Raises
    ------
    KeyError : no table has this key, or a place has no value
    TypeError : a value that has no place
    """
    parts, places, names = _parts(key)
    if extra := values.keys() - names:
        raise TypeError(f"{key} has no place for {', '.join(sorted(extra))}")
    words = tuple(
        [
            part if isinstance(part, str) else part(values[name])
            for part, name in zip(parts, places, strict=True)
        ]
    )
    return Message(key, words, places)


@cache
def table(room: str) -> dict[str, str]:
    """The sentences of a room of the core, or of a whole floor such as ``store``, by their keys."""
    place = files("anvilsong.core.words").joinpath(f"{room}.toml")
    if not place.is_file():
        place = files("anvilsong").joinpath(room, "words.toml")
    return {key: str(text) for key, text in tomllib.loads(place.read_text(encoding="utf-8")).items()}


def rooms() -> list[str]:
    """Every room and floor that has a table of words."""
    own = [each.name.removesuffix(".toml") for each in files("anvilsong.core.words").iterdir()]
    floors = [each.name for each in files("anvilsong").iterdir() if each.joinpath("words.toml").is_file()]
    return sorted([*(name for name in own if not name.startswith("__")), *floors])


def places(key: str) -> dict[str, str]:
    """The places of a sentence, each with how its value is shown."""
    room, _, name = key.partition(".")
    return {found["name"]: found["kind"] or "" for found in _PLACE.finditer(table(room)[name])}


@cache
def _parts(key: str) -> tuple[tuple[str | Callable[[Any], Words], ...], tuple[str, ...], frozenset[str]]:
    """A sentence taken apart: its words, with what says a value in each place, and the places' names."""
    room, _, name = key.partition(".")
    text, parts, names, at = table(room)[name], list[str | Callable[[Any], Words]](), list[str](), 0
    for found in _PLACE.finditer(text):
        parts += [text[at : found.start()], _sayer(found["kind"] or "")]
        names += ["", found["name"]]
        at = found.end()
    return (*parts, text[at:]), (*names, ""), frozenset(names)


def _sayer(kind: str) -> Callable[[Any], Words]:
    """What says a value of a kind."""
    name, _, places = kind.partition(".")
    if name in _WAYS:
        return _WAYS[name]
    if name in _LENGTHS:
        say_length, decimals = _LENGTHS[name], int(places) if places else _USUAL.get(name, 1)
        return lambda value: say_length(value, decimals)
    if found := _PER_MM.fullmatch(kind):
        return lambda value: say.per_mm(value, found["unit"], int(found["places"] or 1))
    return lambda value: _as_it_is(value, kind)


def _as_it_is(value: Any, kind: str) -> Words:
    """Words, or a number by its format."""
    if isinstance(value, str | Said):
        return value
    if isinstance(value, int) and not isinstance(value, bool) and kind in ("", ","):
        return Quantity(int(value), "", kind + "d")
    if isinstance(value, float | int) and not isinstance(value, bool):
        return Quantity(float(value), "", kind)
    return format(value, kind)
