"""How often a passphrase may be guessed: a few times at once, then slower and slower, by network address and
in all.
"""

from __future__ import annotations

import ipaddress
import time
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass
from threading import Lock as Turn

FREE, FREE_IN_ALL = 5, 60
FIRST_WAIT_S, LONGEST_WAIT_S = 15.0, 900.0
FORGOTTEN_AFTER_S = 3600.0
MOST_ADDRESSES = 4096
EVERYONE = "everyone"


@dataclass
class _Wrong:
    """Wrong guesses from one address: how many, and when the last was made."""

    times: int = 0
    last_s: float = 0.0


class Guesses:
    """Wrong guesses of the last hour.

    After ``FREE`` of them an address waits 15 s, and twice as long after each further one, up to 15 minutes.
    From all addresses together 60 are free; then the same holds for everybody, so that a thousand addresses
    are no faster than one. The right passphrase clears its own address.
    """

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        self._clock, self._turn = clock, Turn()
        self._wrong: OrderedDict[str, _Wrong] = OrderedDict()

    def begin(self, address: str) -> float:
        """How long this address must wait before it may guess [s]; at 0 it may now, and the guess counts as
        wrong until it was `right`, so that a hundred at once are not a hundred free ones.
        """
        key = neighbourhood(address)
        with self._turn:
            wait_s = max(self._left_s(key, FREE), self._left_s(EVERYONE, FREE_IN_ALL))
            if wait_s <= 0:
                self._note(key, EVERYONE)
            return wait_s

    def _note(self, *keys: str) -> None:
        for key in keys:
            self._recent(key)
            noted = self._wrong.setdefault(key, _Wrong())
            noted.times += 1
            noted.last_s = self._clock()
            self._wrong.move_to_end(key)
        while len(self._wrong) > MOST_ADDRESSES:
            self._wrong.popitem(last=False)

    def right(self, address: str) -> None:
        """The last guess of this address was the passphrase: its wrong ones are forgotten."""
        with self._turn:
            self._wrong.pop(neighbourhood(address), None)
            if EVERYONE in self._wrong:
                self._wrong[EVERYONE].times -= 1

    def _left_s(self, key: str, free: int) -> float:
        noted = self._recent(key)
        if noted is None or noted.times < free:
            return 0.0
        wait = min(LONGEST_WAIT_S, FIRST_WAIT_S * 2.0 ** min(noted.times - free, 10))
        return max(0.0, noted.last_s + wait - self._clock())

    def _recent(self, key: str) -> _Wrong | None:
        noted = self._wrong.get(key)
        if noted is not None and self._clock() - noted.last_s > FORGOTTEN_AFTER_S:
            del self._wrong[key]
            return None
        return noted


def neighbourhood(address: str) -> str:
    """What counts as one address: an IPv6 host has a whole /64 of them at its will."""
    try:
        ip = ipaddress.ip_address(address.partition("%")[0])
    except ValueError:
        return address
    if isinstance(ip, ipaddress.IPv6Address):
        mapped = ip.ipv4_mapped
        return str(mapped) if mapped else str(ipaddress.ip_network((ip, 64), strict=False))
    return str(ip)
