"""Kinds of heavy work, what each may take, and how it may end before its end."""

from __future__ import annotations

from dataclasses import dataclass

from anvilsong.core.errors import AnvilsongError


class NoRoom(AnvilsongError):
    """As many as may wait are waiting already."""


class Ended(AnvilsongError):
    """The work took more time or memory than it may, or was given up, and was ended."""


class Stopped(AnvilsongError):
    """Somebody stopped it, or asked again from the same page."""


@dataclass(frozen=True)
class Room:
    """What may be asked of one process: for how long [s], with how much memory [MB], how many waiting."""

    words: str
    seconds: float
    megabytes: int
    most: int


PICTURES = Room("Pictures and drawings", seconds=60, megabytes=1500, most=8)
PARTS = Room("Parts", seconds=1800, megabytes=3000, most=4)
BOOK = Room("Exports", seconds=1800, megabytes=1500, most=4)
