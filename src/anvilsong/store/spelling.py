"""The words of a text as the search knows them: letters and figures, small, without accents."""

from __future__ import annotations

import re
import unicodedata

MOST_LETTERS = 200  # no word of a language has as many
_TERM = re.compile(r"[^\W_]+")


def plain_letters(text: str) -> str:
    """A text in small letters without their accents.

    >>> plain_letters("Flöße AŠKA")
    'floße aska'
    """
    apart = unicodedata.normalize("NFD", text.lower())
    return "".join(letter for letter in apart if not unicodedata.combining(letter))


def terms_of(text: str) -> list[str]:
    """The words of a text, in their order; of one without end its first letters.

    >>> terms_of("Float-tank lid, 3.2 mm")
    ['float', 'tank', 'lid', '3', '2', 'mm']
    """
    return [term[:MOST_LETTERS] for term in _TERM.findall(plain_letters(text))]
