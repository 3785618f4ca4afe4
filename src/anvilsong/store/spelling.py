"""The words of a text as the search knows them: letters and figures, small, without accents."""

from __future__ import annotations

import re
import unicodedata

_TERM = re.compile(r"[^\W_]+")


def plain_letters(text: str) -> str:
    """A text in small letters without their accents.

    >>> plain_letters("Flöße AŠKA")
    'floße aska'
    """
    apart = unicodedata.normalize("NFD", text.lower())
    return "".join(letter for letter in apart if not unicodedata.combining(letter))


def terms_of(text: str) -> list[str]:
    """The words of a text, in their order.

    >>> terms_of("Float-tank lid, 3.2 mm")
    ['float', 'tank', 'lid', '3', '2', 'mm']
    """
    return _TERM.findall(plain_letters(text))
