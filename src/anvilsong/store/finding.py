"""What somebody meant by a search: words of jobs by their beginnings, else by a piece of them, else by the
nearest spelling; and what else of the shop has such a name.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from rapidfuzz.distance import OSA
from sqlalchemy import func, select, text
from sqlalchemy.orm import Session

from anvilsong.store.databases import database_of
from anvilsong.store.models import MachineRow, PlanRow, TermRow
from anvilsong.store.spelling import terms_of

MOST_WORDS, MOST_TERMS, MOST_NAMED = 12, 40, 8
MOST_SLIPS, LETTERS_A_SLIP = 2, 4  # letters wrong, left out, too many or two the wrong way round
LAST_LETTER = "\U0010ffff"
PIECE = 3  # letters that two spellings have in common at least


@dataclass(frozen=True)
class Meant:
    """The question for the index, None where nothing fits, and words read as others: typed, read."""

    match: str | None
    read_as: tuple[tuple[str, tuple[str, ...]], ...] = ()


def meant(session: Session, query: str) -> Meant:
    """A query as the index of words is asked; every word of it has to be there."""
    words = terms_of(query)[:MOST_WORDS]
    if not words:
        return Meant(None)
    database, parts, read_as = database_of(session), [], []
    for word in words:
        if _stands(session, database.begins(word)):
            parts.append(database.begins(word))
            continue
        terms = _holding(session, word)
        if not terms:
            terms = _spelt_like(session, word)
            if not terms:
                return Meant(None)
            read_as.append((word, tuple(terms)))
        parts.append(database.any_of(terms))
    return Meant(database.all_of(parts), tuple(read_as))


def _stands(session: Session, question: str) -> bool:
    """Whether any job fits a question."""
    fitting = database_of(session).fitting(question)
    return session.execute(text(f"{fitting.text} LIMIT 1"), fitting.compile().params).first() is not None


def _with_pieces(session: Session, pieces: Iterable[str]) -> list[str]:
    """Terms that have one of some pieces of three letters or more within them, the shortest first."""
    return list(session.scalars(database_of(session).with_pieces(pieces)))


def _holding(session: Session, word: str) -> list[str]:
    """Terms that hold a word within them and that some job still has, those nearest to it first."""
    if len(word) < PIECE:
        return []
    found = _with_pieces(session, [word])[:MOST_TERMS]
    return found if found and _stands(session, database_of(session).any_of(found)) else []


def _spelt_like(session: Session, word: str) -> list[str]:
    """Terms nearest to a word's spelling, by the fewest slips; they share three letters in a row with it, or
    its ends.
    """
    if len(word) < LETTERS_A_SLIP:
        return []
    near = set(_with_pieces(session, {word[at : at + PIECE] for at in range(len(word) - PIECE + 1)}))
    first, last, letters = word[0], word[-1], func.length(TermRow.term)
    same_ends = select(TermRow.term).where(
        TermRow.term.between(first, first + LAST_LETTER),
        TermRow.term.endswith(last),
        letters.between(len(word) - MOST_SLIPS, len(word) + MOST_SLIPS),
    )
    near.update(session.scalars(same_ends))
    database = database_of(session)
    slips = {term: OSA.distance(word, term, score_cutoff=MOST_SLIPS) for term in near}
    for count in range(min(MOST_SLIPS, len(word) // LETTERS_A_SLIP) + 1):
        like = sorted(term for term, slip in slips.items() if slip == count)
        if standing := [term for term in like[:MOST_NAMED] if _stands(session, database.any_of([term]))]:
            return standing
    return []


def named_recipes(session: Session, query: str) -> list[tuple[int, str]]:
    """Recipes whose names hold a query, each by its newest version."""
    asked = (
        select(func.max(PlanRow.id), func.max(PlanRow.recipe))
        .where(PlanRow.recipe_key.contains(query.lower(), autoescape=True))
        .group_by(PlanRow.recipe_key)
        .limit(MOST_NAMED)
    )
    return [(number, name or "") for number, name in session.execute(asked)]


def named_machines(session: Session, query: str) -> list[tuple[int, str]]:
    """Machines whose names hold a query."""
    asked = (
        select(MachineRow.id, MachineRow.name)
        .where(
            MachineRow.put_away_at.is_(None),
            database_of(session).lowered(MachineRow.name).contains(query.lower(), autoescape=True),
        )
        .limit(MOST_NAMED)
    )
    return [(number, name) for number, name in session.execute(asked)]
