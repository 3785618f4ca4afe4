"""Visits: who came in with the passphrase carries a signed note of it, and nothing of it is stored here."""

from __future__ import annotations

import re
import secrets
import time
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from itsdangerous import BadData, URLSafeTimedSerializer

from anvilsong.store.files import OWNER_ONLY

VISIT_COOKIE, WHO_COOKIE = "visit", "who"
VISIT_S = 60 * 24 * 3600
TICKET_S = 600
MOST_LETTERS = 60  # of a name


@dataclass(frozen=True)
class Visit:
    """One browser that came in: its number, and the welder who works at it ('' when not said)."""

    number: str
    who: str = ""


class Visits:
    """Signs visits and tickets with the lock's secret, and reads them."""

    def __init__(self, secret: str, beside: Path) -> None:
        self._visits = URLSafeTimedSerializer(secret, salt="visit")
        self._tickets = URLSafeTimedSerializer(secret, salt="ticket")
        self._beside = beside

    def note(self, visit: Visit) -> str:
        """A visit as the text of a cookie."""
        return str(self._visits.dumps([visit.number, visit.who]))

    def read(self, note: str) -> Visit | None:
        """The visit of a note; None where it was not signed here, is too old, or of an earlier passphrase."""
        return _loaded(self._visits, note, VISIT_S)

    def ticket(self, who: str = "") -> str:
        """A ticket that lets one device in within ten minutes, instead of the passphrase, for the same
        welder.
        """
        return str(self._tickets.dumps([secrets.token_hex(8), who]))

    def take(self, ticket: str) -> Visit | None:
        """The visit that begins with a ticket; a ticket is taken once."""
        visit = _loaded(self._tickets, ticket, TICKET_S)
        if visit is None:
            return None
        return fresh(visit.who) if self._is_first(visit.number) else None

    def _is_first(self, number: str) -> bool:
        """Whether a ticket was taken by nobody, of whichever process that serves the logbook: a file of its
        number stands there from then on, for as long as it would hold.
        """
        mark = re.compile(rf"\.{re.escape(self._beside.name)}\.[0-9a-f]{{16}}\.ticket")
        for taken in self._beside.parent.iterdir():
            with suppress(FileNotFoundError):  # another process was quicker
                if mark.fullmatch(taken.name) and time.time() - taken.stat().st_mtime > TICKET_S:
                    taken.unlink()
        try:
            self._beside.with_name(f".{self._beside.name}.{number}.ticket").touch(OWNER_ONLY, exist_ok=False)
        except FileExistsError:
            return False
        return True


def fresh(who: str = "") -> Visit:
    """A visit that begins."""
    return Visit(secrets.token_hex(8), who)


def _loaded(signer: URLSafeTimedSerializer, text: str, most_s: int) -> Visit | None:
    try:
        said: Any = signer.loads(text, max_age=most_s)
    except BadData:
        return None
    match said:
        case [str(number), str(who)]:
            return Visit(number, who[:MOST_LETTERS])
    return None
