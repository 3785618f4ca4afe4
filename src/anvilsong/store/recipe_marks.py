"""What is said of recipes beside their versions, by name: tags, favourite, retired. The caller commits."""

from __future__ import annotations

from datetime import datetime
from typing import NamedTuple

from sqlalchemy import select, update
from sqlalchemy.orm import Session

from anvilsong.core.errors import BadInput
from anvilsong.core.words import sentence
from anvilsong.store.databases import database_of
from anvilsong.store.kept_models import RecipeRow
from anvilsong.store.models import PlanRow, now
from anvilsong.store.reading import check_seen

MOST_TAGS = 200


def named_otherwise(session: Session, was: str, name: str | None) -> None:
    """What was said of a recipe goes along to its new name, or with it where it has none any more."""
    begun = update(PlanRow).where(PlanRow.from_recipe == was.lower())
    session.execute(begun.values(from_recipe=name.lower() if name is not None else None))
    mark = _mark(session, was)
    if mark is not None and name is not None:
        mark.name = name
    elif mark is not None:
        session.delete(mark)
    session.flush()


def _mark(session: Session, name: str) -> RecipeRow | None:
    return session.scalar(
        select(RecipeRow).where(database_of(session).lowered(RecipeRow.name) == name.lower())
    )


class Mark(NamedTuple):
    """What is said of a recipe beside its versions."""

    name: str = ""
    tags: str = ""
    favourite: bool = False
    retired_at: datetime | None = None


def marks_of(session: Session) -> dict[str, Mark]:
    """What is said of recipes beside their versions, by their names in small letters."""
    asked = select(RecipeRow.name, RecipeRow.tags, RecipeRow.favourite, RecipeRow.retired_at)
    return {row[0].lower(): Mark(*row) for row in session.connection().execute(asked)}


def tags_of(mark: Mark | None) -> tuple[str, ...]:
    """The tags of a recipe; none where nothing is said of it."""
    return split_tags(mark.tags) if mark is not None else ()


def split_tags(text: str) -> tuple[str, ...]:
    """Tags that were written apart by commas, each once.

    >>> split_tags("tank, lid,, tank ")
    ('tank', 'lid')
    """
    return tuple(dict.fromkeys(tag.strip() for tag in text.split(",") if tag.strip()))


def said_of(mark: Mark | RecipeRow | None) -> list[str | bool]:
    """What is said of a recipe, as a form is opened on it."""
    said = mark or Mark()
    return [said.tags, said.favourite, said.retired_at is not None]


def mark_recipe(
    session: Session, name: str, tags: str, favourite: bool, retired: bool, seen: str | None = None
) -> None:
    """What is said of a recipe beside its versions; ``seen`` is the digest of what was when the form was
    opened.

    Raises
    ------
    BadInput : tags that are too long, or somebody said something else since
    """
    clean = ", ".join(split_tags(tags))
    if len(clean) > MOST_TAGS or not clean.isprintable():
        raise BadInput.one("tags", tags[:60], sentence("store.tags_few"))
    row = _mark(session, name)
    check_seen(seen, said_of(row), f"the marks of {name}")
    if row is None:
        row = RecipeRow(name=name)
        session.add(row)
    row.tags, row.favourite = clean, favourite
    row.retired_at = (row.retired_at or now()) if retired else None
    session.flush()
