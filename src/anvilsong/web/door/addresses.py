"""Under which addresses other devices of the shop's network reach this machine."""

from __future__ import annotations

import ipaddress
import socket
import time
from contextlib import closing, suppress
from functools import lru_cache
from urllib.parse import urlsplit

from anvilsong.config import Config
from anvilsong.web.guard.origins import is_loopback

# An address of documentation (RFC 5737): asking for the way there sends nothing.
FAR_AWAY = ("192.0.2.1", 9)
EVERYWHERE = ("0.0.0.0", "::")
ASKED_EVERY_S = 60.0


def own_numbers() -> list[str]:
    """This machine's numbers on its networks, the one that leads outward first; loopback is none. Asked once
    a minute at most: a network without names answers slowly.
    """
    return list(_numbers(int(time.monotonic() // ASKED_EVERY_S)))


@lru_cache(maxsize=1)
def _numbers(_minute: int) -> tuple[str, ...]:
    found: list[str] = []
    with suppress(OSError), closing(socket.socket(socket.AF_INET, socket.SOCK_DGRAM)) as asking:
        asking.connect(FAR_AWAY)
        found.append(asking.getsockname()[0])
    with suppress(OSError):
        for *_, address in socket.getaddrinfo(socket.gethostname(), None, socket.AF_INET):
            found.append(str(address[0]))
    return tuple(each for each in dict.fromkeys(found) if not ipaddress.ip_address(each).is_loopback)


def own_names() -> list[str]:
    """This machine's names on its networks."""
    name = socket.gethostname().lower()
    return [f"{name}.local"] if name and "." not in name else [name]


def addresses(config: Config) -> list[str]:
    """Addresses to be typed or photographed on another device, the surest first."""
    hosts = own_numbers() + own_names() if config.host in EVERYWHERE else [config.host]
    return [f"{config.scheme}://{_bracketed(host)}:{config.port}" for host in hosts]


def _bracketed(host: str) -> str:
    return f"[{host}]" if ":" in host else host


def seen_from_outside(config: Config, base: str) -> str:
    """Where a phone finds what this page calls ``base``: at the machine itself the address in the shop's
    network, where there is one.
    """
    if is_loopback(urlsplit(base).hostname or "") and config.asks_who:
        base = addresses(config)[0]
    return base.rstrip("/")
