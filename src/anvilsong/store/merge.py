"""Two people changed the same thing: put together what does not touch, and name what does."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from typing import Any

from anvilsong.store.columns import Document

_GONE = object()


@dataclass(frozen=True)
class Clash:
    """One value that both changed: where it stands in the document, what mine is and what theirs is."""

    path: str
    mine: Any
    theirs: Any


@dataclass(frozen=True)
class Merged:
    """A document of both changes, and where they met. Where they did, it holds theirs."""

    document: Document
    clashes: tuple[Clash, ...]


def merge(base: Document, mine: Document, theirs: Document, whole: Collection[str] = ()) -> Merged:
    """Three-way merge of plain data, value by value.

    Parameters
    ----------
    base : what both started from
    whole : paths whose value counts as one piece, though it is a group of its own

    Notes
    -----
    A value that only one changed is theirs or mine; one that both changed to the same is that; lists count
    as one piece.
    """
    clashes: list[Clash] = []
    document = _merged(base, mine, theirs, "", frozenset(whole), clashes)
    return Merged(document, tuple(clashes))


def _merged(base: Any, mine: Any, theirs: Any, path: str, whole: frozenset[str], clashes: list[Clash]) -> Any:
    groups = [value for value in (base, mine, theirs) if isinstance(value, dict)]
    if len(groups) == 3 and path not in whole:
        found = {}
        for key in dict.fromkeys((*theirs, *mine)):
            inner = f"{path}.{key}" if path else key
            was, own, other = (group.get(key, _GONE) for group in (base, mine, theirs))
            value = _merged(was, own, other, inner, whole, clashes)
            if value is not _GONE:
                found[key] = value
        return found
    if mine in (theirs, base):
        return theirs
    if theirs == base:
        return mine
    clashes.append(Clash(path, None if mine is _GONE else mine, None if theirs is _GONE else theirs))
    return theirs
