"""Who did what: each request that writes is noted in the same transaction as what it writes."""

from __future__ import annotations

import re
from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from anvilsong.store.changes import note_change
from anvilsong.store.database import Sessions, sessions
from anvilsong.store.models import JobRow, WelderRow
from anvilsong.web.asgi import Scope

_MAKES_A_JOB = frozenset({"copy_memory", "create_job", "use_recipe"})
_JOB = re.compile(r"^/jobs/(\d{1,18})/")


@dataclass
class _Writing:
    """A request that may write: who sent it, and whether it was noted."""

    scope: Scope
    who: str
    is_noted: bool = False


_WRITING: ContextVar[_Writing | None] = ContextVar("writing", default=None)


@contextmanager
def by(scope: Scope, who: str) -> Iterator[None]:
    """What is written in this block was sent by somebody."""
    token = _WRITING.set(_Writing(scope, who))
    try:
        yield
    finally:
        _WRITING.reset(token)


def before_commit(session: Session) -> None:
    """The change that is being stored is noted in the same transaction, once a request."""
    writing = _WRITING.get()
    if writing is None or writing.is_noted:
        return
    what = getattr(writing.scope.get("endpoint"), "__name__", "")
    if what:
        note_change(session, writing.who, what, _job_of(session, what, writing.scope["path"]))
        writing.is_noted = True


def was_by(session: Session, name: str) -> None:
    """The request was written down by this welder, whoever is at the device now: a coupon that waited for the
    network belongs to who recorded it. A name that is none of the workshop's changes nothing.
    """
    writing = _WRITING.get()
    known = select(WelderRow.id).where(WelderRow.name == name)
    if writing is not None and name and session.scalar(known) is not None:
        writing.who = name


def note_now(make: Sessions) -> None:
    """Note the change of a request whose work was done outside its own transactions, as an import is."""
    with sessions(make.engine).begin() as session:
        before_commit(session)


def _job_of(session: Session, what: str, path: str) -> int | None:
    """The job that a change belongs to: the one that was made just now, which is the newest as long as nobody
    else writes, or that of the address.
    """
    if what in _MAKES_A_JOB:
        return session.scalar(select(func.max(JobRow.id)))
    found = _JOB.match(path)
    return int(found[1]) if found else None
