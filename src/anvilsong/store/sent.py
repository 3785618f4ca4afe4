"""Forms that were stored, so that one sent twice is stored once. Functions take a session; the caller
commits.
"""

from __future__ import annotations

from datetime import timedelta

from sqlalchemy import delete, insert, select
from sqlalchemy.orm import Session

from anvilsong.store.models import SentRow, now

KEPT_FOR = timedelta(days=90)


class SentBefore(Exception):
    """The same form was stored a moment ago: what is being written now would be stored twice."""


class BookReplaced(Exception):
    """A backup took the book's place since the page was opened: its numbers may mean other rows now."""


def note_sent(session: Session, uid: str, mark: str) -> None:
    """Remember, in the same transaction as what it stores, that a form was stored.

    Parameters
    ----------
    uid : names the page that the form stood on
    mark : names the page and everything that was typed into the form

    Raises
    ------
    SentBefore : it is there already
    """
    connection = session.connection()  # in a writer's turn: nobody else stores it in between
    if connection.execute(select(SentRow.mark).where(SentRow.mark == mark)).first() is not None:
        raise SentBefore(mark)
    connection.execute(insert(SentRow).values(mark=mark, uid=uid, made_at=now()))


def marks_sent(session: Session, uid: str) -> set[str]:
    """The marks of what was stored from one page."""
    return set(session.scalars(select(SentRow.mark).where(SentRow.uid == uid)))


def forget_old(session: Session) -> None:
    """Nobody sends a page again that was opened so long ago."""
    session.execute(delete(SentRow).where(SentRow.made_at < now() - KEPT_FOR))
