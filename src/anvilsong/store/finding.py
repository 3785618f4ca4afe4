"""What somebody meant by a search: words of jobs by their beginnings, else by a piece of them, else by the
nearest spelling; and what else of the shop has such a name.

The terms are those of the index of words itself, so that nothing is indexed twice.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from difflib import SequenceMatcher
from typing import Any

from sqlalchemy import ColumnElement, func, select, text
from sqlalchemy.orm import Session

from anvilsong.store.models import MachineRow, PlanRow

MOST_WORDS, MOST_TERMS, MOST_NAMED = 12, 40, 8
LIKE_ENOUGH, SHORTEST_GUESS = 0.72, 4  # of two spellings; letters under which nothing is guessed
PIECE = 3  # letters that two spellings have in common at least


@dataclass(frozen=True)
class Meant:
    """The question for the index, None where nothing fits, and words read as others: typed, read."""

    match: str | None
    read_as: tuple[tuple[str, tuple[str, ...]], ...] = ()


def meant(session: Session, query: str) -> Meant:
    """A query as the index of words is asked; every word of it has to be there."""
    words = re.findall(r"\w+", query)[:MOST_WORDS]
    if not words:
        return Meant(None)
    parts, read_as = [], []
    for word in words:
        if _begins(session, word):
            parts.append(f'"{word}"*')
            continue
        terms = _holding(session, word)
        if not terms:
            terms = _spelt_like(session, word)
            if not terms:
                return Meant(None)
            read_as.append((word, tuple(terms)))
        parts.append("(" + " OR ".join(f'"{term}"' for term in terms) + ")")
    return Meant(" AND ".join(parts), tuple(read_as))


def _begins(session: Session, word: str) -> bool:
    asked = text("SELECT 1 FROM words WHERE words MATCH :match LIMIT 1")
    return session.execute(asked, {"match": f'"{word}"*'}).first() is not None


def _holding(session: Session, word: str) -> list[str]:
    """Terms that hold a word within them, the usual ones first."""
    if len(word) < PIECE:
        return []
    asked = text("SELECT term FROM words_terms WHERE term LIKE :piece ORDER BY doc DESC LIMIT :most")
    given = {"piece": f"%{word.lower()}%", "most": MOST_TERMS}
    return [term for term in session.scalars(asked, given) if _is_word(term)]


def _spelt_like(session: Session, word: str) -> list[str]:
    """Terms that are spelt much like a word: they share three letters in a row with it, or its ends."""
    plain = word.lower()
    if len(plain) < SHORTEST_GUESS:
        return []
    pieces = {plain[at : at + PIECE] for at in range(len(plain) - PIECE + 1)}
    likes = [f"%{piece}%" for piece in pieces] + [f"{plain[0]}%{plain[-1]}"]
    given = {f"p{n}": like for n, like in enumerate(likes)}
    fits = " OR ".join(f"term LIKE :{name}" for name in given)
    asked = text(f"SELECT term FROM words_terms WHERE length(term) BETWEEN :low AND :high AND ({fits})")
    near = session.scalars(asked, given | {"low": len(plain) - 2, "high": len(plain) + 2})
    ranked = sorted(
        ((SequenceMatcher(None, plain, term).ratio(), term) for term in near if _is_word(term)), reverse=True
    )
    best = ranked[0][0] if ranked else 0.0
    return [term for alike, term in ranked[:MOST_NAMED] if alike >= max(LIKE_ENOUGH, best - 0.05)]


def _is_word(term: str) -> bool:
    """Whether a term of the index can be asked for: letters and figures alone."""
    return re.fullmatch(r"\w+", term) is not None


def _holds(column: Any, query: str) -> ColumnElement[bool]:
    """Whether a name holds a query, in letters of any size."""
    held: ColumnElement[bool] = func.lower(column).contains(query.lower(), autoescape=True)
    return held


def named_recipes(session: Session, query: str) -> list[tuple[int, str]]:
    """Recipes whose names hold a query, each by its newest version."""
    asked = (
        select(func.max(PlanRow.id), PlanRow.recipe)
        .where(PlanRow.recipe.is_not(None), _holds(PlanRow.recipe, query))
        .group_by(func.lower(PlanRow.recipe))
        .limit(MOST_NAMED)
    )
    return [(number, name or "") for number, name in session.execute(asked)]


def named_machines(session: Session, query: str) -> list[tuple[int, str]]:
    """Machines whose names hold a query."""
    asked = (
        select(MachineRow.id, MachineRow.name)
        .where(
            MachineRow.put_away_at.is_(None),
            _holds(MachineRow.name, query),
        )
        .limit(MOST_NAMED)
    )
    return [(number, name) for number, name in session.execute(asked)]
