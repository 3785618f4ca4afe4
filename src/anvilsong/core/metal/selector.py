"""The published guide to fillers: what it names for a pair of metals."""

from __future__ import annotations

from functools import cache

from anvilsong.core.metal.alloys import Alloy
from anvilsong.core.tables import Row, read_table


class Watch(Row):
    """A caution for metals of some groups beside those of others."""

    groups: list[str]
    beside: list[str]
    words: str


class SelectorTable(Row):
    """Metals by group, and by two groups the fillers that are named, first choice first."""

    source: str
    groups: dict[str, list[str]]
    names: dict[str, dict[str, list[str]]]
    watch: list[Watch]


def named_for(a: Alloy, b: Alloy) -> list[str] | None:
    """Fillers that the guide names for a pair, first choice first: none where it names none, None where it
    does not know the metal.
    """
    one, other = _group(a.name), _group(b.name)
    if one is None or other is None:
        return None
    names = _table().names
    return names[one].get(other) or names[other].get(one) or []


def watch_for(a: Alloy, b: Alloy) -> str | None:
    """The caution that stands with a pair, where one does."""
    pair = _group(a.name), _group(b.name)
    for watch in _table().watch:
        if any(one in watch.groups and other in watch.beside for one, other in (pair, pair[::-1])):
            return watch.words
    return None


@cache
def _group(name: str) -> str | None:
    return next((group for group, metals in _table().groups.items() if name in metals), None)


def _table() -> SelectorTable:
    return read_table("selector", SelectorTable)
