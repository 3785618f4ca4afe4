"""The words of the trade and of this program, as data: what each means, and which drawing shows it."""

from __future__ import annotations

from functools import cache
from typing import Literal

from anvilsong.core.tables import Row, read_table

Picture = Literal["wave", "balance", "trim", "shapes", "section", "crack"]


class Term(Row):
    key: str
    words: str
    says: str
    drawing: Picture | None = None


class Glossary(Row):
    source: str
    term: list[Term]


def terms() -> list[Term]:
    """Every term, in the order they are taught."""
    return read_table("glossary", Glossary).term


@cache
def find_term(key: str) -> Term:
    """The term of that key.

    Raises
    ------
    KeyError : a page that names a term there is not is a mistake of the page
    """
    found = {term.key: term for term in terms()}
    return found[key]
