"""Tables of what a shop keeps beside its jobs' own: marks of recipes, memories of machines, runs on parts,
and who changed what.
"""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import ForeignKey, String, false
from sqlalchemy.orm import Mapped, mapped_column, validates

from anvilsong.store.base import Base, fresh_uid, now
from anvilsong.store.columns import Document, figure

SUMMED = ("seconds", "gas_l", "rod_mm", "cost")


class RecipeRow(Base):
    """What is said of a recipe beside its versions, by its name."""

    __tablename__ = "recipes"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(60), unique=True)
    tags: Mapped[str] = mapped_column(String(200), default="", server_default="")
    """Words apart by commas."""
    favourite: Mapped[bool] = mapped_column(default=False, server_default=false())
    retired_at: Mapped[datetime | None] = mapped_column(default=None)


class MemoryRow(Base):
    """A version of a job stored in a numbered memory of a machine; ``gone_at`` once something else is."""

    __tablename__ = "memories"

    id: Mapped[int] = mapped_column(primary_key=True)
    uid: Mapped[str] = mapped_column(String(32), default=fresh_uid, index=True, unique=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("jobs.id"), index=True)
    revision: Mapped[int]
    machine: Mapped[str] = mapped_column(String(60), index=True)
    slot: Mapped[int]
    label: Mapped[str] = mapped_column(String(40), default="", server_default="")
    gone_at: Mapped[datetime | None] = mapped_column(default=None)
    panel: Mapped[Document | None] = mapped_column(default=None)
    """How the panel stood when it was stored."""
    made_at: Mapped[datetime] = mapped_column(default=now)


class PartRunRow(Base):
    """A weld on a real part, run with a version of a job."""

    __tablename__ = "part_runs"

    id: Mapped[int] = mapped_column(primary_key=True)
    uid: Mapped[str] = mapped_column(String(32), default=fresh_uid, index=True, unique=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("jobs.id"), index=True)
    revision: Mapped[int]
    document: Mapped[Document]
    seconds: Mapped[float | None]
    gas_l: Mapped[float | None]
    rod_mm: Mapped[float | None]
    cost: Mapped[float | None]
    """These four as in the document, to be summed; None where it cannot be read or does not say."""
    made_at: Mapped[datetime] = mapped_column(default=now, index=True)

    @validates("document")
    def _with_sums(self, _name: str, document: Document) -> Document:
        for name in SUMMED:
            setattr(self, name, figure(document.get(name)))
        return document


class PracticeRow(Base):
    """An exercise that somebody did; ``welder`` is empty where nobody said who."""

    __tablename__ = "practice"

    id: Mapped[int] = mapped_column(primary_key=True)
    uid: Mapped[str] = mapped_column(String(32), default=fresh_uid, index=True, unique=True)
    welder: Mapped[str] = mapped_column(String(60), default="", server_default="", index=True)
    skill: Mapped[str] = mapped_column(String(20))
    item: Mapped[str] = mapped_column(String(60))
    score: Mapped[float]
    document: Mapped[Document]
    made_at: Mapped[datetime] = mapped_column(default=now)


class ChangeRow(Base):
    """Something that somebody changed: added to, never corrected."""

    __tablename__ = "changes"

    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int | None] = mapped_column(index=True)
    """A number alone: what is noted outlives what it was about."""
    who: Mapped[str] = mapped_column(String(60), default="", server_default="")
    what: Mapped[str] = mapped_column(String(40))
    made_at: Mapped[datetime] = mapped_column(default=now)


class SentRow(Base):
    """A form that was stored: the page it stood on, and a mark of all that was typed into it."""

    __tablename__ = "sent_forms"

    mark: Mapped[str] = mapped_column(String(32), primary_key=True)
    uid: Mapped[str] = mapped_column(String(32), index=True)
    made_at: Mapped[datetime] = mapped_column(default=now)


class TermRow(Base):
    """A word that some job was once found by, small and without accents."""

    __tablename__ = "terms"

    id: Mapped[int] = mapped_column(primary_key=True)
    term: Mapped[str] = mapped_column(String, index=True, unique=True)
