"""What a cell of a table says: a number with its comma, a moment, and whether two values are the same."""

from __future__ import annotations

import re
from datetime import UTC, datetime, timedelta
from math import isclose
from typing import Any

from anvilsong.core.errors import BadInput
from anvilsong.core.words import sentence

_NUMBER = re.compile(r"[-−+]?\d+(?:[.,]\d+)?")
EARLIEST = datetime(1990, 1, 1)
MOMENTS = (
    "%Y-%m-%d %H:%M:%S",
    "%Y-%m-%d %H:%M",
    "%Y-%m-%dT%H:%M:%S",
    "%Y-%m-%d",
    "%d.%m.%Y %H:%M",
    "%d.%m.%Y",
)


def figure(name: str, text: str, *, comma: bool) -> str:
    """A number with its decimal comma as a point; one with a unit of its own stays as typed.

    Parameters
    ----------
    name : the field, for the error
    text : the cell
    comma : whether the table is known to write decimal commas

    Raises
    ------
    BadInput : a comma before three figures in a table of points, which may mean a thousand
    """
    if "," in text and _NUMBER.fullmatch(text):
        if not comma and re.fullmatch(r"[-−+]?\d{1,3},\d{3}", text):
            raise BadInput.one(name, text, sentence("store.comma_tells_nothing"))
        return text.replace(",", ".")
    return text


def is_same(one: Any, other: Any) -> bool:
    """Whether two values are the same to as many figures as a table has."""
    if isinstance(one, float) and isinstance(other, float):
        return isclose(one, other, rel_tol=1e-9)
    return bool(one == other)


def moment(text: str) -> datetime | None:
    """The moment a cell gives (UTC), None where it is empty.

    Raises
    ------
    BadInput : no date in a form that is read, before 1990 or later than tomorrow
    """
    if not text:
        return None
    for form in MOMENTS:
        try:
            read = datetime.strptime(text, form)
        except ValueError:
            continue
        if EARLIEST <= read <= datetime.now(UTC).replace(tzinfo=None) + timedelta(days=1):
            return read
    raise BadInput.one("when [UTC]", text[:40], sentence("store.moment_as"))
