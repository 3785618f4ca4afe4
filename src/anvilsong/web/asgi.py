"""The words of ASGI that the guards share."""

from __future__ import annotations

from collections.abc import Awaitable, Callable, MutableMapping
from typing import Any

Scope = MutableMapping[str, Any]
Message = MutableMapping[str, Any]
Receive = Callable[[], Awaitable[Message]]
Send = Callable[[Message], Awaitable[None]]
App = Callable[[Scope, Receive, Send], Awaitable[None]]

BODY = "anvilsong.body"  # where in the scope the body of a form is kept, for the page that tells of a fault
VISIT = "anvilsong.visit"  # where in the scope stands who came in
STAYS = "anvilsong.stays"  # where in the scope of a socket stands how to ask whether that visit still holds
WRITES = frozenset({"POST", "PUT", "PATCH", "DELETE"})


def header(scope: Scope, name: bytes) -> str:
    """A header's text; empty when it was not sent."""
    for key, value in scope["headers"]:
        if key == name:
            return bytes(value).decode("latin-1")
    return ""
