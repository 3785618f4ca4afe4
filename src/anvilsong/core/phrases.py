"""Words changed at their ends, as a sentence takes them."""

from __future__ import annotations

from collections.abc import Callable
from typing import overload

from anvilsong.core.said import Message, Words, in_units, joined


@overload
def capital(words: str) -> str: ...
@overload
def capital(words: Words) -> Words: ...
def capital(words: Words) -> Words:
    """The same words with a capital letter at their beginning."""
    return _at_end(words, 0, lambda text: text[:1].upper() + text[1:])


@overload
def small(words: str) -> str: ...
@overload
def small(words: Words) -> Words: ...
def small(words: Words) -> Words:
    """The same words as they stand inside a sentence: with a small letter, unless they begin with an
    abbreviation.
    """
    return _at_end(words, 0, lambda text: text if text[:2].isupper() else text[:1].lower() + text[1:])


@overload
def without_stop(words: str) -> str: ...
@overload
def without_stop(words: Words) -> Words: ...
def without_stop(words: Words) -> Words:
    """The same words without the full stop at their end."""
    return _at_end(words, -1, lambda text: text.rstrip("."))


def _at_end(words: Words, which: int, change: Callable[[str], str]) -> Words:
    """The words with the text at one of their ends changed; a quantity there stays as it is."""
    if isinstance(words, str):
        return change(words)
    full = [at for at, word in enumerate(words.words) if word] if isinstance(words, Message) else []
    if not full or not isinstance(words, Message):
        return words
    parts = list(words.words)
    parts[full[which]] = _at_end(parts[full[which]], which, change)
    return Message(words.key, tuple(parts), words.places)


def parted(words: Words, sign: str) -> tuple[str, Words]:
    """The text before the first of a sign, and the words after it; all of them where it is not there.

    >>> parted("names|each name has one point", "|")
    ('names', 'each name has one point')
    """
    every = words.words if isinstance(words, Message) else (words,)
    for at, word in enumerate(every):
        if isinstance(word, str) and sign in word:
            before, after = word.split(sign, 1)
            return in_units(joined(*every[:at], before)), joined(after, *every[at + 1 :]) if every[
                at + 1 :
            ] else after
    return "", words
