"""What the process of a room does around its work: limits, how far it has come, and its own end."""

from __future__ import annotations

import os
import signal
import threading
import time
from collections.abc import Callable
from typing import Any

LOOKS_EVERY_S = 1.0
_SHARED: Any = None


class StoppedInside(Exception):
    """Somebody stopped the work between two steps."""


def begin(shared: Any, megabytes: int) -> None:
    """Called once when the process starts: memory is limited, the keyboard's interrupt is the server's
    business, and when the server is gone this ends too.
    """
    global _SHARED
    _SHARED = shared
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    try:
        import resource
    except ImportError:  # a system without such limits
        pass
    else:
        resource.setrlimit(resource.RLIMIT_DATA, (megabytes * 2**20, megabytes * 2**20))
    threading.Thread(target=_follow, args=(os.getppid(),), daemon=True).start()


def _follow(server: int) -> None:
    while os.getppid() == server:
        time.sleep(LOOKS_EVERY_S)
    os._exit(1)


def computed(number: int, function: Callable[..., Any], *given: Any) -> Any:
    """Run one piece of work under its number."""
    _SHARED[1], _SHARED[0] = 0.0, number
    try:
        return function(*given)
    finally:
        _SHARED[0] = 0


def progress(share: float) -> None:
    """Told by the work, 0 to 1; where somebody stopped it, it ends here."""
    if _SHARED[2] == _SHARED[0]:
        raise StoppedInside
    _SHARED[1] = max(_SHARED[1], min(share, 1.0))
