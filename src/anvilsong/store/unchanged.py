"""What was read of a logbook, for as long as nobody changes the logbook: the same machines and kits are asked
for by every page and every what-if.

It is held beside each connection, under what SQLite itself counts: the commits of others that the connection
has seen, and the rows that it has changed. Both are read inside the transaction that asks, so what is given
is what the transaction would read. Who writes reads anew, since a write may be undone; so does everybody on a
server, which counts no such thing.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable
from typing import Any, TypeVar

from sqlalchemy.orm import Session

from anvilsong.store.databases import database_of

Given = TypeVar("Given")
MOST_HELD = 1000
_PLACE = "unchanged"


def unchanged(session: Session, what: Hashable, read: Callable[[], Given]) -> Given:
    """What ``read`` gives, read once for as long as the logbook stays as it is.

    Parameters
    ----------
    what : names what is read; the same name stands for the same question
    read : reads it with this session; what it gives is shared by many, and must never be changed

    Raises
    ------
    Whatever ``read`` raises; nothing is held then
    """
    connection = session.connection()
    is_writing = connection.get_execution_options().get("writes", False)
    state = None if is_writing else database_of(connection).state(connection)
    if state is None:
        return read()
    held: tuple[Any, dict[Hashable, Any]] | None = connection.info.get(_PLACE)
    if held is None or held[0] != state or len(held[1]) > MOST_HELD:
        held = connection.info[_PLACE] = (state, {})
    if what not in held[1]:
        held[1][what] = read()
    found: Given = held[1][what]
    return found
