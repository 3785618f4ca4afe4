"""What every table is made on."""

from __future__ import annotations

import uuid
from datetime import UTC, datetime

from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column

from anvilsong.store.columns import Document, DocumentText, Moment


def now() -> datetime:
    """Now, UTC, to the second."""
    return datetime.now(UTC).replace(microsecond=0, tzinfo=None)


def fresh_uid() -> str:
    """A name for a row that no other book gives, so that it is known again after export and import."""
    return uuid.uuid4().hex


class Base(DeclarativeBase):
    type_annotation_map = {Document: DocumentText, datetime: Moment}


class PutAway:
    """Rows that can be put away and brought back: history keeps naming them, lists leave them out."""

    put_away_at: Mapped[datetime | None] = mapped_column(default=None)
