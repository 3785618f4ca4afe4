"""Stored documents back as values of the core, forgiving: what cannot be read is None, and the reader says
so.
"""

from __future__ import annotations

import hashlib
import json
import logging
from functools import lru_cache
from typing import Any, TypeVar

from pydantic import BaseModel, ValidationError

from anvilsong.core import say
from anvilsong.core.errors import BadInput
from anvilsong.core.said import Words
from anvilsong.core.words import sentence
from anvilsong.store.columns import Document, Stored, is_printable

log = logging.getLogger("anvilsong")
Model = TypeVar("Model", bound=BaseModel)
MOST_KNOWN_LETTERS = 65_536  # of a text that is known by itself: the result of a part would fill the memory


def document(value: BaseModel) -> Document:
    """A core value as plain JSON data."""
    return value.model_dump(mode="json", by_alias=True)


def readable(model: type[Model], stored: Any) -> Model | None:
    """The value a document stands for; None when it is damaged, or older than a rule it breaks."""
    return readable_text(model, stored.text) if isinstance(stored, Stored) else _validated(model, stored)


def _validated(model: type[Model], stored: Any) -> Model | None:
    try:
        return model.model_validate(stored)
    except (ValidationError, RecursionError):
        return None
    except Exception as error:  # a check that fails on what nobody thought of must not take a page down
        log.error("A stored %s could not be read", model.__name__, exc_info=error)
        return None


def readable_text(model: type[Model], text: str | None) -> Model | None:
    """The value that a document's text stands for. Kept by its text: the same machine is read at every
    what-if.
    """
    if text is None:
        return None
    return _read(model, text) if len(text) <= MOST_KNOWN_LETTERS else read_text(model, text)


@lru_cache(maxsize=2048)
def _read(model: type[Any], text: str) -> Any:
    return read_text(model, text)


def read_text(model: type[Model], text: str) -> Model | None:
    """The same for what is large: read anew each time."""
    try:
        found = json.loads(text)
    except (ValueError, TypeError, RecursionError):
        return None
    return _validated(model, found) if is_printable(text, found) else None


def check_seen(seen: str | None, stored: Any, what: str, differs: Words = "") -> None:
    """That what is stored is still what a form was opened on; ``seen`` is the digest that the form carries.

    Raises
    ------
    BadInput : somebody saved it since
    """
    if seen is not None and seen != digest(stored):
        since = "somebody saved it since. " + (differs and say.joined(differs, "; "))
        raise BadInput.one(
            "seen", f"{what} as you opened it", sentence("store.save_again_have_yours", since=since)
        )


def digest(stored: Any) -> str:
    """A short mark of a document's content: a form carries it, so that a save on top of somebody else's is
    noticed.
    """
    return hashlib.sha256(json.dumps(stored, sort_keys=True, ensure_ascii=True).encode()).hexdigest()[:16]
