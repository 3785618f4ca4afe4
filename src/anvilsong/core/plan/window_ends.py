"""What goes wrong at the ends of a window, in plain words."""

from __future__ import annotations

from anvilsong.core.plan.bands import MACHINE_ENDS
from anvilsong.core.tables import Row, read_table


class End(Row):
    """What gives at an end: its key in the bands, what is seen there, and what helps where nothing fits."""

    key: str
    says: str
    nothing: str | None = None


class EndTable(Row):
    source: str
    end: tuple[End, ...]


_ENDS = {end.key: end for end in read_table("window_ends", EndTable).end}


def end_words(key: str) -> str:
    """What a welder sees past an end of a window.

    >>> end_words("no root")
    'no fusion at the root'
    """
    return _ENDS[key].says


def why_nothing(key: str) -> str:
    """Why no value satisfies, by what gives, and what else must move then."""
    return (_ENDS[key].nothing if key in _ENDS else None) or str(_ENDS[MACHINE_ENDS].nothing)
