"""What was worked out a moment ago, by what it was worked out from: a write that was rehearsed does not work
it out again while others wait.
"""

from __future__ import annotations

import hashlib
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import fields, is_dataclass
from threading import Lock
from typing import Any, TypeVar

from pydantic import BaseModel

Result = TypeVar("Result")


class Remembered:
    """The last results of functions that give the same for the same values; their results are frozen."""

    def __init__(self, most: int) -> None:
        self._most, self._lock = most, Lock()
        self._found: OrderedDict[bytes, Any] = OrderedDict()

    def of(self, function: Callable[..., Result], *given: Any) -> Result:
        """``function(*given)``, worked out once."""
        key = _key(function, given)
        with self._lock:
            if key in self._found:
                self._found.move_to_end(key)
                found: Result = self._found[key]
                return found
        result = function(*given)
        with self._lock:
            self._found[key] = result
            while len(self._found) > self._most:
                self._found.popitem(last=False)
        return result


def _key(function: Callable[..., Any], given: Any) -> bytes:
    whole = hashlib.blake2b(f"{function.__module__}.{function.__qualname__}".encode(), digest_size=20)
    _add(whole, given)
    return whole.digest()


def _add(whole: Any, value: Any) -> None:
    """A value's content, with marks between so that no two contents read alike."""
    if isinstance(value, BaseModel):
        whole.update(b"m" + type(value).__name__.encode() + value.model_dump_json().encode() + b"\0")
    elif is_dataclass(value) and not isinstance(value, type):
        whole.update(b"d" + type(value).__name__.encode())
        for each in fields(value):
            _add(whole, getattr(value, each.name))
    elif isinstance(value, list | tuple):
        whole.update(b"l%d:" % len(value))
        for inner in value:
            _add(whole, inner)
    else:
        whole.update(b"p" + repr(value).encode() + b"\0")


WORKED = Remembered(64)
