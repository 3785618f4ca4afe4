"""Stored documents back as values of the core, forgiving: what cannot be read is None, and the reader says so."""

from __future__ import annotations

import hashlib
import json
from typing import Any, TypeVar

from pydantic import BaseModel, ValidationError

from anvilsong.store.models import Document

Model = TypeVar("Model", bound=BaseModel)


def document(value: BaseModel) -> Document:
    """A core value as plain JSON data."""
    return value.model_dump(mode="json", by_alias=True)


def readable(model: type[Model], stored: Any) -> Model | None:
    """The value a document stands for; None when it is damaged, or older than a rule it breaks."""
    try:
        return model.model_validate(stored)
    except (ValidationError, RecursionError):
        return None


def digest(stored: Any) -> str:
    """A short mark of a document's content: a form carries it, so that a save on top of somebody else's is noticed."""
    return hashlib.sha256(json.dumps(stored, sort_keys=True, ensure_ascii=True).encode()).hexdigest()[:16]
